"""The bundled recogniser: finds speech, recognises what is in its phrase book, and tells speakers apart.

It hears; it does not look anything up by the sound's name. Speech that is not in the book comes back as a
stretch without words.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from zweistimme.engines.protocol import HeardSegment, HeardWord, Recognition, RecognitionQuestion, Report, SoundSource
from zweistimme.project.times import RATE as DESK_RATE
from zweistimme.project.times import seconds_to_us
from zweistimme.sound.activity import HOP_SECONDS, frame_levels_db, noise_under, speech_regions, speechlike
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.cores import cores, together
from zweistimme.sound.features import RATE, STATE_SECONDS, cepstra, power_spectra, reduced, with_slopes
from zweistimme.sound.matching import Match, best_paths
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.standin.phrasebook import Book, book_for
from zweistimme.standin.voice_prints import VoicePrint, labelled

WARPS: Final = (0.96, 1.02, 1.08, 1.14, 1.2, 1.26, 1.34)
_MARGIN_S: Final = 0.16
_JOIN_S: Final = 0.7
_LONGEST_S: Final = 24.0
_KEPT: Final = 40
_LISTENED_TO: Final = 12
"""Stretches by which the language is told."""
_LEAST_GAIN: Final = 0.06
_LEAST_SHORT_GAIN, _SHORT_S = 0.115, 1.4
_LEAST_FILLER_GAIN: Final = 0.26
"""A sound so short needs better evidence."""
_QUICKEST, _SLOWEST = 0.6, 1.6
"""How long a phrase may take against the book's; bells and waves stretch one beyond what anybody says."""
_LEAST_WORDLESS_S: Final = 0.3
_MOST_SHARED: Final = 0.35
"""How much of the shorter of two phrases may be spoken at the same time."""


@dataclass(frozen=True, slots=True)
class _Stretch:
    """Sound between two pauses at 16 kHz, and the noise under it."""

    start: float
    power: Floats
    noise: Floats
    sound: Mono
    regions: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class _Found:
    start: float
    end: float
    words: tuple[HeardWord, ...]
    print_: VoicePrint


def recognise(source: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
    """What is heard in *source*, in order, and in which of the candidate languages."""
    report(0.02)
    levels = _levels(source)
    regions = speech_regions(levels)
    groups = _grouped(regions)
    stretches = [_stretch(source, group, levels) for group in groups[:_KEPT]]
    centre, spread = _statistics(stretches)
    language, probability = _language(stretches[:_LISTENED_TO], question, centre, spread)
    book = book_for(language, question.hints)
    found: list[_Found] = []

    def heard(number: int) -> list[_Found]:
        stretch = stretches[number] if number < len(stretches) else _stretch(source, groups[number], levels)
        return _recognised(stretch, book, centre, spread)

    for first in range(0, len(groups), cores()):
        some = range(first, min(first + cores(), len(groups)))
        found += [item for items in together([partial(heard, number) for number in some]) for item in items]
        report(0.1 + 0.85 * some.stop / len(groups))
    labels = labelled([item.print_ for item in found], question.speakers)
    segments = tuple(
        HeardSegment(seconds_to_us(item.start), seconds_to_us(item.end), label, item.words)
        for item, label in zip(found, labels, strict=True)
    )
    return Recognition(language, probability, segments)


def _language(
    stretches: Sequence[_Stretch],
    question: RecognitionQuestion,
    centre: dict[float, Floats],
    spread: dict[float, Floats],
) -> tuple[str, float]:
    """The candidate whose phrase book explains most of the first speech, and how clearly."""
    if len(question.languages) == 1:
        return question.languages[0], 1.0
    evidence = np.zeros(len(question.languages))
    for place, tag in enumerate(question.languages):
        book = book_for(tag, question.hints)
        for stretch in stretches if book.phrases else ():
            evidence[place] += sum(
                max((float(match.gains.sum()) for match in found), default=0.0)
                for found in _matches(stretch, book, WARPS[::3], centre, spread)
            )
    total = float(evidence.sum())
    if total <= 0:
        return question.languages[0], round(1 / len(question.languages), 3)
    return question.languages[int(evidence.argmax())], round(float(evidence.max()) / total, 3)


def _least_gain(match: Match, book: Book) -> float:
    """The evidence a match needs: the shorter the phrase, the more of it."""
    if match.phrase in book.fillers:
        return _LEAST_FILLER_GAIN
    return _LEAST_SHORT_GAIN if (match.end - match.start) * STATE_SECONDS < _SHORT_S else _LEAST_GAIN


def _matches(
    stretch: _Stretch, book: Book, warps: Sequence[float], centre: dict[float, Floats], spread: dict[float, Floats]
) -> list[list[Match]]:
    """What is found with each of the *warps*."""
    rows = [(cepstra(stretch.power, warp=warp, floor=stretch.noise) - centre[warp]) / spread[warp] for warp in warps]
    return [
        [match for match in found if match.gains.mean() > _least_gain(match, book) and _fits(match, book)]
        for found in best_paths([reduced(with_slopes(one)) for one in rows], book)
    ]


def _fits(match: Match, book: Book) -> bool:
    """Whether it takes about as long as the book's."""
    return _QUICKEST < (match.end - match.start) / (book.ends[match.phrase] - book.starts[match.phrase]) < _SLOWEST


def _levels(source: SoundSource) -> Floats:
    """Frame levels of the whole source, read in blocks of half a minute."""
    block = 30 * DESK_RATE
    parts = [
        frame_levels_db(source.read(start, min(block, source.length_samples - start)), DESK_RATE)
        for start in range(0, source.length_samples, block)
    ]
    return np.concatenate(parts) if parts else np.empty(0)


def _grouped(regions: Sequence[tuple[float, float]]) -> list[list[tuple[float, float]]]:
    """Regions that belong together: short pauses between them, and not too long in all."""
    groups: list[list[tuple[float, float]]] = []
    for region in regions:
        if groups and region[0] - groups[-1][-1][1] < _JOIN_S and region[1] - groups[-1][0][0] < _LONGEST_S:
            groups[-1].append(region)
        else:
            groups.append([region])
    return groups


def _stretch(source: SoundSource, regions: list[tuple[float, float]], levels: Floats) -> _Stretch:
    import soxr

    start, end = max(0.0, regions[0][0] - _MARGIN_S), regions[-1][1] + _MARGIN_S
    first, count = round(start * DESK_RATE), round((end - start) * DESK_RATE)
    sound = soxr.resample(source.read(first, count), DESK_RATE, RATE, "HQ").astype(np.float32)
    power = power_spectra(sound)
    local = levels[int(start / HOP_SECONDS) : int(start / HOP_SECONDS) + len(power)]
    return _Stretch(start, power, noise_under(power, local), sound, tuple(regions))


def _statistics(stretches: Sequence[_Stretch]) -> tuple[dict[float, Floats], dict[float, Floats]]:
    """Mean and spread of the cepstra of speech in this programme, for each warp: they take the channel away."""
    centre, spread = {}, {}
    for warp in WARPS:
        rows = [cepstra(s.power, warp=warp, floor=s.noise) for s in stretches]
        everything = np.concatenate(rows) if rows else np.zeros((1, 12))
        centre[warp], spread[warp] = everything.mean(axis=0), everything.std(axis=0) + 1e-3
    return centre, spread


def _recognised(
    stretch: _Stretch, book: Book, centre: dict[float, Floats], spread: dict[float, Floats]
) -> list[_Found]:
    """Phrases found with any warp, the ones that explain most first; then the speech that is left."""
    heard = _matches(stretch, book, WARPS, centre, spread) if book.phrases else []
    candidates = [
        (float(match.gains.sum()), warp, match) for warp, found in zip(WARPS, heard, strict=False) for match in found
    ]
    found: list[_Found] = []
    for _, _, match in sorted(candidates, key=lambda item: -item[0]):
        item = _found(stretch, book, match, _tract(match, candidates))
        if all(_shared(item, other) < _MOST_SHARED * min(_length(item), _length(other)) for other in found):
            found.append(item)
    for start, end in _left_over(stretch.regions, [(item.start, item.end) for item in found]):
        a, b = (max(0, round((time - stretch.start) * 100)) for time in (start, end))
        if speechlike(stretch.power[a:b], stretch.noise):
            found.append(_Found(start, end, (), _voice_print(stretch, start, end, WARPS[len(WARPS) // 2])))
    return sorted(found, key=lambda item: item.start)


def _tract(match: Match, candidates: Sequence[tuple[float, float, Match]]) -> float:
    """The scale of the speaker's tract: the warps that found the same phrase here, weighed by how well."""
    same = [
        (max(float(other.gains.mean()), 0.0) ** 3, warp)
        for _, warp, other in candidates
        if other.phrase == match.phrase and min(other.end, match.end) > max(other.start, match.start)
    ]
    total = sum(weight for weight, _ in same)
    return sum(weight * warp for weight, warp in same) / total if total else WARPS[len(WARPS) // 2]


def _length(item: _Found) -> float:
    return item.end - item.start


def _shared(first: _Found, second: _Found) -> float:
    return min(first.end, second.end) - max(first.start, second.start)


def _left_over(
    regions: Sequence[tuple[float, float]], spoken: Sequence[tuple[float, float]]
) -> list[tuple[float, float]]:
    """Speech that no phrase explains."""
    left = []
    for region in regions:
        pieces = [region]
        for a, b in spoken:
            pieces = [cut for s, e in pieces for cut in ((s, min(e, a)), (max(s, b), e)) if cut[1] > cut[0]]
        left += [(s, e) for s, e in pieces if e - s >= _LEAST_WORDLESS_S]
    return left


def _found(stretch: _Stretch, book: Book, match: Match, warp: float) -> _Found:
    words = []
    frames = stretch.start + (match.start + np.arange(len(match.frame_states) + 1)) * STATE_SECONDS
    for text, first, after in book.words[match.phrase]:
        a = int(np.searchsorted(match.frame_states, first))
        b = max(int(np.searchsorted(match.frame_states, after)), a + 1)
        a = min(a, len(match.frame_states) - 1)
        gain = float(match.gains[a:b].mean()) if b > a else 0.0
        confidence = round(float(np.clip(0.55 + 1.6 * gain, 0.05, 0.99)), 3)
        start, end = seconds_to_us(float(frames[a])), seconds_to_us(float(frames[min(b, len(frames) - 1)]))
        filler = match.phrase in book.fillers
        words.append(HeardWord(text.strip(",") if filler else text, start, end, confidence, filler))
    edges = float(frames[0]), float(frames[-1])
    return _Found(*edges, tuple(words), _voice_print(stretch, *edges, warp))


def _voice_print(stretch: _Stretch, start: float, end: float, warp: float) -> VoicePrint:
    first, last = (max(0, round((time - stretch.start) * RATE)) for time in (start, end))
    return VoicePrint(median_pitch_hz(stretch.sound[first:last], RATE), warp, end - start)
