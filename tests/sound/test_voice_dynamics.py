"""Sibilants held, loud moments brought nearer: by what was measured of another voice."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from helpers import speechlike
from zweistimme.sound.arrays import Mono
from zweistimme.sound.voice_dynamics import Dynamics, compressed, de_essed, dynamics_of, joined

RATE = 48_000


def hissing(louder: float) -> Mono:
    """A voice of low tones with a sharp hiss of a tenth of a second in every half."""
    tones = np.arange(4 * RATE) / RATE
    voice = 0.1 * np.sin(2 * np.pi * 200 * tones) + 0.05 * np.sin(2 * np.pi * 900 * tones)
    noise = sosfilt(
        butter(4, (5_500, 9_000), "band", fs=RATE, output="sos"), np.random.default_rng(1).standard_normal(4 * RATE)
    )
    for start in range(0, 4 * RATE, RATE // 2):
        voice[start : start + RATE // 10] += louder * noise[start : start + RATE // 10]
    return voice.astype(np.float32)


def known(samples: Mono) -> Dynamics:
    found = dynamics_of(samples)
    assert found is not None
    return found


def test_sharp_moments_come_down_to_the_other_voice_s_and_nothing_else_does() -> None:
    sharp, wanted_db = hissing(0.4), known(hissing(0.2)).sibilance_db
    held = de_essed(sharp, wanted_db)
    assert known(sharp).sibilance_db > wanted_db + 5
    assert known(held).sibilance_db == pytest.approx(wanted_db, abs=1.0)
    between = slice(RATE // 4, RATE // 2 - RATE // 50)
    assert held[between] == pytest.approx(sharp[between], abs=1e-4)


def test_a_voice_that_is_not_sharp_is_left_as_it_is() -> None:
    voice = hissing(0.02)
    assert de_essed(voice, known(hissing(0.2)).sibilance_db) is voice


def test_no_more_is_taken_than_eight_decibels() -> None:
    held = de_essed(hissing(0.4), -60.0)
    assert known(held).sibilance_db > known(hissing(0.4)).sibilance_db - 8.5


@pytest.mark.parametrize("slope", [0.5, 0.7, 0.9])
def test_loud_moments_come_nearer_and_keep_their_shape(slope: float) -> None:
    voice = hissing(0.0)
    swell = np.where(np.arange(len(voice)) // (RATE // 2) % 3 == 0, 3.0, 1.0).astype(np.float32)
    made, before, after = (lambda one: (one, known(voice * swell), known(one)))(compressed(voice * swell, slope))
    assert after.spread_db == pytest.approx(before.spread_db * slope, abs=1.0)
    assert made.shape == voice.shape
    assert compressed(voice, 1.0) is voice


def test_gains_never_jump() -> None:
    voice = hissing(0.4)
    factor = compressed(np.abs(voice) + 0.01, 0.5) / (np.abs(voice) + 0.01)
    assert np.abs(np.diff(factor)).max() < 0.01


def test_silence_has_no_dynamics_and_several_stretches_have_their_mean() -> None:
    assert dynamics_of(np.zeros(RATE, np.float32)) is None
    assert dynamics_of(np.zeros(0, np.float32)) is None
    assert not len(de_essed(np.zeros(0, np.float32), 0.0))
    one, two = Dynamics(-20.0, 4.0, -10.0, 300), Dynamics(-30.0, 8.0, -6.0, 100)
    assert joined([one, two]) == Dynamics(-22.5, 5.0, -9.0, 400)
    assert joined([]) is None
    assert known(speechlike(2.0)).frames > 100
