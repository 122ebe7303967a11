"""What a voice is like, measured: against voices whose pitch, tract, breath and pace are known, for they were made."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import soxr
from scipy.stats import spearmanr

from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.features import RATE
from zweistimme.sound.voice_traits import voice_traits
from zweistimme.standin.voice import VOICES, BundledVoice, speak

SAID = {
    "de-DE": "Jeden Abend liegt der Hafen still, und die Boote kommen mit der Flut herein.",
    "es-ES": "Cada tarde el puerto queda en silencio, y los barcos entran con la marea.",
}


def heard(voice: BundledVoice, tag: str = "de-DE", direction: str = "") -> np.ndarray:
    samples = speak(SAID[tag], tag, voice, direction=direction).samples
    return soxr.resample(samples, 48_000, RATE, "HQ").astype(np.float32)


def traits_of(voice: BundledVoice, tag: str = "de-DE") -> VoiceTraits:
    found = voice_traits(heard(voice, tag))
    assert found is not None
    return found


@pytest.fixture(scope="module")
def measured() -> dict[str, list[VoiceTraits]]:
    return {tag: [traits_of(voice, tag) for voice in VOICES] for tag in SAID}


@pytest.mark.parametrize("tag", SAID)
def test_the_tract_is_within_a_twentieth_and_in_order(measured: dict[str, list[VoiceTraits]], tag: str) -> None:
    made = [voice.larynx.scale for voice in VOICES]
    found = [one.tract for one in measured[tag]]
    assert np.abs(np.log(np.array(found) / made)).max() < 0.05
    assert spearmanr(made, found).statistic > 0.9


@pytest.mark.parametrize("tag", SAID)
def test_pitch_and_breath_are_in_order(measured: dict[str, list[VoiceTraits]], tag: str) -> None:
    assert spearmanr([v.larynx.pitch_hz for v in VOICES], [one.pitch_hz for one in measured[tag]]).statistic > 0.97
    breathy = {"edda", "gunda", "brandt"}
    harmonic = {voice.id: one.harmonic_db for voice, one in zip(VOICES, measured[tag], strict=True)}
    assert set(sorted(harmonic, key=harmonic.__getitem__)[:3]) == breathy


def test_the_level_changes_nothing() -> None:
    loud = heard(VOICES[0])
    there, quiet = voice_traits(loud), voice_traits(loud * np.float32(0.02))
    assert there is not None
    assert quiet is not None
    assert quiet.tract == pytest.approx(there.tract, abs=0.01)
    assert quiet.bright_db == pytest.approx(there.bright_db, abs=0.1)
    assert quiet.pitch_hz == there.pitch_hz


def test_a_quicker_voice_has_more_peaks_in_a_second() -> None:
    slow, quick = (traits_of(replace(VOICES[3], pace=pace)) for pace in (0.8, 1.25))
    assert quick.pace > 1.2 * slow.pace


def test_a_whisper_has_no_pitch_and_still_a_tract() -> None:
    found = voice_traits(heard(VOICES[0], direction="whispering"))
    assert found is not None
    assert found.pitch_hz is None
    assert 0.9 < found.tract < 1.35


@pytest.mark.parametrize("seconds", [0.0, 0.1])
def test_of_too_little_nothing_is_said(seconds: float) -> None:
    assert voice_traits(np.zeros(round(seconds * RATE), dtype=np.float32)) is None
    assert voice_traits(heard(VOICES[0])[: round(seconds * RATE)]) is None


def test_of_silence_nothing_is_said() -> None:
    assert voice_traits(np.zeros(3 * RATE, dtype=np.float32)) is None
