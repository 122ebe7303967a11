"""A project as one file and back; packages a stranger sent; what of a folder can go; a folder that is moved away."""

from __future__ import annotations

import json
import random
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from demo_project import work_on
from helpers import project_with, speechlike, write_sound
from zweistimme.project import edits, line_edits
from zweistimme.project.errors import FormatError, MediaError, StoreError, ZweistimmeError
from zweistimme.project.model import Project
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.store.cleaning import removable, removed
from zweistimme.store.document import Document
from zweistimme.store.packing import MANIFEST, pack, unpack


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A project with a programme, two takes, an answer and something undone."""
    folder = tmp_path / "tide"
    with Document.create(folder, Project("Tide", "en-GB")) as document:
        bring_in(work_on(document), Intake(write_sound(tmp_path / "a.wav", 6.0)))
        given = project_with([(1.0, 2.0, "So."), (3.0, 4.0, "No.")], takes=[0.8, 0.9])
        version = given.versions["de-DE"]
        clips = [document.clips.put(speechlike(0.9, seed=seed)) for seed in (1, 2)]
        takes = {k: replace(t, clip=c) for (k, t), c in zip(version.takes.items(), clips, strict=True)}
        document.apply(
            "Lines",
            lambda p: replace(
                p, segments=given.segments, speakers=given.speakers, versions={"de-DE": replace(version, takes=takes)}
            ),
        )
        document.answers.put("ab" * 32, b'{"clip": "x"}')
        document.apply("Write", lambda p: line_edits.set_line_text(p, "de-DE", "s1", "Also."))
    return folder


def test_there_and_back_with_media(folder: Path, tmp_path: Path) -> None:
    assert pack(folder, tmp_path / "t.zweistimme", media=True) == ()
    (tmp_path / "a.wav").unlink()
    unpack(tmp_path / "t.zweistimme", tmp_path / "again")
    with Document.open(folder) as was, Document.open(tmp_path / "again") as now:
        assert now.id == was.id
        there = now.project.programme
        assert there is not None
        assert there.sound.path == str(tmp_path / "again" / "media" / "1" / "a.wav")
        assert Path(there.sound.path).is_file()
        moved = edits.move_media(was.project, was.project.programme.sound.path, there.sound.path)  # type: ignore[union-attr]
        assert now.project == moved
        assert now.answers.get("ab" * 32) == b'{"clip": "x"}'
        for take in now.project.versions["de-DE"].takes.values():
            assert (now.clips.get(take.clip) == was.clips.get(take.clip)).all()
        assert now.undo() == "Write"  # its history came along


def test_without_media_they_are_looked_for_where_they_were(folder: Path, tmp_path: Path) -> None:
    pack(folder, tmp_path / "t.zweistimme", media=False)
    unpack(tmp_path / "t.zweistimme", tmp_path / "again")
    with Document.open(tmp_path / "again") as now:
        assert now.project.programme is not None
        assert now.project.programme.sound.path == str(tmp_path / "a.wav")
    write_sound(tmp_path / "a.wav", 2.0)
    assert pack(folder, tmp_path / "t.zweistimme", media=True) == (tmp_path / "a.wav",)


def test_what_is_open_or_already_there_is_left_alone(folder: Path, tmp_path: Path) -> None:
    with Document.open(folder), pytest.raises(StoreError, match="is open already"):
        pack(folder, tmp_path / "t.zweistimme", media=False)
    pack(folder, tmp_path / "t.zweistimme", media=False)
    with pytest.raises(StoreError, match="already there and not empty"):
        unpack(tmp_path / "t.zweistimme", folder)


def forged(package: Path, change: Callable[[dict[str, bytes], dict], None]) -> Path:
    """A package whose files and manifest somebody changed."""
    with zipfile.ZipFile(package) as source:
        files = {name: source.read(name) for name in source.namelist()}
    manifest = json.loads(files.pop(MANIFEST))
    change(files, manifest)
    target = package.with_name("forged.zweistimme")
    with zipfile.ZipFile(target, "w") as sink:
        for name, data in files.items():
            sink.writestr(name, data)
        sink.writestr(MANIFEST, json.dumps(manifest))
    return target


def _outside(files: dict[str, bytes], manifest: dict) -> None:
    files["clips/../../evil.flac"] = b"x"
    manifest["files"].append({"name": "clips/../../evil.flac", "size_bytes": 1, "sha256": "x"})


def _dots(files: dict[str, bytes], manifest: dict) -> None:
    files["media/1/.."] = b"x"
    manifest["files"].append({"name": "media/1/..", "size_bytes": 1, "sha256": "x"})


def _unlisted(files: dict[str, bytes], _manifest: dict) -> None:
    files["clips/00/more.flac"] = b"x"


def _damaged(files: dict[str, bytes], _manifest: dict) -> None:
    name = next(name for name in files if name.startswith("clips/"))
    files[name] = files[name][:-1] + bytes([files[name][-1] ^ 1])


def _larger(_files: dict[str, bytes], manifest: dict) -> None:
    manifest["files"][0]["size_bytes"] = 10**18


def _newer(_files: dict[str, bytes], manifest: dict) -> None:
    manifest["version"] = 99


def _no_database(files: dict[str, bytes], manifest: dict) -> None:
    del files["project.sqlite"]
    manifest["files"] = [one for one in manifest["files"] if one["name"] != "project.sqlite"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (_outside, "no part of a project"), (_dots, "no part of a project"), (_unlisted, "does not hold what its"),
        (_damaged, "is damaged"), (_larger, "are free"), (_newer, "newer Zweistimme"), (_no_database, "does not hold"),
    ],
)  # fmt: skip
def test_a_forged_package_is_refused_and_leaves_nothing(
    folder: Path, tmp_path: Path, change: Callable[[dict[str, bytes], dict], None], words: str
) -> None:
    pack(folder, tmp_path / "t.zweistimme", media=False)
    bad = forged(tmp_path / "t.zweistimme", change)
    before = sorted(tmp_path.iterdir())
    with pytest.raises(ZweistimmeError, match=words):
        unpack(bad, tmp_path / "again")
    assert sorted(tmp_path.iterdir()) == before


def test_spoilt_packages_are_whole_or_refused_in_a_sentence(folder: Path, tmp_path: Path) -> None:
    pack(folder, tmp_path / "t.zweistimme", media=False)
    whole, dice, refused = (tmp_path / "t.zweistimme").read_bytes(), random.Random(5), 0
    for number in range(60):
        data = bytearray(whole[: dice.randrange(len(whole))] if number % 4 == 0 else whole)
        for _ in range(dice.randint(1, 8)):
            data[dice.randrange(len(data))] = dice.randrange(256)
        (tmp_path / "bad.zweistimme").write_bytes(data)
        try:
            unpack(tmp_path / "bad.zweistimme", tmp_path / f"n{number}")
        except (FormatError, StoreError):
            refused += 1
            assert not (tmp_path / f"n{number}").exists()
        else:
            Document.open(tmp_path / f"n{number}").close()
    assert refused > 40
    assert not list(tmp_path.glob(".writing-*"))
    (tmp_path / "x.zweistimme").write_bytes(b"PK\x03\x04")
    with pytest.raises(FormatError, match="no packed project"):
        unpack(tmp_path / "x.zweistimme", tmp_path / "n")


def test_only_clips_nothing_speaks_of_can_go(folder: Path) -> None:
    with Document.open(folder) as document:
        document.clips.put(speechlike(0.3, seed=9))
        document.apply("Remove", lambda p: edits.remove_version(p, "de-DE"))
    clips, cache = removable(folder)
    assert [len(clips.files), len(cache.files) > 0] == [1, True]  # undo would want the takes back
    assert removed(clips) > 0
    assert removed(cache) > 0
    with Document.open(folder) as document:
        document.undo()
        for take in document.project.versions["de-DE"].takes.values():
            assert len(document.clips.get(take.clip))


def test_a_folder_that_is_moved_away_is_noticed(folder: Path, tmp_path: Path) -> None:
    with Document.open(folder) as document:
        folder.rename(tmp_path / "moved")
        for keep in (
            lambda: document.clips.put(speechlike(0.2)),
            lambda: document.answers.put("cd" * 32, b"{}"),
            lambda: document.cache,
        ):  # fmt: skip
            with pytest.raises(StoreError, match="was moved or renamed while it was open"):
                keep()
        assert not folder.exists()
    with Document.open(tmp_path / "moved") as document:
        assert document.project.versions["de-DE"].lines["s1"].text == "Also."


def test_what_was_put_in_the_place_of_the_programme_is_not_handed_over(folder: Path, tmp_path: Path) -> None:
    from zweistimme.stages.fit import fit
    from zweistimme.stages.handover import hand_over

    with Document.open(folder) as document:
        fit(work_on(document), "de-DE")
        hand_over(work_on(document), ["de-DE"], tmp_path / "out")
        write_sound(tmp_path / "a.wav", 6.5)
        document.apply("Write", lambda p: replace(p, title="Another"))
        with pytest.raises(MediaError, match="another file than the one that was brought in"):
            hand_over(work_on(document), ["de-DE"], tmp_path / "other")
        assert list((tmp_path / "other").iterdir()) == []  # nothing is left of what was begun
