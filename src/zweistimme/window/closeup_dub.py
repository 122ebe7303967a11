"""The take in the close-up: its wave where it is heard, phrase by phrase, its words, how its tempo goes, and what is
pinned of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from zweistimme.project.model import Placement, Take, Word
from zweistimme.project.placed_time import edges_of, first_word, placed_us
from zweistimme.project.times import samples_to_us
from zweistimme.sound.arrays import Floats
from zweistimme.window.theme import colour, px

_LOWEST, _HIGHEST = 0.6, 1.6
"""Tempos at the foot and the top of a wave."""


def placed_words(placement: Placement, take: Take) -> tuple[Word, ...]:
    """The words of a take when they are heard."""
    return tuple(
        Word(one.text, placed_us(placement, take, one.start_us), placed_us(placement, take, one.end_us))
        for one in take.words
    )


def placed_pauses(placement: Placement, take: Take) -> list[tuple[int, int]]:
    """The inner pauses of a take when they are heard."""
    return [
        (placed_us(placement, take, samples_to_us(a)), placed_us(placement, take, samples_to_us(b)))
        for a, b in take.pauses_samples
    ]


def take_times(placement: Placement, take: Take, start_us: int, count: int, step_us: float) -> Floats:
    """Which moment of a take is heard at each of *count* times from *start_us* on, microseconds from where its speech
    begins; shape ``(count,)``."""
    knots = np.array(edges_of(placement, take), dtype=np.float64)
    at = start_us + np.arange(count) * step_us
    first = samples_to_us(take.speech_start_samples)
    return np.interp(at, knots[:, 1], knots[:, 0]) - first


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of the dub's wave: a phrase, or all of it; microseconds, and the number of the word it begins with (-1
    where that is not known)."""

    start_us: int
    end_us: int
    tempo: float
    word: int


def stretches_of(placement: Placement, take: Take) -> list[Stretch]:
    """The phrases of a placement, or the whole."""
    found = []
    for (from_us, at_us), (to_us, then_us) in pairwise(edges_of(placement, take)):
        if placement.phrases and all(at_us != one.start_us for one in placement.phrases):
            continue  # what lies between two phrases
        tempo = (to_us - from_us) / max(1, then_us - at_us)
        found.append(Stretch(at_us, then_us, tempo, first_word(take, from_us)))
    return found


def paint_tempo(
    painter: QPainter, stretches: Sequence[Stretch], x_of: Callable[[float], float], top: int, wave: int
) -> None:
    """The tempo of each stretch as steps over the wave; a thin line is the take's own."""

    def y(tempo: float) -> float:
        share = (min(max(tempo, _LOWEST), _HIGHEST) - _LOWEST) / (_HIGHEST - _LOWEST)
        return top + wave * (1 - share)

    painter.setPen(QPen(colour("faded", 120), 1))
    if stretches:
        painter.drawLine(QPointF(x_of(stretches[0].start_us), y(1.0)), QPointF(x_of(stretches[-1].end_us), y(1.0)))
    painter.setPen(QPen(colour("ink", 190), 1.4))
    for one in stretches:
        painter.drawLine(QPointF(x_of(one.start_us), y(one.tempo)), QPointF(x_of(one.end_us), y(one.tempo)))
    painter.setBrush(colour("card"))
    for one in stretches[1:]:  # where its tempo changes it can be taken hold of
        painter.drawEllipse(QPointF(x_of(one.start_us), y(one.tempo)), px(3), px(3))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_edges(
    painter: QPainter, stretches: Sequence[Stretch], x_of: Callable[[float], float], top: int, wave: int
) -> None:
    """Between phrases nothing of the ground is coloured, and each has its edges."""
    for one, two in pairwise(stretches):
        left, right = x_of(one.end_us), x_of(two.start_us)
        painter.fillRect(QRectF(left, top, max(1.0, right - left), wave), colour("sheet"))
        for x in (left, right):
            painter.fillRect(QRectF(x - 0.75, top, 1.5, wave), QColor(colour("dub", 160)))
