"""Cuts of a picture are found to the picture; what moves, flashes, fades and shakes is none."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from helpers import write_sound
from moving_pictures import CUTS_US, LENGTHS, RATE, film, shot, shots
from zweistimme.media import picture_cuts as cuts_file
from zweistimme.media.picture_cuts import CutsSoFar, picture_cuts


@pytest.mark.parametrize("keys_every", [1, 12, 50, 250])
def test_each_cut_is_found_to_the_picture_and_nothing_else(keys_every: int, tmp_path: Path) -> None:
    found = picture_cuts(film(tmp_path / "a.mp4", shots(), keys_every))
    assert found == pytest.approx(CUTS_US, abs=1_000)


def test_what_moves_flashes_or_fades_is_no_cut(tmp_path: Path) -> None:
    pictures = shot(3, 150)
    for k in (40, 41):
        pictures[k] = np.full_like(pictures[k], 250)
    fade = [np.clip(one * (1 - k / 50), 0, 255).astype(np.uint8) for k, one in enumerate(shot(3, 50))]
    assert picture_cuts(film(tmp_path / "a.mp4", pictures + fade, 25)) == []


def test_without_a_picture_there_are_none(tmp_path: Path) -> None:
    assert picture_cuts(write_sound(tmp_path / "a.wav", 1.0)) == []


def test_how_far_it_is_is_told_and_a_person_can_stop_it(tmp_path: Path) -> None:
    told: list[float] = []
    file = film(tmp_path / "a.mp4", shot(1, 60) + shot(2, 60))
    picture_cuts(file, told.append)
    assert told == sorted(told)
    assert told[-1] == 1.0

    def stop(_share: float) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        picture_cuts(file, stop)


@pytest.mark.parametrize("keys_every", [1, 40, 400])
def test_where_it_was_cut_short_it_goes_on(keys_every: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cuts_file, "_KEPT_EVERY_S", 2.0)
    monkeypatch.setattr(cuts_file, "_MOST_STRETCH_S", 3.0)
    file = film(tmp_path / "a.mp4", shots(), keys_every)
    kept: list[CutsSoFar] = []
    whole = picture_cuts(file, keep=kept.append)
    assert whole == pytest.approx(CUTS_US, abs=1_000)
    assert bool(kept) is (keys_every < 400), "between two key frames nobody can go on"
    for one in kept:
        told: list[float] = []
        assert picture_cuts(file, told.append, one) == whole
        assert told[0] * sum(LENGTHS) / RATE >= one.until_s - 0.1, "what is known is not looked at again"


def test_a_stretch_of_any_length_is_looked_into_piece_by_piece(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = film(tmp_path / "a.mp4", shots(), 400)
    monkeypatch.setattr(cuts_file, "_MOST_HELD", 100)
    assert picture_cuts(file) == pytest.approx(CUTS_US, abs=1_000)


def test_a_damaged_place_hides_no_cut_elsewhere(tmp_path: Path) -> None:
    file = film(tmp_path / "a.mkv", shots(), 12)
    data = bytearray(file.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 1_500] = np.random.default_rng(1).bytes(1_500)
    file.write_bytes(data)
    found = np.array(picture_cuts(file))
    near = [np.abs(found - at_us).min() < 1_000 for at_us in CUTS_US]
    assert sum(near) >= len(CUTS_US) - 2
    assert near[0]
    assert near[-1]


def test_cuts_of_joined_recordings_are_where_the_programme_has_them(tmp_path: Path) -> None:
    halves = (shots()[:225], shots()[225:])
    parts = [film(tmp_path / f"{o}.ts", half, 25, origin_s=o) for o, half in zip((36_000, 60), halves, strict=True)]
    joined = tmp_path / "joined.ts"
    joined.write_bytes(b"".join(part.read_bytes() for part in parts))
    found = picture_cuts(joined, length_s=sum(LENGTHS) / RATE)
    assert found == pytest.approx(CUTS_US, abs=45_000), "a joint may lie a picture off"
