"""Cuts of a picture are found to the picture; what moves, flashes, fades and shakes is none."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from zweistimme.media.picture_cuts import picture_cuts

RATE = 25
SIZE = (160, 90)


def shot(seed: int, count: int) -> list[np.ndarray]:
    """Pictures of a place in which something moves through and the camera shakes."""
    random = np.random.default_rng(seed)
    width, height = SIZE
    low = random.integers(20, 200, 3)
    ground = np.kron(random.integers(-30, 30, (9, 16, 1)), np.ones((10, 10, 1))) + low
    pictures = []
    for k in range(count):
        one = np.roll(ground, (int(random.integers(-2, 3)), int(random.integers(-2, 3))), axis=(0, 1)).copy()
        left = (k * 3) % (width - 20)
        one[30:60, left : left + 20] = 255 - low
        pictures.append(np.clip(one + random.normal(0, 4, one.shape), 0, 255).astype(np.uint8))
    assert height == 90
    return pictures


def written(path: Path, pictures: list[np.ndarray], keys_every: int = 50) -> Path:
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=RATE)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.gop_size = keys_every
        stream.bit_rate = 2_000_000
        stream.time_base = Fraction(1, RATE)
        for one in pictures:
            out.mux(stream.encode(av.VideoFrame.from_ndarray(one, format="rgb24")))
        out.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("keys_every", [12, 50, 250])
def test_each_cut_is_found_to_the_picture_and_nothing_else(keys_every: int, tmp_path: Path) -> None:
    lengths = [40, 63, 12, 110, 55, 90, 31]
    pictures = [one for seed, count in enumerate(lengths) for one in shot(seed, count)]
    wanted = [int(at / RATE * 1e6) for at in np.cumsum(lengths)[:-1]]
    found = picture_cuts(written(tmp_path / "a.mp4", pictures, keys_every))
    assert found == pytest.approx(wanted, abs=1_000)


def test_what_moves_flashes_or_fades_is_no_cut(tmp_path: Path) -> None:
    pictures = shot(3, 150)
    for k in (40, 41):
        pictures[k] = np.full_like(pictures[k], 250)
    fade = [np.clip(one * (1 - k / 50), 0, 255).astype(np.uint8) for k, one in enumerate(shot(3, 50))]
    assert picture_cuts(written(tmp_path / "a.mp4", pictures + fade, 25)) == []


def test_without_a_picture_there_are_none(tmp_path: Path, sound_only: Callable[[Path], Path]) -> None:
    assert picture_cuts(sound_only(tmp_path / "a.wav")) == []


@pytest.fixture
def sound_only() -> Callable[[Path], Path]:
    from helpers import write_sound

    return lambda path: write_sound(path, 1.0)


def test_how_far_it_is_is_told_and_a_person_can_stop_it(tmp_path: Path) -> None:
    told: list[float] = []
    file = written(tmp_path / "a.mp4", shot(1, 60) + shot(2, 60))
    picture_cuts(file, told.append)
    assert told == sorted(told)
    assert told[-1] == 1.0

    def stop(_share: float) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        picture_cuts(file, stop)
