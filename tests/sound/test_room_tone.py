"""Room tone cannot be told from the pauses it was grown from, and never comes back."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import lfilter

from zweistimme.sound.long_spectrum import frame_powers
from zweistimme.sound.room_tone import HOP, GrownTone, room_tone_of

RATE = 48_000
SECONDS = 24


def place(seed: int, seconds: float = SECONDS) -> np.ndarray:
    """A place in stereo: coloured noise with a hum, more of it on one side, slowly louder and softer."""
    random = np.random.default_rng(seed)
    count = round(seconds * RATE)
    colour = random.uniform(0.5, 0.97)
    middle, left, right = lfilter([1.0], [1.0, -colour], random.standard_normal((3, count)), axis=1)
    shared = random.uniform(0.2, 0.9)
    both = np.stack((shared * middle + (1 - shared) * left, 0.7 * (shared * middle + (1 - shared) * right)))
    both += random.uniform(0.0, 0.5) * np.sin(2 * np.pi * 50 * np.arange(count) / RATE)
    slow = np.repeat(lfilter([1.0], [1.0, -0.9], random.standard_normal(count // HOP + 2)), HOP)[:count]
    swell = 10 ** (random.uniform(0.0, 1.0) * slow / 20)
    return (0.003 * both * swell).astype(np.float32)


@pytest.mark.parametrize("seed", range(10))
def test_level_and_spectrum_are_its_source_s(seed: int) -> None:
    source = place(seed)
    pauses = [source[:, k : k + RATE] for k in range(0, source.shape[1], RATE + RATE // 3)]
    tone = room_tone_of(pauses)
    assert tone is not None
    grown = GrownTone(tone, 2 * SECONDS * RATE).read(0, SECONDS * RATE)
    heard = np.concatenate(pauses, axis=1)
    for side in (0, 1):
        was, now = (frame_powers(one[side]).mean(axis=0) for one in (heard, grown))
        apart_db = 10 * np.log10(now / was)
        assert np.abs(apart_db).max() < 1.5
        assert abs(10 * np.log10(now.sum() / was.sum())) < 1.0
    assert float(np.corrcoef(grown)[0, 1]) == pytest.approx(float(np.corrcoef(heard)[0, 1]), abs=0.1)


def test_it_goes_up_and_down_as_its_source_does() -> None:
    def swing_db(sound: np.ndarray) -> float:
        frames = sound[0][: len(sound[0]) // HOP * HOP].reshape(-1, HOP)
        return float((10 * np.log10((frames**2).mean(axis=1))).std())

    random = np.random.default_rng(5)
    steady = 0.003 * random.standard_normal((2, SECONDS * RATE))
    slow = lfilter([1.0], [1.0, -0.95], random.standard_normal(SECONDS * RATE // HOP + 2))
    swelling = steady * 10 ** (np.repeat(0.7 * slow, HOP)[: SECONDS * RATE] / 20)
    for source in (steady, swelling):
        tone = room_tone_of([source.astype(np.float32)])
        assert tone is not None
        grown = GrownTone(tone, SECONDS * RATE).read(0, SECONDS * RATE)
        assert swing_db(grown) == pytest.approx(swing_db(source), rel=0.35, abs=0.1)


def test_nothing_comes_back() -> None:
    tone = room_tone_of([place(3)])
    assert tone is not None
    sound = GrownTone(tone, 60 * RATE).read(0, 40 * RATE)[0].astype(np.float64)
    white = np.diff(sound)
    spectrum = np.fft.rfft(white, 2 * len(white))
    again = np.fft.irfft(np.abs(spectrum) ** 2)[: len(white)] / float(white @ white)
    assert np.abs(again[RATE // 2 :]).max() < 0.1


def test_any_stretch_is_the_same_however_it_is_asked_for() -> None:
    tone = room_tone_of([place(4, 3.0)])
    assert tone is not None
    grown = GrownTone(tone, 20 * RATE)
    whole = grown.read(0, 10 * RATE)
    for start, count in ((0, 1), (HOP - 1, 2), (12_345, 60_000), (3 * RATE, HOP)):
        assert grown.read(start, count) == pytest.approx(whole[:, start : start + count], abs=1e-7)


def test_of_too_little_no_place_is_told() -> None:
    assert room_tone_of([]) is None
    assert room_tone_of([place(1, 0.3)]) is None
    one = room_tone_of([place(1, 2.0)[:1]])
    assert one is not None
    left, right = GrownTone(one, RATE).read(0, RATE)
    assert left == pytest.approx(right, abs=1e-6)
