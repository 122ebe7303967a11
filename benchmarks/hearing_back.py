"""Takes heard back and looked at: planted mumbles, losses, doublings and faults of sound, found and missed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Final

import numpy as np
import soxr
from scipy.signal import butter, sosfilt

from benchmarks.timing import Row, Rows, figure, once
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono
from zweistimme.sound.clip_faults import ClipFault, clip_faults
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.word_check import WordState, check_words
from zweistimme.standin.voice import VOICES, BundledVoice, Spoken, speak, voice_by_id

RATE: Final = 48_000
_LINES: Final = {
    "de-DE": (
        "Wer zuletzt geht, macht bitte das Licht aus.", "Am dritten März kamen sieben neue Boote an.",
        "Sie hat es schon wieder vergessen, sagt ihr Bruder.",
    ),
    "es-ES": ("La última persona apaga la luz, por favor.", "El martes llegaron siete barcos nuevos."),
    "en-GB": ("Whoever leaves last, please turn off the light.", "Seven new boats arrived on Tuesday morning."),
}  # fmt: skip
"""Not those by which the thresholds were chosen."""
_PLACES: Final = 3
"""In so many words of each line and voice a fault is planted: one alone says little of a share of 95 in 100."""


def hearing_back() -> Rows:
    """What is found, what is missed, and what is found that is not there."""
    yield from _words()
    yield from _sound()


def _low(samples: Mono) -> Mono:
    return np.asarray(soxr.resample(samples, RATE, LOW_RATE, "HQ"), dtype=np.float32)


def _planted(spoken: Spoken, place: int) -> dict[WordState, Mono]:
    _, start, end = spoken.words[place]
    a, b, whole = round(start * RATE), round(end * RATE), spoken.samples
    mumbled = whole.copy()
    mumbled[a:b] = sosfilt(butter(4, 500, fs=RATE, output="sos"), whole[a:b]) * 0.5
    return {
        WordState.MISSING: np.concatenate((whole[:a], whole[b:])),
        WordState.DOUBLED: np.concatenate((whole[:b], whole[a:b], whole[b:])),
        WordState.MUMBLED: mumbled,
    }


def _words() -> Rows:
    random = np.random.default_rng(29)
    found, tried, false, words, took = Counter[WordState](), Counter[WordState](), 0, 0, []
    for tag, lines in _LINES.items():
        for text in lines:
            reference = speak(text, tag, _voice("hale"))
            ours, marks = _low(reference.samples), [(a, b) for _, a, b in reference.words]
            for voice in VOICES:
                for direction, seed in (("", 0), ("lively", 4), ("calm", 9)):
                    clean = _low(speak(text, tag, voice, direction=direction, seed=seed).samples)
                    took.append(once(lambda: check_words(clean, ours, marks)))  # noqa: B023
                    checked = check_words(clean, ours, marks)
                    false += sum(one.state is not WordState.CLEAR for one in checked)
                    words += len(checked)
                spoken = speak(text, tag, voice, seed=2)
                for place in random.choice(len(spoken.words), _PLACES, replace=False).tolist():
                    for state, sound in _planted(spoken, place).items():
                        checked = check_words(_low(sound), ours, marks)
                        near = range(max(0, place - 1), min(len(checked), place + 2))
                        tried[state] += 1
                        found[state] += any(checked[n].state is not WordState.CLEAR for n in near)
    for state, count in tried.items():
        yield Row(f"words {state.value}, found", f"{found[state] / count:.0%} of {count}", "wanted: 95 %")
    yield Row("words that are clear, said not to be", f"{false / words:.2%} of {words:,}", "wanted: 2 %")
    yield figure("a line of three seconds heard", 1000 * float(np.median(took)), "ms")


def _voice(name: str) -> BundledVoice:
    found = voice_by_id(name)
    assert found is not None
    return found


def _sound() -> Rows:
    random = np.random.default_rng(11)
    found, tried, false, clean = Counter[str](), Counter[str](), Counter[str](), 0
    for turn in range(16):
        for tag, lines in _LINES.items():
            for text in lines:
                take = _take(text, tag, VOICES[turn % len(VOICES)].id, random)
                clean += 1
                false.update(_faults(take) - {ClipFault.SILENT})
                for fault, spoil in _SPOILS.items():
                    tried[fault] += 1
                    found[fault] += fault in _faults(spoil(take, random).astype(np.float32))
    total = clean + sum(tried.values())
    for fault, count in tried.items():
        missed = f"missed: {count - found[fault]}"
        yield Row(f"{fault}: found, of {count} in {total:,} takes", f"{found[fault] / count:.0%}", missed)
    yield Row(
        "takes without a fault said to have one", f"{sum(false.values()) / clean:.1%}", ", ".join(false) or "none"
    )


def _take(text: str, tag: str, voice: str, random: np.random.Generator) -> Mono:
    """A take with silence around, a quiet room under it, at any level."""
    samples = speak(text, tag, _voice(voice), seed=int(random.integers(0, 9))).samples.astype(np.float64)
    samples[:96] *= np.linspace(0, 1, 96)
    whole = np.pad(samples, 5_000)
    whole += random.standard_normal(len(whole)) * 10 ** (-random.uniform(62, 85) / 20)
    return np.asarray(whole * random.uniform(0.15, 1.0), dtype=np.float32)


def _faults(samples: Mono) -> set[str]:
    speech = clip_speech(samples, RATE)
    return {one.fault.value for one in clip_faults(samples, RATE, (speech.start, speech.end))}


def _level(samples: Mono) -> float:
    speech = clip_speech(samples, RATE)
    return float(np.sqrt(np.mean(samples[speech.start : speech.end].astype(np.float64) ** 2)))


def _clip(samples: Mono, _random: np.random.Generator) -> Mono:
    top = 0.35 * float(np.abs(samples).max())
    return np.clip(samples, -top, top)


def _click(samples: Mono, random: np.random.Generator) -> Mono:
    made, place = samples.copy(), int(random.integers(6_000, len(samples) - 6_000))
    made[place : place + 3] += random.choice((-1, 1)) * 0.8 * np.abs(samples).max()
    return made


def _noise(samples: Mono, random: np.random.Generator) -> Mono:
    return samples + random.standard_normal(len(samples)) * _level(samples) * 10 ** (-16 / 20)


def _hum(samples: Mono, random: np.random.Generator) -> Mono:
    times, base = np.arange(len(samples)) / RATE, random.choice((50.0, 60.0))
    waves = sum(np.sin(2 * np.pi * base * h * times + h) / h for h in range(1, 6))
    return np.asarray(samples + _level(samples) * 10 ** (-22 / 20) * 1.4 * waves)


def _cut(samples: Mono, *, end: bool) -> Mono:
    speech = clip_speech(samples, RATE)
    said = np.abs(samples[speech.start : speech.end])
    half = said[::-1][: len(said) // 2] if end else said[: len(said) // 2]
    steep = int(np.argmax(half > 0.4 * said.max())) + 200
    return samples[: speech.end - steep] if end else samples[speech.start + steep :]


def _breathe(samples: Mono, random: np.random.Generator) -> Mono:
    speech, count = clip_speech(samples, RATE), RATE // 4
    breath = random.standard_normal(count) * np.hanning(count) * _level(samples) * 10 ** (-26 / 20)
    return np.concatenate((np.zeros(2_000), breath, np.zeros(2_400), samples[speech.start :]))


_SPOILS: Final[dict[str, Callable[[Mono, np.random.Generator], Mono]]] = {
    ClipFault.CLIPPED: _clip, ClipFault.CLICK: _click, ClipFault.NOISE: _noise, ClipFault.HUM: _hum,
    ClipFault.CUT_START: lambda samples, _random: _cut(samples, end=False),
    ClipFault.CUT_END: lambda samples, _random: _cut(samples, end=True),
    ClipFault.BREATH: _breathe, ClipFault.SILENT: lambda samples, _random: samples * 1e-6,
}  # fmt: skip
