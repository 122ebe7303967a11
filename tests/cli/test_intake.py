"""What a file holds, and changing what of it is used, from the command line."""

from __future__ import annotations

import json
from pathlib import Path

from cli.test_cli import refused, run
from helpers import write_sound
from media.made_media import Made
from zweistimme.store.document import Document


def test_a_file_is_shown_brought_in_and_changed(tmp_path: Path) -> None:
    source = Made(
        ".mkv", sound="flac", tracks=2, track_metadata=({"language": "fre"}, {"language": "eng"}),
        chapters=((0, 2_000, "Low water"),), metadata={"title": "Mole"},
    ).write(tmp_path)  # fmt: skip
    shown = json.loads(run("media", source, "--from", "en-GB", "--json").stdout)
    assert shown["proposed"] == "2"
    assert shown["chapters"] == [{"start_s": 0.0, "title": "Low water"}]
    assert "dialogue" in run("media", source).stdout
    project = tmp_path / "p"
    made = run("new", project, source, "--from", "en-GB", "--to", "de-DE")
    assert made.returncode == 0, made
    assert "sound 2 is taken for the dialogue" in made.stderr
    assert run("bring-in", project, "--sound", "1").returncode == 0
    assert run("bring-in", project, "--bed", write_sound(tmp_path / "bed.wav", 4.0)).returncode == 0
    with Document.open(project) as document:
        programme = document.project.programme
        assert programme is not None
        assert programme.sound.pick.tracks == (1,)
        assert programme.bed is not None
    assert run("bring-in", project, "--no-bed").returncode == 0
    assert run("listen", project).returncode == 0
    assert "Say what is to change" in refused("bring-in", project)
    assert "Give either a bed or --no-bed" in refused("bring-in", project, "--no-bed", "--bed", source)
    assert "there is no track 7" in refused("bring-in", project, "--sound", "7")
    assert "names no sound of a file" in refused("bring-in", project, "--sound", "left")
