"""The close-up: the selected line magnified. Original above, take below, words at their times, what was stretched."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QWidget

from zweistimme.messages import tr
from zweistimme.project.facts import cuts_of
from zweistimme.project.model import Placement, Segment, Take, Word
from zweistimme.project.placed_time import placed_us
from zweistimme.project.words import DOUBTFUL, spoken_words
from zweistimme.window.bridge import Desk
from zweistimme.window.closeup_dub import (
    paint_edges,
    paint_tempo,
    placed_pauses,
    placed_words,
    stretches_of,
    take_times,
)
from zweistimme.window.closeup_hand import Bar, Hand, Rows, bars_of, rows_of, word_edges
from zweistimme.window.closeup_marks import paint_cuts, paint_ghosts, paint_pins
from zweistimme.window.closeup_title import title_of
from zweistimme.window.panel.heard_words import paint_fault
from zweistimme.window.peaks import PeakStore
from zweistimme.window.pitchline import PitchLine
from zweistimme.window.score.waves import row_levels, wave_image
from zweistimme.window.theme import SMALL_PT, colour, font, px
from zweistimme.window.ways_bar import WaysBar

_LEFT, _RIGHT = 74, 14
"""Pixels at either side; at the left stand the names of the two waves."""
_MOST_SHIFT = 34
_MARKS = ".,;:!?…“”„«»()¿¡"


class CloseUp(QWidget):
    """Drag an edge of the original to retime it, the take to pin it, its end to pin its length; a word of the take,
    or a phrase, to hold it to a moment."""

    menu_wanted = pyqtSignal(str, QPoint)
    """What is under the pointer, and where on the screen it is."""

    def __init__(self, desk: Desk, peaks: PeakStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._peaks = desk, peaks
        self._window = (0.0, 1.0)
        self._playhead_us = 0.0
        self._picture: QPixmap | None = None
        self._take_words: tuple[Word, ...] = ()
        self.sounding = ""
        """The word of the take that a menu was asked for."""
        self._hand = Hand(self, desk, self.x_of, self.time_at, lambda: self._playhead_us)
        self.setMinimumHeight(px(126))
        self.setMouseTracking(True)
        self.setLayoutDirection(Qt.LayoutDirection.LeftToRight)  # as sound and the Score are read everywhere
        self.setAccessibleName(tr("Close-up of the selected line"))
        desk.changed.connect(lambda _change: self.update())
        desk.version_changed.connect(lambda _tag: self.update())
        desk.selected.connect(self._show_other)
        for signal in (peaks.arrived, desk.word_changed, desk.heard_changed, desk.previewed):
            signal.connect(lambda *_: self.update())
        self.ways = WaysBar(desk, self)
        desk.previewed.connect(lambda *_: self.ways.setVisible(not self._hand.ghosts()))  # their names stand there
        self.pitch = PitchLine(desk, self)
        self.pitch.arrived.connect(self.update)

    def _show_other(self) -> None:
        self._hand.drop()
        self.update()

    def close_parts(self) -> None:
        """End the thread that measures pitch."""
        self.pitch.close()
        self.ways.close_parts()

    def sizeHint(self) -> QSize:
        return QSize(700, px(158))

    def resizeEvent(self, _event: object) -> None:
        self.ways.adjustSize()
        self.ways.move(self.width() - self.ways.width() - 6, self.height() - self.ways.height() - 1)

    def show_playhead(self, time_us: float) -> None:
        before, self._playhead_us = self.x_of(self._playhead_us), time_us
        for x in (before, self.x_of(time_us)):
            if -4 <= x <= self.width() + 4:
                self.update(int(x) - 3, 0, 6, self.height())

    def x_of(self, time_us: float) -> float:
        start, end = self._window
        return px(_LEFT) + (time_us - start) / max(1.0, end - start) * (self.width() - px(_LEFT) - _RIGHT)

    def time_at(self, x: float) -> float:
        start, end = self._window
        return start + (x - px(_LEFT)) / max(1, self.width() - px(_LEFT) - _RIGHT) * (end - start)

    # painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """What is painted in part has not changed but for the playhead: it comes from a picture that is kept."""
        ratio = self.devicePixelRatioF()
        painter = QPainter(self)
        if event is None or event.rect() == self.rect():
            self._picture = None
            self._paint(painter)
        else:
            if self._picture is None or self._picture.size() != self.size() * ratio:
                self._picture = QPixmap(self.size() * ratio)
                self._picture.setDevicePixelRatio(ratio)
                self._paint(QPainter(self._picture))
            painter.drawPixmap(0, 0, self._picture)
        if self._desk.segment() is not None:
            self._paint_playhead(painter)

    def _paint(self, painter: QPainter) -> None:
        """All but the playhead."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("sheet"))
        segment = self._desk.segment()
        if segment is None:
            painter.setPen(colour("faded"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, tr("Select a line to see it closely."))
            return
        bars = bars_of(self._desk)
        if not self._hand.holding:
            margin = 0.06 * (max(b.end_us for b in bars.values()) - min(b.start_us for b in bars.values()))
            self._window = (
                min(b.start_us for b in bars.values()) - margin,
                max(b.end_us for b in bars.values()) + margin,
            )
        if not self._hand.trying:
            bars |= self._hand.moved
        self._paint_title(painter, segment)
        rows = rows_of(self.height())
        self._paint_original(painter, segment, bars["original"], rows)
        placed = self._desk.placed()
        if placed is None:
            painter.setPen(colour("faded"))
            painter.setFont(font(italic=True))
            painter.drawText(
                QRectF(px(_LEFT), rows.lower, 400, rows.wave),
                Qt.AlignmentFlag.AlignVCenter,
                tr("No take is placed yet."),
            )
        else:
            self._paint_dub(painter, *placed, bars["dub"], rows)
            paint_ghosts(painter, self._hand.ghosts(), self.x_of, rows.lower, rows.wave)
        foot = rows.lower + rows.wave
        paint_cuts(painter, cuts_of(self._desk.project), self._window, self.x_of, rows.top - 1, foot)

    def _paint_title(self, painter: QPainter, segment: Segment) -> None:
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(colour("ink"))
        painter.drawText(QPointF(14, px(15)), tr("Close-up"))
        shift = painter.fontMetrics().horizontalAdvance(tr("Close-up")) + 24
        number = (self._desk.place(segment.id) or 0) + 1
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("faded"))
        painter.drawText(QPointF(shift, px(15)), title_of(number, segment, self._desk.placed()))

    def _frame(self, painter: QPainter, bar: Bar, top: int, wave: int, role: str) -> QRectF:
        box = QRectF(self.x_of(bar.start_us), top, self.x_of(bar.end_us) - self.x_of(bar.start_us), wave)
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour(role))
        painter.drawText(QRectF(14, top, px(_LEFT) - 18, wave), Qt.AlignmentFlag.AlignVCenter, tr(role))
        painter.fillRect(box, colour(f"{role}_soft"))
        for x in (box.left(), box.right()):
            painter.fillRect(QRectF(x - 1.5, top - 1, 3, wave + 2), colour(role))
        return box

    def _wave(
        self, painter: QPainter, box: QRectF, levels: np.ndarray[tuple[int], np.dtype[np.float64]], tint: QColor
    ) -> None:
        ratio = self.devicePixelRatioF()
        image = wave_image(levels, round((box.height() - 4) * ratio), [(slice(None), tint)], gain=1.3)
        image.setDevicePixelRatio(ratio)
        painter.save()
        painter.translate(box.left(), box.top() + 2)
        painter.rotate(-90)
        painter.scale(-1, 1)
        painter.drawImage(QPointF(0, 0), image)
        painter.restore()

    def _paint_original(self, painter: QPainter, segment: Segment, bar: Bar, rows: Rows) -> None:
        top, wave = rows.top, rows.wave
        box = self._frame(painter, bar, top, wave, "original")
        programme = self._desk.project.programme
        peaks = self._peaks.programme(programme.sound) if programme else None
        if peaks is not None and box.width() > 2:
            count = max(1, int(box.width() * self.devicePixelRatioF()))
            step = (bar.end_us - bar.start_us) / count
            times = bar.start_us + np.arange(count) * step
            self._wave(painter, box, row_levels(peaks, times, step), colour("original"))
        self.pitch.paint(painter, segment, box, self.x_of)
        words = self._shown_words(segment)
        self._words(painter, words, top + wave + px(12), "original", cursor=self._desk.word)
        for edge in word_edges(words):
            x = self.x_of(edge.at_us)
            painter.setPen(QPen(colour("original", 150), 1))
            painter.drawLine(QPointF(x, top + 2), QPointF(x, top + wave - 2))

    def _shown_words(self, segment: Segment) -> tuple[Word, ...]:
        """The segment's words, the edge that is dragged where the pointer is."""
        if self._hand.edge is None:
            return spoken_words(segment)
        place, at = self._hand.edge
        words = list(spoken_words(segment))
        words[place - 1] = replace(words[place - 1], end_us=at)
        words[place] = replace(words[place], start_us=at)
        return tuple(words)

    def _paint_dub(self, painter: QPainter, placement: Placement, take: Take, bar: Bar, rows: Rows) -> None:
        top, wave = rows.lower, rows.wave
        box = self._frame(painter, bar, top, wave, "dub")
        peaks = self._peaks.take(take)
        if peaks is not None and box.width() > 2:
            count = max(1, int(box.width() * self.devicePixelRatioF()))
            step = (bar.end_us - bar.start_us) / count
            times = take_times(placement, take, bar.start_us, count, step)
            wide = max(1.0, float(np.median(np.diff(times))) if count > 1 else step)
            self._wave(painter, box, row_levels(peaks, times, wide), colour("dub"))
        stretches = stretches_of(placement, take)
        paint_edges(painter, stretches, self.x_of, top, wave)
        for start, end in placed_pauses(placement, take):
            left, right = self.x_of(start), self.x_of(end)
            painter.fillRect(QRectF(left, top, right - left, wave), QColor(colour("faded", 40)))
        paint_tempo(painter, stretches, self.x_of, top, wave)
        words = placed_words(placement, take)
        self._words(painter, words, top - px(6), "dub")
        self._take_words = words
        paint_pins(painter, self._desk.line(), (placement, take), self.x_of, top, wave)
        heard = self._desk.heard.get(take.id)
        for word in heard.faults if heard else ():
            left, right = (self.x_of(placed_us(placement, take, at)) for at in (word.start_us, word.end_us))
            paint_fault(painter, word, QRectF(left, top, max(px(10), right - left), wave))

    def _words(
        self, painter: QPainter, words: tuple[Word, ...], base: int, role: str, cursor: int | None = None
    ) -> None:
        """Words at their times, each with a tick where it starts; one that would run into the word before moves on a
        little, and is left out where it would have to move far."""
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour(role))
        free = 0.0
        tick = base - px(12) if role == "original" else base + 3
        for place, word in enumerate(words):
            x = self.x_of(word.start_us)
            painter.setPen(colour(role))
            painter.drawLine(QPointF(x, tick), QPointF(x, tick + 3))
            if free - x < _MOST_SHIFT:
                shown = max(x, free)
                width = painter.fontMetrics().horizontalAdvance(word.text)
                if place == cursor:
                    painter.fillRect(QRectF(shown - 1, base - px(10), width + 4, px(14)), colour("chosen"))
                painter.setPen(colour("faded" if word.filler else role))
                painter.drawText(QPointF(shown + 1, base), word.text)
                if word.confidence < DOUBTFUL:
                    painter.setPen(QPen(colour("firm"), 1.6, Qt.PenStyle.DotLine))
                    painter.drawLine(QPointF(shown + 1, base + 3), QPointF(shown + 1 + width, base + 3))
                free = shown + width + 4

    def _paint_playhead(self, painter: QPainter) -> None:
        x = self.x_of(self._playhead_us)
        if px(_LEFT) <= x <= self.width() - _RIGHT:
            painter.setPen(QPen(colour("playhead"), 1.4))
            painter.drawLine(QPointF(x, px(20)), QPointF(x, self.height() - 4))

    # the mouse

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        segment = self._desk.segment()
        if event is None or segment is None:
            return
        rows = rows_of(self.height())
        time_us = self.time_at(event.pos().x())
        if event.pos().y() > (rows.top + rows.wave + rows.lower) / 2:
            under_it = (word.text for word in self._take_words if word.start_us <= time_us < word.end_us)
            self.sounding = next(under_it, "").strip(_MARKS)
            self.menu_wanted.emit("take" if self._desk.placed() else "dub", event.globalPos())
            return
        words = spoken_words(segment)
        under = next((place for place, word in enumerate(words) if word.start_us <= time_us < word.end_us), None)
        if under is not None and event.reason() is QContextMenuEvent.Reason.Mouse:
            self._desk.put_cursor(under)
        self.menu_wanted.emit("word" if words else "original", event.globalPos())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hand.take(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hand.move(event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """A word that is held is let go."""
        if event is not None:
            self._hand.free(event.position())

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._hand.let_go()
