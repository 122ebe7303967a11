"""Long programmes recognised piece by piece: each piece is kept as soon as it is answered, so a run that was stopped
goes on where it was, and an engine that takes only so many seconds is asked often enough."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from itertools import count
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import Engine, HeardSegment, Recognition, RecognitionQuestion, SoundSource
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.intervals import Intervals
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import RATE, samples_to_us, seconds_to_us, us_to_samples
from zweistimme.sound.arrays import Mono
from zweistimme.sound.diarization import SpokenTurn
from zweistimme.stages.recognitions import Piece, recognised
from zweistimme.stages.transcribe.diarize import found_speech, kept_regions
from zweistimme.stages.work import Work

LONGEST_S: Final = 600.0
"""No piece is longer, whatever an engine takes."""
_SHORTEST_SHARE: Final = 0.5
_WHOLE_SHARE: Final = 0.9


def longest_piece_s(limit_s: float | None) -> float:
    """How long a piece may be for an engine with this limit."""
    return min(LONGEST_S, limit_s) if limit_s else LONGEST_S


def cut_sound(length_samples: int, pauses_us: Sequence[tuple[int, int]], most_s: float) -> list[tuple[int, int]]:
    """Pieces ``[start, end)`` in samples, none longer than *most_s*, cut in the longest pause of their second half;
    where there is none, at their full length.

    >>> cut_sound(50 * 48_000, [(20_000_000, 22_000_000)], 30)
    [(0, 1008000), (1008000, 2400000)]
    """
    most = round(most_s * RATE)
    pieces, start = [], 0
    while length_samples - start > most:
        low, high = samples_to_us(start + round(most * _SHORTEST_SHARE)), samples_to_us(start + most)
        inside = [(b - a, (a + b) // 2) for a, b in pauses_us if low < (a + b) // 2 < high]
        end = us_to_samples(max(inside)[1]) if inside else start + most
        pieces.append((start, end))
        start = end
    return [*pieces, (start, length_samples)]


def recognised_whole(
    work: Work, engine: Engine, reader: SoundReader, track: SoundTrack, question: RecognitionQuestion
) -> Recognition:
    """What *engine* hears in a programme of any length. Speakers of several pieces are told apart by their voices."""
    most_s = longest_piece_s(engine.info().limits.seconds)
    if reader.length <= most_s * RATE:
        whole = Piece(SoundSource(reader.mono, reader.length), sound_key(track))
        return recognised(work, engine, [whole], question)[0]
    regions = kept_regions(replace(work, report=work.part(0.0, 0.05)))
    pauses = [(int(a), int(b)) for a, b in zip(regions[:-1, 1], regions[1:, 0], strict=True)]
    pieces = cut_sound(reader.length, pauses, most_s)
    # how many people speak is known of the whole, not of a piece
    asked = replace(question, speakers=None)
    sounds = [
        Piece(SoundSource(partial(_read, reader, start), end - start), f"{sound_key(track)}:{start}-{end}")
        for start, end in pieces
    ]
    answers = recognised(replace(work, report=work.part(0.05, _WHOLE_SHARE)), engine, sounds, asked)
    turns = found_speech(reader, work.part(_WHOLE_SHARE, 1.0), question.speakers).turns
    return _joined(answers, pieces, turns)


def _read(reader: SoundReader, start: int, first: int, count: int) -> Mono:
    """Part of a piece that begins at sample *start* of the programme."""
    return reader.mono(start + first, count)


def _joined(answers: Sequence[Recognition], pieces: Sequence[tuple[int, int]], turns: list[SpokenTurn]) -> Recognition:
    """Answers one behind the other, in the times of the programme, with speakers of the programme."""
    segments: list[HeardSegment] = []
    strangers = count(1)
    for answer, (start, _) in zip(answers, pieces, strict=True):
        shift = samples_to_us(start)
        moved = [
            replace(
                segment,
                start_us=segment.start_us + shift,
                end_us=segment.end_us + shift,
                words=tuple(replace(w, start_us=w.start_us + shift, end_us=w.end_us + shift) for w in segment.words),
            )
            for segment in answer.segments
        ]
        names = _names(moved, turns, strangers)
        segments += [replace(segment, speaker=names[segment.speaker]) for segment in moved]
    weights: Counter[str] = Counter()
    for answer in answers:
        weights[answer.language] += len(answer.segments)
    language = weights.most_common(1)[0][0]
    sure = [one.probability for one in answers if one.language == language and one.probability is not None]
    cost = sum((answer.cost for answer in answers), Cost())
    return Recognition(language, sum(sure) / len(sure) if sure else None, tuple(segments), cost)


def _names(segments: Sequence[HeardSegment], turns: Sequence[SpokenTurn], strangers: Iterator[int]) -> dict[str, str]:
    """Which speaker of the programme each label of a piece is: all labels and voices are matched by the time they
    share. Two people an engine has told apart stay two: who finds no voice of their own is a stranger."""
    shared: dict[str, Counter[int]] = {segment.speaker: Counter() for segment in segments}
    turns = sorted(turns, key=lambda turn: turn.start_s)
    spans = Intervals((seconds_to_us(turn.start_s), seconds_to_us(turn.end_s)) for turn in turns)
    for segment in segments:
        for place, time in spans.shared(segment.start_us, segment.end_us):
            shared[segment.speaker][turns[place].speaker] += time
    labels, voices = list(shared), sorted({voice for counts in shared.values() for voice in counts})
    times = np.array([[shared[label][voice] for voice in voices] for label in labels]).reshape(len(labels), -1)
    matched = {labels[k]: voices[v] for k, v in zip(*_matching(times), strict=True) if times[k, v] > 0}
    return {label: _letter(matched[label]) if label in matched else f"?{next(strangers)}" for label in labels}


def _matching(times: npt.NDArray[np.int64]) -> tuple[list[int], list[int]]:
    """Rows and columns that share most time when each is taken once."""
    from scipy.optimize import linear_sum_assignment

    rows, columns = linear_sum_assignment(times, maximize=True)
    return rows.tolist(), columns.tolist()


def _letter(number: int) -> str:
    """A, B … Z, AA …

    >>> _letter(0), _letter(27)
    ('A', 'AB')
    """
    head, tail = divmod(number, 26)
    return (_letter(head - 1) if head else "") + chr(65 + tail)
