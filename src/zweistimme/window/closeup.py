"""The close-up: the selected line magnified. Original above, take below, words at their times, what was stretched."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from zweistimme.project.edits import pin_line
from zweistimme.project.model import Pin, Placement, Segment, Take, Word
from zweistimme.project.times import SECOND_US, clock, samples_to_us
from zweistimme.project.transcript import move_word_edge, retime_segment
from zweistimme.project.words import DOUBTFUL, LEAST_WORD_US, spoken_words
from zweistimme.window.bridge import Desk
from zweistimme.window.peaks import PeakStore
from zweistimme.window.pitchline import PitchLine
from zweistimme.window.score.waves import row_levels, wave_image
from zweistimme.window.theme import SMALL_PT, colour, font

_LEFT, _RIGHT, _TOP = 74, 14, 24
_WAVE = 40
_REACH = 6
_WORD_REACH = 4
_MOST_SHIFT = 34


@dataclass(frozen=True, slots=True)
class WordEdge:
    """Where word number *place* begins."""

    place: int
    at_us: int


def word_edges(words: Sequence[Word]) -> list[WordEdge]:
    """The edges between words that can be dragged."""
    return [WordEdge(place, word.start_us) for place, word in enumerate(words) if place]


@dataclass(frozen=True, slots=True)
class _Bar:
    """One of the two waves: where it starts and ends in programme time."""

    start_us: int
    end_us: int


class CloseUp(QWidget):
    """Drag an edge of the original to retime it, the take to pin it, its end to pin its length."""

    def __init__(self, desk: Desk, peaks: PeakStore, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._peaks = desk, peaks
        self._window = (0.0, 1.0)
        self._playhead_us = 0.0
        self._drag: tuple[str, float] | None = None
        self._moved: dict[str, _Bar] = {}
        self._edge: tuple[int, int] | None = None
        self.setFixedHeight(158)
        self.setMouseTracking(True)
        self.setAccessibleName("Close-up of the selected line")
        desk.changed.connect(lambda _change: self.update())
        desk.version_changed.connect(lambda _tag: self.update())
        desk.selected.connect(lambda _id: self.update())
        for signal in (peaks.arrived, desk.word_changed):
            signal.connect(lambda *_: self.update())
        self.pitch = PitchLine(desk, self)
        self.pitch.arrived.connect(self.update)

    def close_parts(self) -> None:
        """End the thread that measures pitch."""
        self.pitch.close()

    def sizeHint(self) -> QSize:
        return QSize(700, 158)

    def show_playhead(self, time_us: float) -> None:
        self._playhead_us = time_us
        self.update()

    def _bars(self) -> dict[str, _Bar]:
        segment, placed = self._desk.segment(), self._desk.placed()
        bars = {}
        if segment is not None:
            bars["original"] = _Bar(segment.start_us, segment.end_us)
        if placed is not None:
            bars["dub"] = _Bar(placed[0].start_us, placed[0].start_us + placed[0].length_us)
        return bars

    def _x(self, time_us: float) -> float:
        start, end = self._window
        return _LEFT + (time_us - start) / max(1.0, end - start) * (self.width() - _LEFT - _RIGHT)

    def _time(self, x: float) -> float:
        start, end = self._window
        return start + (x - _LEFT) / max(1, self.width() - _LEFT - _RIGHT) * (end - start)

    # painting

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("sheet"))
        segment = self._desk.segment()
        if segment is None:
            painter.setPen(colour("faded"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Select a line to see it closely.")
            return
        bars = self._bars()
        if self._drag is None:
            margin = 0.06 * (max(b.end_us for b in bars.values()) - min(b.start_us for b in bars.values()))
            self._window = (
                min(b.start_us for b in bars.values()) - margin,
                max(b.end_us for b in bars.values()) + margin,
            )
        bars |= self._moved
        self._paint_title(painter, segment)
        top = _TOP
        self._paint_original(painter, segment, bars["original"], top)
        placed = self._desk.placed()
        lower = top + _WAVE + 34
        if placed is None:
            painter.setPen(colour("faded"))
            painter.setFont(font(italic=True))
            painter.drawText(QRectF(_LEFT, lower, 400, _WAVE), Qt.AlignmentFlag.AlignVCenter, "No take is placed yet.")
        else:
            self._paint_dub(painter, *placed, bars["dub"], lower)
        self._paint_playhead(painter)

    def _paint_title(self, painter: QPainter, segment: Segment) -> None:
        painter.setFont(font(SMALL_PT, bold=True))
        painter.setPen(colour("ink"))
        painter.drawText(QPointF(14, 15), "Close-up")
        shift = painter.fontMetrics().horizontalAdvance("Close-up") + 24
        parts = [f"line {(self._desk.place(segment.id) or 0) + 1}"]
        parts.append(f"segment {(segment.end_us - segment.start_us) / SECOND_US:.2f} s")
        placed = self._desk.placed()
        if placed:
            placement, take = placed
            speech = samples_to_us(take.speech_end_samples - take.speech_start_samples) / SECOND_US
            trimmed = samples_to_us(take.length_samples) / SECOND_US - speech
            parts.append(f"take {speech:.2f} s ({trimmed:.2f} s of silence trimmed)")
            parts.append(f"after fit {placement.length_us / SECOND_US:.2f} s at ×{placement.tempo:.2f}")
            if abs(placement.pauses_cut_us) > 10_000:
                verb = "shortened" if placement.pauses_cut_us > 0 else "lengthened"
                parts.append(f"pauses {verb} {abs(placement.pauses_cut_us) / SECOND_US:.2f} s")
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("faded"))
        painter.drawText(QPointF(shift, 15), " · ".join(parts))

    def _frame(self, painter: QPainter, bar: _Bar, top: int, role: str, label: str) -> QRectF:
        box = QRectF(self._x(bar.start_us), top, self._x(bar.end_us) - self._x(bar.start_us), _WAVE)
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour(role))
        painter.drawText(QRectF(14, top, _LEFT - 22, _WAVE), Qt.AlignmentFlag.AlignVCenter, label)
        painter.fillRect(box, colour(f"{role}_soft"))
        for x in (box.left(), box.right()):
            painter.fillRect(QRectF(x - 1.5, top - 1, 3, _WAVE + 2), colour(role))
        return box

    def _wave(
        self, painter: QPainter, box: QRectF, levels: np.ndarray[tuple[int], np.dtype[np.float64]], tint: QColor
    ) -> None:
        image = wave_image(levels, _WAVE - 4, [(slice(None), tint)], gain=1.3)
        painter.save()
        painter.translate(box.left(), box.top() + 2)
        painter.rotate(-90)
        painter.scale(-1, 1)
        painter.drawImage(QPointF(0, 0), image)
        painter.restore()

    def _paint_original(self, painter: QPainter, segment: Segment, bar: _Bar, top: int) -> None:
        box = self._frame(painter, bar, top, "original", "original")
        programme = self._desk.project.programme
        peaks = self._peaks.programme(programme.sound) if programme else None
        if peaks is not None and box.width() > 2:
            step = (bar.end_us - bar.start_us) / box.width()
            times = bar.start_us + np.arange(int(box.width())) * step
            self._wave(painter, box, row_levels(peaks, times, step), colour("original"))
        self.pitch.paint(painter, segment, box, self._x)
        words = self._shown_words(segment)
        self._words(painter, words, top + _WAVE + 12, "original", cursor=self._desk.word)
        for edge in word_edges(words):
            x = self._x(edge.at_us)
            painter.setPen(QPen(colour("original", 150), 1))
            painter.drawLine(QPointF(x, top + 2), QPointF(x, top + _WAVE - 2))

    def _shown_words(self, segment: Segment) -> tuple[Word, ...]:
        """The segment's words, the edge that is dragged where the pointer is."""
        if self._edge is None:
            return spoken_words(segment)
        place, at = self._edge
        words = list(spoken_words(segment))
        words[place - 1] = replace(words[place - 1], end_us=at)
        words[place] = replace(words[place], start_us=at)
        return tuple(words)

    def _paint_dub(self, painter: QPainter, placement: Placement, take: Take, bar: _Bar, top: int) -> None:
        box = self._frame(painter, bar, top, "dub", "dub")
        peaks = self._peaks.take(take)
        speech = samples_to_us(take.speech_end_samples - take.speech_start_samples)
        if peaks is not None and box.width() > 2:
            step = speech / box.width()
            self._wave(
                painter, box, row_levels(peaks, np.arange(int(box.width())) * step, max(step, 1.0)), colour("dub")
            )
        pace = (bar.end_us - bar.start_us) / max(1, speech)
        first = samples_to_us(take.speech_start_samples)
        for a, b in take.pauses_samples:
            left, right = (self._x(bar.start_us + (samples_to_us(s) - first) * pace) for s in (a, b))
            painter.fillRect(QRectF(left, top, right - left, _WAVE), QColor(colour("faded", 40)))
        words = tuple(
            Word(
                w.text,
                bar.start_us + round(max(0, w.start_us - first) * pace),
                bar.start_us + round(max(0, w.end_us - first) * pace),
            )
            for w in take.words
        )
        self._words(painter, words, top - 6, "dub")

    def _words(
        self, painter: QPainter, words: tuple[Word, ...], base: int, role: str, cursor: int | None = None
    ) -> None:
        """Words at their times, each with a tick where it starts; one that would run into the word before moves on a
        little, and is left out where it would have to move far."""
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour(role))
        free = 0.0
        tick = base - 12 if role == "original" else base + 3
        for place, word in enumerate(words):
            x = self._x(word.start_us)
            painter.setPen(colour(role))
            painter.drawLine(QPointF(x, tick), QPointF(x, tick + 3))
            if free - x < _MOST_SHIFT:
                shown = max(x, free)
                width = painter.fontMetrics().horizontalAdvance(word.text)
                if place == cursor:
                    painter.fillRect(QRectF(shown - 1, base - 10, width + 4, 14), colour("chosen"))
                painter.setPen(colour("faded" if word.filler else role))
                painter.drawText(QPointF(shown + 1, base), word.text)
                if word.confidence < DOUBTFUL:
                    painter.setPen(QPen(colour("firm"), 1.6, Qt.PenStyle.DotLine))
                    painter.drawLine(QPointF(shown + 1, base + 3), QPointF(shown + 1 + width, base + 3))
                free = shown + width + 4

    def _paint_playhead(self, painter: QPainter) -> None:
        x = self._x(self._playhead_us)
        if _LEFT <= x <= self.width() - _RIGHT:
            painter.setPen(QPen(colour("playhead"), 1.4))
            painter.drawLine(QPointF(x, _TOP - 4), QPointF(x, self.height() - 4))

    # the mouse

    def _grip(self, at: QPointF) -> str:
        bars = self._bars()
        upper = _TOP <= at.y() <= _TOP + _WAVE
        lower = _TOP + _WAVE + 34 <= at.y() <= _TOP + 2 * _WAVE + 34
        if upper and "original" in bars:
            for name, time in (("start", bars["original"].start_us), ("end", bars["original"].end_us)):
                if abs(at.x() - self._x(time)) <= _REACH:
                    return name
            segment = self._desk.segment()
            for edge in word_edges(spoken_words(segment)) if segment else ():
                if abs(at.x() - self._x(edge.at_us)) <= _WORD_REACH:
                    return f"word {edge.place}"
        if lower and "dub" in bars:
            if abs(at.x() - self._x(bars["dub"].end_us)) <= _REACH:
                return "length"
            if self._x(bars["dub"].start_us) - _REACH <= at.x() <= self._x(bars["dub"].end_us):
                return "take"
        return ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (grip := self._grip(event.position())):
            self._drag = (grip, self._time(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._drag is None:
            shapes = {"take": Qt.CursorShape.OpenHandCursor, "": Qt.CursorShape.ArrowCursor}
            self.setCursor(shapes.get(self._grip(event.position()), Qt.CursorShape.SizeHorCursor))
            return
        grip, origin = self._drag
        if grip.startswith("word"):
            self._drag_word(int(grip.split()[1]), round(self._time(event.position().x()) / 1000) * 1000)
            return
        by = round((self._time(event.position().x()) - origin) / 1000) * 1000
        name = "original" if grip in ("start", "end") else "dub"
        bar = self._bars()[name]
        start = bar.start_us + (by if grip in ("start", "take") else 0)
        end = bar.end_us + (by if grip != "start" else 0)
        if start >= 0 and end - start >= 100_000:
            self._moved = {name: _Bar(start, end)}
            self.setToolTip(f"{clock(start, 2)} to {clock(end, 2)}")
            self.update()

    def _drag_word(self, place: int, at_us: int) -> None:
        """Show an edge between two words where the pointer is, as far as the words allow."""
        segment = self._desk.segment()
        words = spoken_words(segment) if segment else ()
        if place >= len(words):
            return
        low, high = words[place - 1].start_us + LEAST_WORD_US, words[place].end_us - LEAST_WORD_US
        self._edge = (place, max(low, min(at_us, high)))
        self.setToolTip(f"“{words[place].text}” begins at {clock(self._edge[1], 3)}")
        self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        drag, moved, edge = self._drag, self._moved, self._edge
        self._drag, self._moved, self._edge = None, {}, None
        if edge is not None:
            here = self._desk.segment_id
            self._desk.apply("Move a word's edge", lambda project: move_word_edge(project, here, *edge))
            return
        if drag is None or not moved:
            return
        (bar,) = moved.values()
        tag, segment_id = self._desk.tag, self._desk.segment_id
        if drag[0] in ("start", "end"):
            self._desk.apply(
                "Retime a segment", lambda project: retime_segment(project, segment_id, bar.start_us, bar.end_us)
            )
        else:
            line = self._desk.line()
            kept = line.pin.length_us if line and line.pin else None
            pin = Pin(bar.start_us, bar.end_us - bar.start_us if drag[0] == "length" else kept)
            self._desk.apply("Pin a take", lambda project: pin_line(project, tag, segment_id, pin))
