"""A hand-over into the folder of an earlier one: what is right stays, what has changed is made, nothing is half."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest

from demo_project import work_on
from zweistimme.project.delivery_edits import set_mix
from zweistimme.project.line_edits import set_line_text
from zweistimme.stages.fit import fit
from zweistimme.stages.handover import MANIFEST, hand_over
from zweistimme.store.document import Document


def stamps(folder: Path) -> dict[str, int]:
    return {path.name: path.stat().st_mtime_ns for path in folder.iterdir()}


def test_only_what_changed_is_written_again(demo: Document, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out, tags = tmp_path / "out", list(demo.project.versions)
    files = hand_over(work_on(demo), tags, out)
    before, listed = stamps(out), json.loads((out / MANIFEST).read_text())
    assert sorted(path.name for path in files) == sorted(before)
    hand_over(work_on(demo), tags, out)
    again = stamps(out)
    source = {name for name in before if f".{demo.project.source_tag}." in name}
    assert {name for name in before if again[name] != before[name]} == source | {MANIFEST}
    assert json.loads((out / MANIFEST).read_text())["files"] == listed["files"]

    segment = demo.project.segments[3].id
    demo.apply("Write", lambda p: set_line_text(p, "es-ES", segment, "Otra cosa."))
    fit(work_on(demo), "es-ES")
    hand_over(work_on(demo), tags, out)
    third = stamps(out)
    same = {name for name in before if third[name] == again[name]}
    assert {name for name in before if ".de-DE." in name} == same  # one video carries all, so it was made again

    mix = next(out.glob("*.de-DE.mix.wav"))
    mix.write_bytes(mix.read_bytes()[:-4] + b"\1\2\3\4")  # somebody has changed a file
    hand_over(work_on(demo), tags, out)
    assert stamps(out)[mix.name] != third[mix.name]

    monkeypatch.setattr("zweistimme.stages.handover.deliver.mux_copy", broken)
    demo.apply("Mix", lambda p: set_mix(p, replace(p.mix, loudness_lufs=-20.0)))
    whole = stamps(out)
    with pytest.raises(OSError, match="No space left"):
        hand_over(work_on(demo), tags, out)
    assert stamps(out) == whole  # the earlier hand-over is still whole


def broken(*_: object) -> str:
    raise OSError(28, "No space left on device")


def test_fitted_clips_that_no_placement_has_go(demo: Document, tmp_path: Path) -> None:
    hand_over(work_on(demo), ["de-DE"], tmp_path / "out")
    fitted = demo.cache / "fitted"
    (fitted / "0123456789abcdef.npy").write_bytes(b"x" * 100)
    there = len(list(fitted.iterdir()))
    hand_over(work_on(demo), ["de-DE"], tmp_path / "out")
    assert len(list(fitted.iterdir())) == there - 1
