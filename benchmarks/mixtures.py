"""Programmes made of recordings of people: one behind the other under a condition, with a script that has sentences
nobody says, and speech that the script has not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import soxr
from scipy.signal import butter, sosfiltfilt

from benchmarks.recordings import RATE, Recording

CONDITIONS = ("clean", "20 dB", "10 dB", "telephone", "room", "slower", "faster", "soft")
_PACE = {"slower": 0.88, "faster": 1.15}
_NOISE_DB = {"20 dB": 20.0, "10 dB": 10.0}


@dataclass(frozen=True, slots=True)
class Mixture:
    """A programme at 16 kHz; its *script*; for each text that is said the edges of its words in seconds; and where
    something is said that is not written."""

    sound: np.ndarray
    script: tuple[str, ...]
    words: dict[str, tuple[tuple[float, float], ...]]
    unwritten: tuple[tuple[float, float], ...]


def mixture(
    said: Sequence[Recording],
    condition: str,
    random: np.random.Generator,
    *,
    unspoken: Sequence[str] = (),
    unwritten: Sequence[Recording] = (),
) -> Mixture:
    """Recordings in their order with 0.25 to 1.5 s between them, those unwritten somewhere among them; the unspoken
    somewhere in the script."""
    pace = _PACE.get(condition, 1.0)
    row = [(one, True) for one in said]
    for one in unwritten:
        row.insert(int(random.integers(0, len(row) + 1)), (one, False))
    parts, at = [np.zeros(RATE // 2)], 0.5
    words: dict[str, tuple[tuple[float, float], ...]] = {}
    others = []
    for one, written in row:
        first, last = one.span
        sound = one.sound[round(first * RATE) : round(last * RATE)]
        sound = soxr.resample(sound, RATE * pace, RATE, "HQ") if pace != 1 else sound
        if written:
            words[one.text] = tuple((at + (a - first) / pace, at + (b - first) / pace) for a, b in one.words)
        else:
            others.append((at, at + (last - first) / pace))
        gap = round(random.uniform(0.25, 1.5) * RATE)
        parts += [sound * 10 ** (random.uniform(-4, 4) / 20), np.zeros(gap)]
        at += (len(sound) + gap) / RATE
    script = [one.text for one in said]
    for text in unspoken:
        script.insert(int(random.integers(0, len(script) + 1)), text)
    return Mixture(_under(np.concatenate(parts), condition, random), tuple(script), words, tuple(others))


def _under(sound: np.ndarray, condition: str, random: np.random.Generator) -> np.ndarray:
    speech_rms = float(np.sqrt((sound[np.abs(sound) > 0.02] ** 2).mean()))
    if condition == "room":
        taps = np.arange(round(0.4 * RATE)) / RATE
        impulse = 0.03 * random.standard_normal(len(taps)) * 10 ** (-3 * taps / 0.4)
        impulse[0] = 1.0
        sound = np.convolve(sound, impulse)[: len(sound)]
    if condition == "telephone":
        sound = sosfiltfilt(butter(6, (300, 3400), "bandpass", fs=RATE, output="sos"), sound)
    noise_db = _NOISE_DB.get(condition, 45.0)
    sound = sound + random.standard_normal(len(sound)) * speech_rms * 10 ** (-noise_db / 20)
    return np.asarray(sound * (10 ** (-44 / 20) if condition == "soft" else 1.0), dtype=np.float32)
