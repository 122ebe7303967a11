"""Painting the voice map: marks by kind of voice, discs for people, lines to the voices they have."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPixmap

from zweistimme.messages import tr
from zweistimme.sound.arrays import Floats
from zweistimme.stages.cast.proposing import PersonToCast
from zweistimme.stages.cast.voice_map import VoiceMap
from zweistimme.window.score.overview import initials
from zweistimme.window.theme import SMALL_PT, colour, font, px, speaker_colour, theme

_MARK, _DISC = 6.0, 13.0
_SPRITE: Final = 20
_MOST_NAMES: Final = 40
"""With more voices in sight only the chosen one is named."""


@dataclass(frozen=True, slots=True)
class MapPicture:
    """What is painted: the map, where its people and voices are in pixels, and what is chosen."""

    map: VoiceMap
    people: Floats
    voices: Floats
    cast: Mapping[str, str]
    colours: Mapping[str, int]
    dimmed: Collection[str]
    listed: Collection[str]
    person: str
    voice: str

    def voice_at(self, ref: str) -> QPointF | None:
        """Where a voice is; None where it is not on the map."""
        return _point(self.voices, self.map.voice_places.get(ref))

    def person_at(self, key: str) -> QPointF | None:
        """Where somebody is."""
        return _point(self.people, self.map.people_places.get(key))


def _point(places: Floats, place: int | None) -> QPointF | None:
    if place is None or not np.isfinite(places[place]).all():
        return None
    return QPointF(float(places[place, 0]), float(places[place, 1]))


def paint_voices(painter: QPainter, picture: MapPicture, room: QRectF) -> None:
    """The ground, what its directions mean, and a mark for every voice."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(room, colour("card"))
    _paint_directions(painter, room)
    inside = (picture.voices >= 0).all(axis=1) & (picture.voices <= (room.width(), room.height())).all(axis=1)
    places = np.flatnonzero(inside)  # what is nowhere is NaN, and not inside
    ratio, seen = painter.device().devicePixelRatioF(), []  # type: ignore[union-attr]
    sprites: dict[tuple[str, bool, bool, bool], QPixmap] = {}
    corners = (picture.voices[places] - _SPRITE / 2).tolist()
    for place, (x, y) in zip(places.tolist(), corners, strict=True):
        voice = picture.map.voices[place]
        style = (
            picture.map.kinds[place],
            voice.ref in picture.dimmed,
            voice.ref in picture.listed,
            bool(voice.stands_in),
        )
        sprite = sprites.get(style)
        if sprite is None:
            sprite = sprites[style] = _sprite(_Style(*style), theme().name, ratio)
        painter.drawPixmap(QPointF(x, y), sprite)
        if not style[1]:
            seen.append((voice, picture.voices[place]))
    if len(seen) <= _MOST_NAMES:
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("ink"))
        for voice, place in seen:
            people = picture.people[np.isfinite(picture.people).all(axis=1)]
            covered = len(people) and np.abs(people - place).max(axis=1).min() < 1.5 * px(_DISC)
            below = float(place[1]) + (px(_DISC) + _MARK if covered else _MARK) + 2
            box = QRectF(float(place[0]) - px(60), below, px(120), px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, voice.info.name)


@dataclass(frozen=True, slots=True)
class _Style:
    """How a voice is marked."""

    kind: str
    dim: bool
    listed: bool
    related: bool


@lru_cache(maxsize=128)
def _sprite(style: _Style, _theme: str, ratio: float) -> QPixmap:
    """A mark painted once: stroking thousands of paths takes a fifth of a second."""
    made = QPixmap(round(_SPRITE * ratio), round(_SPRITE * ratio))
    made.setDevicePixelRatio(ratio)
    made.fill(Qt.GlobalColor.transparent)
    with QPainter(made) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pen = QPen(colour("faded", 90 if style.dim else 255), 1.4)
        if style.related:
            pen.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(pen)
        if style.listed and not style.dim:
            painter.setBrush(colour("chosen"))
        painter.drawPath(_mark(style.kind, QPointF(_SPRITE / 2, _SPRITE / 2)))
    return made


def _paint_directions(painter: QPainter, room: QRectF) -> None:
    painter.setFont(font(SMALL_PT))
    painter.setPen(colour("faded"))
    inside = room.adjusted(px(10), px(8), -px(10), -px(8))
    top, bottom = Qt.AlignmentFlag.AlignTop, Qt.AlignmentFlag.AlignBottom
    middle, across = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignHCenter
    painter.drawText(inside, middle | Qt.AlignmentFlag.AlignLeft, tr("lower"))
    painter.drawText(inside, middle | Qt.AlignmentFlag.AlignRight, tr("higher"))
    painter.drawText(inside, top | across, tr("sounds smaller"))
    painter.drawText(inside, bottom | across, tr("sounds larger"))


def _mark(kind: str, at: QPointF) -> QPainterPath:
    """A ring for women, a square for men, a triangle for children, a lozenge where nobody says."""
    path, r = QPainterPath(), _MARK
    if kind == "woman":
        path.addEllipse(at, r, r)
    elif kind == "man":
        path.addRect(QRectF(at.x() - r * 0.9, at.y() - r * 0.9, 1.8 * r, 1.8 * r))
    else:
        around = ((0, -1.2), (1.1, 0.8), (-1.1, 0.8)) if kind == "child" else ((0, -1.2), (1.2, 0), (0, 1.2), (-1.2, 0))
        path.moveTo(at + QPointF(*around[0]) * r)
        for step in around[1:]:
            path.lineTo(at + QPointF(*step) * r)
        path.closeSubpath()
    return path


def paint_people(painter: QPainter, picture: MapPicture, *, focused: bool) -> None:
    """Lines to the voices people have, who would be confused, the chosen voice, and people themselves."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for person in picture.map.people:
        at, voice = picture.person_at(person.key), picture.voice_at(picture.cast.get(person.key, ""))
        if at is not None and voice is not None:
            painter.setPen(QPen(speaker_colour(picture.colours.get(person.key, 0)), 2.0))
            painter.drawLine(at, voice)
            painter.setBrush(colour("card"))
            painter.drawEllipse(voice, _MARK + 4, _MARK + 4)
    _paint_confused(painter, picture)
    chosen = picture.voice_at(picture.voice)
    if chosen is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("chosen_edge"), 3.0 if focused else 2.0))
        painter.drawEllipse(chosen, _MARK + 6, _MARK + 6)
        if len(picture.map.voices) > _MOST_NAMES:
            name = next(one.info.name for one in picture.map.voices if one.ref == picture.voice)
            painter.setPen(colour("ink"))
            painter.setFont(font(SMALL_PT, bold=True))
            painter.drawText(chosen + QPointF(_MARK + 9, 4), name)
    letters = initials([person.name for person in picture.map.people])
    for person, letter in zip(picture.map.people, letters, strict=True):
        at = picture.person_at(person.key)
        if at is not None:
            _paint_person(painter, picture, person, letter, at)


def _paint_confused(painter: QPainter, picture: MapPicture) -> None:
    pen = QPen(colour("hard"), 2.0)
    pen.setStyle(Qt.PenStyle.DashLine)
    for one in picture.map.confusions(picture.cast):
        ends = (picture.voice_at(picture.cast.get(key, "")) for key in (one.first, one.second))
        first, second = ends
        if first is not None and second is not None:
            painter.setPen(pen)
            painter.drawLine(first, second)


def _paint_person(painter: QPainter, picture: MapPicture, person: PersonToCast, letter: str, at: QPointF) -> None:
    chosen, radius = person.key == picture.person, px(_DISC)
    painter.setPen(QPen(colour("chosen_edge"), 3.0) if chosen else Qt.PenStyle.NoPen)
    painter.setBrush(speaker_colour(picture.colours.get(person.key, 0)))
    painter.drawEllipse(at, radius, radius)
    painter.setPen(colour("card"))
    painter.setFont(font(SMALL_PT, bold=True))
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)
    painter.setPen(colour("ink"))
    beside = QRectF(at.x() + radius + 4, at.y() - px(8), px(140), px(16))
    painter.drawText(beside, Qt.AlignmentFlag.AlignVCenter, person.name)


def paint_hand(painter: QPainter, picture: MapPicture, key: str, at: QPointF, voice: str) -> None:
    """Somebody being dragged, and the voice they would be given."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    place = picture.person_at(key)
    tone = speaker_colour(picture.colours.get(key, 0))
    if place is not None:
        painter.setPen(QPen(tone, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(place, at)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(tone)
    painter.drawEllipse(at, px(_DISC) - 3, px(_DISC) - 3)
    target = picture.voice_at(voice)
    if target is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(tone, 3.0))
        painter.drawEllipse(target, _MARK + 8, _MARK + 8)
