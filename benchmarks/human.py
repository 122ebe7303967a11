"""People's voices: where they speak, how many they are, how high, how clips of them are trimmed, and scripts aligned to
them. The recordings are fetched when first wanted.

The woman who speaks the English announcements is American, the voice British; the Spanish one Mexican, the voice of
Spain. Announcements were drawn by chance, with other chances than those on which prices and weights were fitted."""

from __future__ import annotations

import resource
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import soundfile
import soxr

from benchmarks.mixtures import CONDITIONS, Mixture, mixture
from benchmarks.recordings import RATE, Recording, announcements, labelled
from benchmarks.timing import Row, Rows
from zweistimme.sound.activity import clip_speech, frame_levels_db, speech_regions
from zweistimme.sound.diarization import VoiceFrames, frames_from, spoken_turns, voice_frames
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.sound.script_align import align
from zweistimme.sound.script_features import Template, spectra_at_16k, template_of
from zweistimme.sound.script_stretches import Placed
from zweistimme.sound.script_sureness import SURE
from zweistimme.standin.voice import speak, voice_by_id

UNSPOKEN = (
    "The kettle is on the stove.", "Nobody asked him about it.", "Seven boats came in at noon.", "Give me that rope.",
)  # fmt: skip
_NEAR_S = 0.35
_VOICE = "hale"
_SAID, _UNSPOKEN, _UNWRITTEN = 18, 4, 3
_SEEDS = 2
_HOUR_S = 3600.0


def human() -> Rows:
    """All rows; none where no recording can be had."""
    recordings = labelled()
    if not recordings:
        yield Row("recordings", "none can be had here", "Debian's packages and the package index")
        return
    spoken = {language: announcements(language) for language in ("en", "es")}
    counts = ", ".join(f"{len(some)} announcements in {language}" for language, some in spoken.items())
    yield Row("recordings", f"{len(recordings)} with labelled words", counts)
    yield from _heard(recordings)
    yield from _trims(recordings)
    sure: list[tuple[float, bool]] = []
    for condition in CONDITIONS:
        mixed = [labelled_mixture(recordings, condition, seed) for seed in range(3)]
        yield from _scripts(f"{condition}: labelled", mixed, "en-GB", sure)
        for language, some in spoken.items():
            if some:
                mixed = [_announced(some, condition, seed) for seed in range(_SEEDS)]
                yield from _scripts(f"{condition}: {language}", mixed, f"{language}-{_REGION[language]}", sure)
        yield _left_alone(recordings, condition)
    yield from _calibration(sure)
    if spoken["en"]:
        yield from _an_hour(spoken["en"])


_REGION = {"en": "GB", "es": "ES"}


def labelled_mixture(recordings: Sequence[Recording], condition: str, seed: int) -> Mixture:
    """All labelled recordings in some order, and four sentences nobody says."""
    random = np.random.default_rng(seed)
    said = [recordings[k] for k in random.permutation(len(recordings))]
    return mixture(said, condition, random, unspoken=UNSPOKEN[:4])


def _left_alone(recordings: Sequence[Recording], condition: str) -> Row:
    """Two labelled recordings at a time that the script has not, though the same person says much the same."""
    taken = cases = 0
    for seed in range(9):
        random = np.random.default_rng(700 + seed)
        order = [recordings[k] for k in random.permutation(len(recordings))]
        mixed = mixture(order[:-2], condition, random, unwritten=order[-2:])
        cases += len(mixed.unwritten)
        taken += _taken(mixed, align_mixture(mixed, "en-GB"))
    return f"{condition}: labelled but not written", f"{cases - taken} of {cases} left alone", "17 of 18"


def _taken(mixed: Mixture, placed: Sequence[Placed]) -> int:
    """How many stretches that are not written a sentence was surely placed in."""
    spans = [(float(one.times_s[0]), float(one.times_s[-1])) for one in placed if one.sureness > SURE]
    return sum(any(min(end, b) - max(start, a) > 0.5 * (b - a) for start, end in spans) for a, b in mixed.unwritten)


def _announced(recordings: Sequence[Recording], condition: str, seed: int) -> Mixture:
    random = np.random.default_rng(100 + seed)
    some = [recordings[k] for k in random.permutation(len(recordings))[: _SAID + _UNSPOKEN + _UNWRITTEN]]
    unspoken = [one.text for one in some[_SAID : _SAID + _UNSPOKEN]]
    return mixture(some[:_SAID], condition, random, unspoken=unspoken, unwritten=some[_SAID + _UNSPOKEN :])


def _heard(recordings: Sequence[Recording]) -> Rows:
    """Speech missed and false, people counted, pitch, in every condition."""
    for condition in CONDITIONS:
        mixed = mixture(recordings, condition, np.random.default_rng(0))
        regions = speech_regions(frame_levels_db(mixed.sound, RATE))
        truth, found = (np.zeros(len(mixed.sound) // 160 + 1, dtype=bool) for _ in range(2))
        near = truth.copy()
        for spans in mixed.words.values():
            for a, b in spans:
                truth[round(a * 100) : round(b * 100)] = True
                near[max(0, round(a * 100) - 15) : round(b * 100) + 25] = True
        for a, b in regions:
            found[round(a * 100) : round(b * 100)] = True
        missed, false = (truth & ~found).sum() / truth.sum(), (found & ~near).sum() / truth.sum()
        pitch, envelope = voice_frames([mixed.sound])
        turns = spoken_turns(VoiceFrames(pitch, envelope, frames_from(regions, len(pitch))))
        people = len({turn.speaker for turn in turns})
        yield Row(f"{condition}: speech", f"missed {missed:.1%}, false {false:.1%}; {people} people", "0 %, 0 %, 2")
    for one in (recordings[0], recordings[-1]):
        loud, soft = (median_pitch_hz((gain * one.sound).astype(np.float32), RATE) for gain in (1.0, 0.004))
        if loud is None or soft is None:
            yield Row("pitch 48 dB softer", "none found", "a voice")
            continue
        yield Row(
            "pitch 48 dB softer", f"{1200 * abs(np.log2(soft / loud)):.1f} cents off", f"{loud:.0f} Hz as recorded"
        )


def _trims(recordings: Sequence[Recording]) -> Rows:
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
        yield Row(f"trims, room {room_db:.0f} dB", figure, "labels by hand")


@cache
def _template(text: str, tag: str) -> Template:
    voice = voice_by_id(_VOICE)
    assert voice is not None
    spoken = speak(text, tag, voice)
    sound = soxr.resample(spoken.samples, 48_000, RATE, "HQ").astype(np.float32)
    first, last = spoken.words[0][1], spoken.words[-1][2]
    return template_of(
        sound[round(first * RATE) : round(last * RATE)], [(a - first, b - first) for _, a, b in spoken.words]
    )


def _scripts(name: str, mixtures: Sequence[Mixture], tag: str, sure: list[tuple[float, bool]]) -> Rows:
    """Sentences found, lost and falsely placed; edges of words that are labelled, and of sentences that were found."""
    found = lost = false = taken = 0
    edges: list[float] = []
    seconds = length = 0.0
    for mixed in mixtures:
        for text in mixed.script:
            _template(text, tag)  # speaking is not aligning
        begun = time.perf_counter()
        placed = align_mixture(mixed, tag)
        seconds, length = seconds + time.perf_counter() - begun, length + len(mixed.sound) / RATE
        there = set()
        for one in placed:
            text, span = mixed.script[one.sentence], (float(one.times_s[0]), float(one.times_s[-1]))
            there.add(text)
            truth = mixed.words.get(text)
            right = truth is not None and max(abs(span[0] - truth[0][0]), abs(span[1] - truth[-1][1])) < _NEAR_S
            sure.append((one.sureness, truth is not None and _over(span, truth)))
            found += right
            false += truth is None and one.sureness > SURE
            if truth is not None and one.sureness > SURE:
                edges += _word_edges(one, truth)
        taken += _taken(mixed, placed)
        lost += sum(text not in there for text in mixed.words)
    ms = 1000 * np.abs(edges) if edges else np.zeros(1)
    said = sum(len(mixed.words) for mixed in mixtures)
    unspoken = sum(len(mixed.script) - len(mixed.words) for mixed in mixtures)
    others = sum(len(mixed.unwritten) for mixed in mixtures)
    figure = f"{found} of {said} right, {lost} lost; {np.median(ms):.0f} ms, 95 %: {np.percentile(ms, 95):.0f}"
    yield Row(name, figure, f"all, 0; 30 ms, 120; {length / seconds:.0f} x real time")
    yield Row(f"{name}, taken as sure", f"{false} of {unspoken} unspoken, {taken} of {others} unwritten", "0; 0")


def _over(span: tuple[float, float], truth: Sequence[tuple[float, float]]) -> bool:
    """Whether a sentence lies where it is said, wherever its edges are: of that it is more or less sure."""
    first, last = truth[0][0], truth[-1][1]
    return min(span[1], last) - max(span[0], first) > 0.5 * (last - first)


def _word_edges(one: Placed, truth: Sequence[tuple[float, float]]) -> list[float]:
    """How far the edges of labelled words are off; of a sentence as a whole where its words are not."""
    if len(truth) != len(one.words_s):
        return [one.times_s[0] - truth[0][0], one.times_s[-1] - truth[-1][1]]
    return [edge for (a, b), (c, d) in zip(one.words_s, truth, strict=True) for edge in (a - c, b - d)]


def _calibration(sure: Sequence[tuple[float, bool]]) -> Rows:
    for low in np.arange(0, 1, 0.2):
        within = [right for sureness, right in sure if low <= sureness < low + 0.2]
        share = f"{np.mean(within):.0%} right of {len(within)}" if within else "none"
        taken = " (taken as sure)" if low >= SURE else ""
        yield Row(f"sureness {low:.1f} to {low + 0.2:.1f}", share, f"{low + 0.1:.0%}{taken}")


def _an_hour(recordings: Sequence[Recording]) -> Rows:
    """Time and memory of an hour of announcements, each said several times, in a process that holds nothing else."""
    random = np.random.default_rng(9)
    said, length = [], 0.0
    while length < _HOUR_S:
        said.append(recordings[int(random.integers(0, len(recordings)))])
        length += said[-1].span[1] - said[-1].span[0] + 0.9
    mixed = mixture(said, "clean", random)
    regions = speech_regions(frame_levels_db(mixed.sound, RATE))
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "hour.wav"
        soundfile.write(file, mixed.sound, RATE, "FLOAT")
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as alone:
            placed, seconds, more = alone.submit(_hour_aligned, file, regions, mixed.script).result()
    share = seconds / (len(mixed.sound) / RATE)
    figure = f"{placed} of {len(said)} sentences placed; {share:.3f} of its length, {more:.0f} MB more"
    yield Row("an hour", figure, "all; 0.2; 400 MB")


def _hour_aligned(file: Path, regions: list[tuple[float, float]], script: Sequence[str]) -> tuple[int, float, float]:
    """How many sentences were placed, in how many seconds, and by how many megabytes memory grew."""
    templates = [_template(text, "en-GB") for text in script]
    before, begun = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, time.perf_counter()
    with soundfile.SoundFile(file) as sound:

        def spectra(start: float, end: float) -> np.ndarray:
            sound.seek(round(start * RATE))
            return spectra_at_16k(sound.read(round((end - start) * RATE), dtype="float32"))

        placed = align(spectra, sound.frames / RATE, regions, templates, lambda _share: None)
    more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    return len(placed), time.perf_counter() - begun, more


def align_mixture(mixed: Mixture, tag: str) -> list[Placed]:
    """The script of a mixture aligned to its sound."""
    sound = mixed.sound
    regions = speech_regions(frame_levels_db(sound, RATE))

    def spectra(start: float, end: float) -> np.ndarray:
        return spectra_at_16k(sound[round(start * RATE) : round(end * RATE)])

    templates = [_template(text, tag) for text in mixed.script]
    return align(spectra, len(sound) / RATE, regions, templates, lambda _share: None)
