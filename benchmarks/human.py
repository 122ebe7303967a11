"""People's voices: where they speak, how many they are, how high, how clips of them are trimmed, and scripts aligned to
them. Everything in one process; the recordings are fetched when first wanted."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence

import numpy as np
import soxr

from benchmarks.recordings import CONDITIONS, RATE, Mixture, Recording, fetch, mixture
from zweistimme.sound.activity import clip_speech, frame_levels_db, speech_regions
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.sound.script_align import SURE, Placed, align
from zweistimme.sound.script_path import Template, spectra_at_16k, template_of
from zweistimme.sound.speakers import VoiceFrames, frames_from, spoken_turns, voice_frames
from zweistimme.standin.voice import speak, voice_by_id

Row = tuple[str, str, str]
UNSPOKEN = (
    "The kettle is on the stove.", "Nobody asked him about it.", "Seven boats came in at noon.", "Give me that rope.",
    "We leave before the rain.", "Thirty letters lay on the desk.", "Ask her tomorrow.", "Where is the baker?",
)  # fmt: skip
_NEAR_S = 0.35


def human() -> Iterator[Row]:
    """All rows; none where no recording can be had."""
    recordings = fetch()
    if not recordings:
        yield "recordings", "none can be had here", "apt and the package index"
        return
    yield "recordings", f"{len(recordings)}", "eight of a woman, one sentence of a man"
    yield from _heard(recordings)
    yield from _trims(recordings)
    yield from _scripts(recordings)


def _heard(recordings: Sequence[Recording]) -> Iterator[Row]:
    """Speech missed and false, people counted, pitch, in every condition."""
    order = list(range(len(recordings)))
    for condition in CONDITIONS:
        mixed = mixture(recordings, order, condition)
        regions = speech_regions(frame_levels_db(mixed.sound, RATE))
        truth, found = (np.zeros(len(mixed.sound) // 160 + 1, dtype=bool) for _ in range(2))
        near = truth.copy()
        for spans in mixed.spans:
            for a, b in spans:
                truth[round(a * 100) : round(b * 100)] = True
                near[max(0, round(a * 100) - 15) : round(b * 100) + 25] = True
        for a, b in regions:
            found[round(a * 100) : round(b * 100)] = True
        missed, false = (truth & ~found).sum() / truth.sum(), (found & ~near).sum() / truth.sum()
        pitch, envelope = voice_frames([mixed.sound])
        turns = spoken_turns(VoiceFrames(pitch, envelope, frames_from(regions, len(pitch))))
        people = len({turn.speaker for turn in turns})
        yield f"{condition}: speech", f"missed {missed:.1%}, false {false:.1%}; {people} people", "0 %, 0 %, 2"
    for one in (recordings[0], recordings[-1]):
        loud, soft = (median_pitch_hz((gain * one.sound).astype(np.float32), RATE) for gain in (1.0, 0.004))
        if loud is None or soft is None:
            yield "pitch 48 dB softer", "none found", "a voice"
            continue
        yield "pitch 48 dB softer", f"{1200 * abs(np.log2(soft / loud)):.1f} cents off", f"{loud:.0f} Hz as recorded"


def _trims(recordings: Sequence[Recording]) -> Iterator[Row]:
    random = np.random.default_rng(3)
    for room_db in (-70.0, -50.0, -36.0):
        off = []
        for one in recordings[:8]:
            sound = soxr.resample(np.pad(one.sound, (RATE // 2, RATE // 2)), RATE, 48_000, "HQ")
            sound = sound / np.abs(sound).max() + random.standard_normal(len(sound)) * 10 ** (room_db / 20)
            speech = clip_speech(sound.astype(np.float32), 48_000)
            off += [speech.start / 48_000 - 0.5 - one.words[0][0], speech.end / 48_000 - 0.5 - one.words[-1][1]]
        ms = 1000 * np.abs(off)
        figure = f"{np.median(ms):.0f} ms, 95 %: {np.percentile(ms, 95):.0f}"
        yield f"trims, room {room_db:.0f} dB", figure, "labels by hand"


def _template(text: str) -> Template:
    voice = voice_by_id("hale")
    assert voice is not None
    spoken = speak(text, "en-GB", voice)
    sound = soxr.resample(spoken.samples, 48_000, RATE, "HQ").astype(np.float32)
    first, last = spoken.words[0][1], spoken.words[-1][2]
    return template_of(sound[round(first * RATE) : round(last * RATE)], [b - first for _, _, b in spoken.words])


def _scripts(recordings: Sequence[Recording]) -> Iterator[Row]:
    sure: list[tuple[float, bool]] = []
    for condition in CONDITIONS:
        found = lost = false = unspoken = 0
        edges: list[float] = []
        seconds = length = 0.0
        for seed in range(3):
            order = list(np.random.default_rng(seed).permutation(len(recordings)))
            mixed = mixture(recordings, order, condition, seed)
            script = list(mixed.texts)
            for number, text in enumerate(UNSPOKEN[:4]):
                script.insert(2 * number + 1 + seed, text)
            begun = time.perf_counter()
            placed = _aligned(mixed, script)
            seconds, length = seconds + time.perf_counter() - begun, length + len(mixed.sound) / RATE
            spans = dict(zip(mixed.texts, mixed.spans, strict=True))
            for one in placed:
                truth = spans.get(script[one.sentence])
                off = [one.times_s[0] - truth[0][0], one.times_s[-1] - truth[-1][1]] if truth else [9.0]
                right = max(map(abs, off)) < _NEAR_S
                sure.append((one.sureness, right))
                found, edges = found + right, edges + (off if right else [])
                false += truth is None
            unspoken += 4
            lost += len(mixed.texts)
        ms = 1000 * np.abs(edges) if edges else np.zeros(1)
        figure = f"{found} of {lost}; edges {np.median(ms):.0f} ms, 95 %: {np.percentile(ms, 95):.0f}"
        yield f"{condition}: script", figure, "all; 30 ms, 120"
        yield f"{condition}: unspoken placed", f"{false} of {unspoken}", f"0; {length / seconds:.0f} x real time"
    for low in np.arange(0, 1, 0.2):
        within = [right for sureness, right in sure if low <= sureness < low + 0.2]
        share = f"{np.mean(within):.0%} right of {len(within)}" if within else "none"
        yield (
            f"sureness {low:.1f} to {low + 0.2:.1f}",
            share,
            f"{low + 0.1:.0%}{' (taken as sure)' if low >= SURE else ''}",
        )


def _aligned(mixed: Mixture, script: Sequence[str]) -> list[Placed]:
    sound = mixed.sound
    regions = speech_regions(frame_levels_db(sound, RATE))

    def spectra(start: float, end: float) -> np.ndarray:
        return spectra_at_16k(sound[round(start * RATE) : round(end * RATE)])

    return align(spectra, len(sound) / RATE, regions, [_template(text) for text in script], lambda _share: None)
