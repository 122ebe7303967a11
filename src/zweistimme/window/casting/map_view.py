"""The voice map, drawn and worked in: people as discs, voices as marks, near where they are alike. A person is dragged
onto a voice, or given one by the keys."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Final

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from zweistimme.messages import tr
from zweistimme.sound.arrays import Floats
from zweistimme.stages.cast.proposing import VoiceOnOffer
from zweistimme.stages.cast.voice_map import VoiceMap
from zweistimme.window.casting.map_painting import MapPicture, paint_hand, paint_people, paint_voices
from zweistimme.window.theme import px

_REACH_PX: Final = 16
_EDGE_PX: Final = 56
_MOST_ZOOM: Final = 40.0
_STEP: Final = 1.25


class VoiceMapView(QWidget):
    """Shows a ``VoiceMap``. Arrows go from voice to voice, Page Up and Down from person to person, Return gives the
    chosen person the chosen voice."""

    voice_chosen = pyqtSignal(str)
    person_chosen = pyqtSignal(str)
    given = pyqtSignal(str, str)
    """A person, and the voice they were given."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.map: VoiceMap | None = None
        self.voice, self.person = "", ""
        self._cast: Mapping[str, str] = {}
        self._colours: Mapping[str, int] = {}
        self._dimmed: Collection[str] = ()
        self._listed: Collection[str] = ()
        self._zoom, self._middle = 1.0, np.zeros(2)
        self._drag: tuple[str, QPointF] | None = None
        """Who is being dragged (empty: the plane), and where the pointer is."""
        self._voices: QPixmap | None = None
        self.setMinimumSize(px(280), px(200))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty("ownKeys", "map")
        self.setMouseTracking(True)
        self.setLayoutDirection(Qt.LayoutDirection.LeftToRight)  # higher is to the right everywhere
        self.setAccessibleName(tr("Voice map"))
        self.setAccessibleDescription(tr("People and voices, near where they are alike; the list beside says the same"))

    # what is shown

    def show_map(self, map_: VoiceMap, colours: Mapping[str, int]) -> None:
        """Show people (with the places of their colours) and voices."""
        self.map, self._colours = map_, colours
        if self.person not in {one.key for one in map_.people}:
            self.person = map_.people[0].key if map_.people else ""
        self.draw_anew()

    def show_cast(self, cast: Mapping[str, str]) -> None:
        """Show who has which voice."""
        self._cast = cast
        self.voice = self.voice or cast.get(self.person, "")
        self.update()

    def show_only(self, dimmed: Collection[str], listed: Collection[str]) -> None:
        """Dim the voices that are not looked for, and mark those on somebody's list."""
        self._dimmed, self._listed = dimmed, listed
        self.draw_anew()

    def choose(self, *, person: str | None = None, voice: str | None = None) -> None:
        """Choose a person or a voice, as the list does."""
        if person is not None:
            self.person = person
        if voice is not None:
            self.voice = voice
        self.update()

    def draw_anew(self) -> None:
        """Voices, the window or its colours are others."""
        self._voices = None
        self.update()

    # where things are

    def _on_screen(self, places: Floats) -> Floats:
        """Places of the plane in pixels, shape ``(k, 2)``."""
        room = np.array((max(10, self.width() - 2 * _EDGE_PX), max(10, self.height() - 2 * _EDGE_PX))) / 2
        low, high = self._bounds()
        scale = room / np.maximum((high - low) / 2, 1e-6)
        scale = np.minimum(scale, 1.7 * scale.min()) * self._zoom  # alike in both directions, or nearly so
        middle = np.array((self.width(), self.height())) / 2
        across = (places - (low + high) / 2 - self._middle) * scale * np.array((1, -1))
        return np.asarray(middle + across)

    def _bounds(self) -> tuple[Floats, Floats]:
        assert self.map is not None
        every = np.concatenate((self.map.people_at, self.map.voices_at))
        known = every[np.isfinite(every).all(axis=1)]
        if not len(known):
            return np.full(2, -1.0), np.full(2, 1.0)
        return known.min(axis=0) - 0.02, known.max(axis=0) + 0.02

    def _picture(self) -> MapPicture:
        assert self.map is not None
        return MapPicture(
            self.map, self._on_screen(self.map.people_at), self._on_screen(self.map.voices_at), self._cast,
            self._colours, self._dimmed, self._listed, self.person, self.voice,
        )  # fmt: skip

    def _voice_near(self, at: QPointF) -> str:
        assert self.map is not None
        return _nearest(self._on_screen(self.map.voices_at), at, [one.ref for one in self.map.voices])

    def _person_near(self, at: QPointF) -> str:
        assert self.map is not None
        return _nearest(self._on_screen(self.map.people_at), at, [one.key for one in self.map.people])

    # painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self.map is None:
            return
        picture = self._picture()
        if self._voices is None:
            ratio = self.devicePixelRatioF()
            self._voices = QPixmap(self.size() * ratio)
            self._voices.setDevicePixelRatio(ratio)
            self._voices.fill(Qt.GlobalColor.transparent)
            with QPainter(self._voices) as painter:
                paint_voices(painter, picture, QRectF(self.rect()))
        with QPainter(self) as painter:
            painter.drawPixmap(0, 0, self._voices)
            paint_people(painter, picture, focused=self.hasFocus())
            if self._drag and self._drag[0]:
                paint_hand(painter, picture, self._drag[0], self._drag[1], self._voice_near(self._drag[1]))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.draw_anew()

    def event(self, event: QEvent | None) -> bool:
        """What is at the pointer is said."""
        if isinstance(event, QHelpEvent) and self.map is not None:
            at = QPointF(event.pos())
            person, voice = self._person_near(at), self._voice_near(at)
            said = next((one.name for one in self.map.people if one.key == person), "")
            said = said or next((_said_of(one) for one in self.map.voices if one.ref == voice), "")
            QToolTip.showText(event.globalPos(), said or tr("Drag a person onto a voice; the wheel zooms."), self)
            return True
        return super().event(event)

    # by hand

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.map is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        person, voice = self._person_near(event.position()), self._voice_near(event.position())
        if person:
            self.choose(person=person)
            self.person_chosen.emit(person)
        elif voice:
            self.choose(voice=voice)
            self.voice_chosen.emit(voice)
        self._drag = None if voice and not person else (person, event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.map is None:
            return
        if self._drag is None:
            over = self._person_near(event.position()) or self._voice_near(event.position())
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        person, before = self._drag
        if not person:
            self._move_by(event.position() - before)
        self._drag = person, event.position()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        (person, _), self._drag = self._drag, None
        voice = self._voice_near(event.position()) if person else ""
        if voice:
            self.choose(voice=voice)
            self.voice_chosen.emit(voice)
            self.given.emit(person, voice)
        self.update()

    def _move_by(self, pixels: QPointF) -> None:
        one = self._on_screen(np.array(((0.0, 0.0), (1.0, 1.0))))
        self._middle = self._middle - np.array((pixels.x(), pixels.y())) / (one[1] - one[0])
        self.draw_anew()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self.map is not None:
            self.zoom(_STEP ** (event.angleDelta().y() / 120))

    def zoom(self, factor: float) -> None:
        """See so many times as near; never smaller than the whole."""
        self._zoom = min(max(self._zoom * factor, 1.0), _MOST_ZOOM)
        if self._zoom == 1.0:
            self._middle = np.zeros(2)
        self.draw_anew()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.map is None:
            return
        key, towards = Qt.Key(event.key()), _TOWARDS.get(Qt.Key(event.key()))
        if towards is not None:
            self._step(np.array(towards))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._next_person(1 if key == Qt.Key.Key_PageDown else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.person and self.voice:
            self.given.emit(self.person, self.voice)
        elif key == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = None
            self.update()
        elif event.text() in ("+", "-"):
            self.zoom(_STEP if event.text() == "+" else 1 / _STEP)
        else:
            super().keyPressEvent(event)

    def _step(self, towards: Floats) -> None:
        """Choose the voice that comes next in a direction: the nearest within a quarter turn."""
        assert self.map is not None
        refs, places = [one.ref for one in self.map.voices], self._on_screen(self.map.voices_at)
        if self.voice not in refs:
            chosen = int(self.map.nearest(self.person)[0]) if refs else -1
        else:
            away = places - places[refs.index(self.voice)]
            along = away @ towards
            beside = np.abs(away @ np.array((-towards[1], towards[0])))
            ahead = (along > 0.5) & (beside <= along)
            if not ahead.any():
                return
            chosen = int(np.argmin(np.where(ahead, along + beside, np.inf)))
        if chosen >= 0:
            self.choose(voice=refs[chosen])
            self.voice_chosen.emit(refs[chosen])

    def _next_person(self, by: int) -> None:
        assert self.map is not None
        keys = [one.key for one in self.map.people]
        if keys:
            place = keys.index(self.person) if self.person in keys else -by
            self.choose(person=keys[(place + by) % len(keys)])
            self.person_chosen.emit(self.person)


_TOWARDS: Final = {
    Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0), Qt.Key.Key_Down: (0.0, 1.0),
}  # fmt: skip


def _said_of(voice: VoiceOnOffer) -> str:
    return " · ".join(part for part in (voice.info.name, voice.info.about) if part)


def _nearest(places: Floats, at: QPointF, names: list[str]) -> str:
    """What lies within reach of the pointer; empty where nothing does."""
    known = np.isfinite(places).all(axis=1)
    if not known.any():
        return ""
    away = np.where(known, np.hypot(*(np.nan_to_num(places) - (at.x(), at.y())).T), np.inf)
    place = int(np.argmin(away))
    return names[place] if away[place] <= _REACH_PX else ""
