"""The dub in the original's room: decays found, tone matched, room tone like its source, on generated rooms; and what
it costs, beside the usual media library's filters."""

from __future__ import annotations

import time
from typing import Final

import numpy as np
import soxr
from scipy.signal import fftconvolve, lfilter

from benchmarks.library import through
from benchmarks.timing import Row, Rows, figure
from zweistimme.formats.ssml import Span
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono
from zweistimme.sound.decay import decay_s
from zweistimme.sound.long_spectrum import (
    NOTHING,
    band_curve_db,
    correction_db,
    filter_bins_hz,
    filtered,
    frame_powers,
    mean_powers,
    minimum_phase,
    spoken,
)
from zweistimme.sound.room_response import Room, response_of, rung
from zweistimme.sound.room_tone import GrownTone, room_tone_of
from zweistimme.sound.voice_dynamics import compressed, de_essed
from zweistimme.standin.voice import speak_spans, voice_by_id

_DECAYS_S: Final = (0.2, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.3, 1.6, 2.0)
_TEXTS: Final = (
    "Every evening the harbour lies quiet, and the boats come in with the tide.",
    "Nobody has seen him since. They left the light on.", "What did she tell you? I heard it go. It turns!",
    "Twice a day the sea walks up these steps, and twice a day it leaves again.",
)  # fmt: skip
_LOW_RATE: Final = 16_000


def rooms() -> Rows:
    """Ten rooms, three voices in each."""
    dry = {name: _speech(name) for name in ("alva", "brandt", "cosma")}
    off = []
    for number, seconds in enumerate(_DECAYS_S):
        for said in dry.values():
            low = soxr.resample(said, RATE, _LOW_RATE)
            heard = fftconvolve(low, room_tail(seconds, number))[: len(low) + _LOW_RATE]
            off.append(abs(decay_s(heard.astype(np.float32), _LOW_RATE) / seconds - 1))
    within = float(np.mean(np.array(off) <= 0.2))
    yield Row(
        "decays of ten rooms from speech alone: within 20 %", f"{within:.0%}", f"the worst {max(off):.0%} off; 30 cases"
    )
    yield from _tones(dry)
    yield from _places()
    yield from _costs(np.concatenate([*dry.values()] * 4))


def _speech(name: str) -> Mono:
    voice = voice_by_id(name)
    assert voice is not None
    pause = np.zeros(3 * RATE // 2, dtype=np.float32)
    return np.concatenate(
        [np.concatenate((speak_spans([Span(text)], "en-GB", voice).samples, pause)) for text in _TEXTS]
    )


def room_tail(seconds: float, seed: int) -> np.ndarray:
    """The response of a room that rings so long, at 16 kHz: a direct sound, and a tail 3 dB under it."""
    t = np.arange(round(_LOW_RATE * (1.2 * seconds + 0.1))) / _LOW_RATE
    tail = np.random.default_rng(seed).standard_normal(len(t)) * 10 ** (-3 * t / seconds)
    tail[: _LOW_RATE // 500] = 0.0
    tail *= 0.7 / np.sqrt(np.sum(tail**2))
    tail[0] = 1.0
    return tail


def _tones(dry: dict[str, Mono]) -> Rows:
    """Voices brought to the tone of another in a coloured room; bands smoothed over an octave, levels aside."""
    left, before = [], []
    for seed in range(10):
        curve = np.convolve(np.random.default_rng(seed).uniform(-8, 8, 23), np.full(5, 0.2), "same")
        room = minimum_phase(band_curve_db(curve, filter_bins_hz()))
        for said in dry.values():
            wanted, given = _bands(filtered(said, room)), _bands(said)
            gains = correction_db(wanted, given, NOTHING, 6.0)
            made = _bands(filtered(said, minimum_phase(band_curve_db(gains, filter_bins_hz()))))
            for found, bands in ((before, given), (left, made)):
                apart = (bands.levels_db() - wanted.levels_db())[3:20]
                found.append(float(np.sqrt(np.mean((apart - np.median(apart)) ** 2))))
    yield Row(
        "tone beside the wanted, RMS over third octaves",
        f"{np.mean(left):.1f} dB",
        f"untreated {np.mean(before):.1f}; wanted: 2 dB",
    )


def _bands(samples: Mono):  # type: ignore[no-untyped-def]
    powers = frame_powers(samples)
    return mean_powers(powers[spoken(powers)])


def _places() -> Rows:
    """Room tone of ten places beside what it was grown from."""
    levels, bands = [], []
    for seed in range(10):
        random = np.random.default_rng(seed)
        noise = lfilter([1.0], [1.0, -random.uniform(0.5, 0.97)], random.standard_normal((2, 24 * RATE)), axis=1)
        source = (0.003 * noise).astype(np.float32)
        tone = room_tone_of([source])
        assert tone is not None
        grown = GrownTone(tone, 30 * RATE).read(0, 24 * RATE)
        was, now = (frame_powers(one[0]).mean(axis=0) for one in (source, grown))
        levels.append(abs(10 * np.log10(now.sum() / was.sum())))
        bands.append(np.abs(10 * np.log10(now / was)).max())
    yield Row(
        "room tone of ten places: level off by at most",
        f"{max(levels):.2f} dB",
        f"the worst third octave {max(bands):.1f} dB",
    )


def _costs(voice: Mono) -> Rows:
    """What a minute of speech costs, step by step; beside the library's own where it has the like."""
    seconds = len(voice) / RATE
    taps = minimum_phase(band_curve_db(np.linspace(3, -3, 23), filter_bins_hz()))
    response = response_of(Room((0.6,) * 4))
    blocks = [voice[None, k : k + 10 * RATE] for k in range(0, len(voice), 10 * RATE)]
    steps = (
        ("tone filter", lambda: filtered(voice, taps), ("equalizer", "f=1000:t=o:w=1:g=3")),
        ("sibilants", lambda: de_essed(voice, -20.0), ("deesser", "i=0.5")),
        ("evened out", lambda: compressed(voice, 0.7), ("acompressor", "threshold=0.1:ratio=2")),
        ("room, all of it", lambda: [rung(one[0], response) for one in blocks], None),
    )
    for name, ours, theirs in steps:
        begun = time.perf_counter()
        ours()
        taken = time.perf_counter() - begun
        beside = ""
        if theirs is not None:
            begun = time.perf_counter()
            through(blocks, *theirs)
            beside = f"the library's {theirs[0]} {seconds / (time.perf_counter() - begun):,.0f}"
        yield figure(f"{name}, one core", seconds / taken, "x real time", beside)
