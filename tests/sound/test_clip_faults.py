"""What is wrong with the sound of a clip: faults planted on purpose, and none where there are none."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest

from zweistimme.sound.activity import clip_speech
from zweistimme.sound.clip_faults import ClipFault, clip_faults
from zweistimme.standin.voice import VOICES, speak

RATE = 48_000


@lru_cache
def clean(voice: int = 0) -> np.ndarray:
    """A take with a quiet room under it."""
    samples = speak("Nadie lo ha visto desde ayer.", "es-ES", VOICES[voice]).samples.astype(np.float64)
    samples[:96] *= np.linspace(0, 1, 96)
    room = np.random.default_rng(voice).standard_normal(len(samples) + 10_000) * 10**-3.6
    return np.asarray(np.pad(samples, 5_000) + room, dtype=np.float32)


def faults_of(samples: np.ndarray) -> set[ClipFault]:
    speech = clip_speech(samples.astype(np.float32), RATE)
    return {one.fault for one in clip_faults(samples.astype(np.float32), RATE, (speech.start, speech.end))}


@pytest.mark.parametrize("voice", range(len(VOICES)))
@pytest.mark.parametrize("gain", [1.0, 0.1])
def test_a_clean_take_has_no_faults_at_any_level(voice: int, gain: float) -> None:
    assert faults_of(clean(voice) * np.float32(gain)) == set()


def test_silence_is_silent_and_nothing_else() -> None:
    assert faults_of(np.zeros(RATE)) == {ClipFault.SILENT}


def test_clipping_clicks_noise_and_hum_are_heard() -> None:
    one, random = clean(), np.random.default_rng(4)
    top, times = 0.3 * np.abs(one).max(), np.arange(len(one)) / RATE
    assert ClipFault.CLIPPED in faults_of(np.clip(one, -top, top))
    clicked = one.copy()
    clicked[40_000:40_003] += 0.7
    assert faults_of(clicked) == {ClipFault.CLICK}
    assert ClipFault.NOISE in faults_of(one + 0.02 * random.standard_normal(len(one)))
    assert ClipFault.HUM in faults_of(one + 0.01 * sum(np.sin(2 * np.pi * 50 * h * times) / h for h in (1, 2, 3, 4)))


def test_cut_edges_are_heard_and_said_where() -> None:
    one = clean()
    speech = clip_speech(one, RATE)
    loud = speech.start + int(np.argmax(np.abs(one[speech.start : speech.end]) > 0.5 * np.abs(one).max())) + 300
    assert ClipFault.CUT_START in faults_of(one[loud:])
    found = clip_faults(one[:loud], RATE, (speech.start, loud))
    assert [(f.fault, f.at_samples > loud - 1_000) for f in found] == [(ClipFault.CUT_END, True)]


def test_breath_before_the_first_word_is_heard() -> None:
    one, count = clean(), RATE // 4
    speech = clip_speech(one, RATE)
    breath = np.random.default_rng(2).standard_normal(count) * np.hanning(count) * 0.012
    quiet = np.zeros(2_400)
    assert ClipFault.BREATH in faults_of(np.concatenate((quiet, breath, quiet, one[speech.start :])))
