"""The spectrum of a voice over a long time, and the filter that brings one to another."""

from __future__ import annotations

import numpy as np
import pytest

from helpers import speechlike
from zweistimme.sound.arrays import Mono
from zweistimme.sound.long_spectrum import (
    BANDS_HZ,
    NOTHING,
    BandPowers,
    band_curve_db,
    correction_db,
    filter_bins_hz,
    filtered,
    frame_powers,
    mean_powers,
    minimum_phase,
    spoken,
    together,
)

RATE = 48_000


def noise(seconds: float, seed: int = 0) -> Mono:
    return (0.1 * np.random.default_rng(seed).standard_normal(round(seconds * RATE))).astype(np.float32)


def bands_of(samples: Mono) -> BandPowers:
    powers = frame_powers(samples)
    return mean_powers(powers[spoken(powers)])


def test_a_tone_is_in_its_band_with_its_power() -> None:
    tone = (0.5 * np.sin(2 * np.pi * 1_000 * np.arange(2 * RATE) / RATE)).astype(np.float32)
    levels = bands_of(tone).levels_db()
    assert BANDS_HZ[int(levels.argmax())] == pytest.approx(1_000)
    assert levels.max() == pytest.approx(10 * np.log10(0.125), abs=0.1)
    assert np.sort(levels)[-2] < levels.max() - 30


def test_pauses_say_nothing_of_a_voice() -> None:
    voice = noise(2.0)
    with_pauses = np.concatenate((voice, np.zeros(3 * RATE, np.float32), voice))
    assert bands_of(with_pauses).levels_db() == pytest.approx(bands_of(voice).levels_db(), abs=0.5)
    assert bands_of(np.zeros(RATE, np.float32)).frames == 0
    assert bands_of(np.zeros(10, np.float32)) is NOTHING


def test_several_stretches_count_by_their_frames() -> None:
    one, two = BandPowers(np.ones(len(BANDS_HZ)), 30), BandPowers(np.full(len(BANDS_HZ), 4.0), 10)
    assert together([one, two]).powers == pytest.approx(np.full(len(BANDS_HZ), 1.75))
    assert together([]) is NOTHING


@pytest.mark.parametrize("seed", range(5))
def test_a_voice_gets_the_tone_that_is_wanted(seed: int) -> None:
    wanted_db = np.convolve(np.random.default_rng(seed).uniform(-9, 9, len(BANDS_HZ)), np.full(5, 0.2), "same")
    voice = noise(8.0, seed)
    coloured = filtered(voice, minimum_phase(band_curve_db(wanted_db, filter_bins_hz())))
    gains = correction_db(bands_of(coloured), bands_of(voice), NOTHING, 6.0)
    made = filtered(voice, minimum_phase(band_curve_db(gains, filter_bins_hz())))
    apart = bands_of(made).levels_db() - bands_of(coloured).levels_db()
    assert np.abs(apart - np.median(apart)).max() < 2.0


def test_no_band_is_changed_by_more_than_it_may() -> None:
    low = filtered(noise(4.0), minimum_phase(np.where(filter_bins_hz() > 1_000, -30.0, 0.0)))
    gains = correction_db(bands_of(low), bands_of(noise(4.0)), NOTHING, 6.0)
    assert np.abs(gains).max() <= 6.0
    assert gains[:10].mean() - gains[12:20].mean() > 6.0


def test_what_is_drowned_or_too_low_tells_nothing() -> None:
    voice, wanted = bands_of(noise(4.0)), bands_of(speechlike(4.0))
    drowned = BandPowers(wanted.powers * 2, 1)
    assert not correction_db(wanted, voice, drowned, 6.0).any()
    assert not correction_db(wanted, voice, NOTHING, 6.0, from_hz=500.0)[:5].any()
    assert not correction_db(NOTHING, voice, NOTHING, 6.0).any()


def test_a_filter_delays_nothing_and_keeps_the_length() -> None:
    click = np.zeros(4_800, np.float32)
    click[100] = 1.0
    made = filtered(click, minimum_phase(band_curve_db(np.linspace(4, -4, len(BANDS_HZ)), filter_bins_hz())))
    assert made.shape == click.shape
    assert int(np.abs(made).argmax()) == 100
    assert not np.abs(made[:100]).max() > 1e-6
    assert filtered(click[:0], made[:10]).shape == (0,)
