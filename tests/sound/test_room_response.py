"""A generated room rings as long as it was told to, and is the same everywhere."""

from __future__ import annotations

import numpy as np
import pytest

from zweistimme.sound.room_response import (
    LEAST_DECAY_S,
    Room,
    reach_samples,
    reflected,
    response_of,
    rounded_room,
    rung,
)

RATE = 48_000


def fall_s(response: np.ndarray) -> float:
    """The time of a fall by 60 dB, from 5 to 25 dB of the backward integral (ISO 3382-1)."""
    left = np.cumsum((response**2)[::-1])[::-1]
    levels = 10 * np.log10(left / left[0] + 1e-12)
    first, last = int(np.argmax(levels < -5)), int(np.argmax(levels < -25))
    return 3 * (last - first) / RATE


@pytest.mark.parametrize("seconds", [0.25, 0.4, 0.6, 0.9, 1.4, 2.0])
def test_it_rings_as_long_as_wanted(seconds: float) -> None:
    late = response_of(Room((seconds,) * 4)).late
    for side in late:
        assert fall_s(side) == pytest.approx(seconds, rel=0.15)
    assert abs(float(np.corrcoef(late)[0, 1])) < 0.1


def test_octaves_ring_as_each_was_measured() -> None:
    late = response_of(Room((1.2, 0.8, 0.5, 0.3))).late[0]
    spectrum = np.fft.rfft(late)
    hertz = np.fft.rfftfreq(len(late), 1 / RATE)
    for low, high, seconds in ((400, 800, 1.2), (800, 1_600, 0.8), (1_600, 3_200, 0.5), (3_200, 6_400, 0.3)):
        band = np.fft.irfft(np.where((hertz >= low) & (hertz < high), spectrum, 0), len(late))
        assert fall_s(band) == pytest.approx(seconds, rel=0.25)


def test_a_room_that_rings_longer_is_heard_more() -> None:
    levels = [float((response_of(Room((s,) * 4)).late ** 2).sum()) for s in (0.3, 0.6, 1.2)]
    assert levels[0] < levels[1] < levels[2]
    assert levels[1] == pytest.approx(2 * levels[0], rel=0.1)


def test_reflections_are_early_and_the_whole_is_both() -> None:
    response = response_of(Room((0.5,) * 4))
    click = np.zeros(RATE, np.float32)
    click[0] = 1.0
    early, whole = reflected(click, response), rung(click, response)
    assert not early[:, round(0.05 * RATE) :].any()
    reach = reach_samples(response)
    assert np.abs(whole[:, :reach] - early[:, :reach] - response.late[:, :RATE]).max() < 1e-6
    assert np.array_equal(reflected(click, response), early)


def test_a_little_more_speech_makes_no_other_room() -> None:
    assert rounded_room((0.5, 0.51, 0.49, 0.5)) == rounded_room((0.505, 0.512, 0.495, 0.498))
    assert not Room((LEAST_DECAY_S * 0.8,) * 4).is_heard
    assert rounded_room((0.5,) * 4).is_heard
