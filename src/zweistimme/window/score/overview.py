"""The whole programme at a glance, with both voices, trouble as ticks, and the visible part as a frame."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import takewhile

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QHelpEvent, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QToolTip, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import clock
from zweistimme.project.writing import graphemes, words_in
from zweistimme.window.bridge import Desk
from zweistimme.window.strain import Strain, strain_of
from zweistimme.window.theme import SMALL_PT, colour, font, speaker_colour
from zweistimme.window.tightness import Tightness

WIDTH = 52
_LETTERS = 40
_NAMES, _ORIGINAL, _DUB, _TIGHT, _TROUBLE = 6, 20, 29, 39, 44
"""Where the columns of the strip begin, in pixels."""
_TENSE = (Strain.FIRM, Strain.HARD)
_EDGE = 8
_MANY = 1_000
_REST_MS = 200


class Overview(QWidget):
    """A narrow strip; drag the frame or press anywhere to go there."""

    menu_wanted = pyqtSignal(str, QPoint)
    moved = pyqtSignal(float)
    """The time, in microseconds, that should be in the middle."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._visible = (0.0, 1.0)
        self._playhead_us = 0.0
        self._picture: QPixmap | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.draw_anew)
        self.tightness = Tightness(desk, self)
        self.tightness.counted.connect(self.draw_anew)
        self.setFixedWidth(WIDTH)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setLayoutDirection(Qt.LayoutDirection.LeftToRight)  # as sound and the Score are read everywhere
        self.setAccessibleName(tr("Overview of the programme"))
        desk.changed.connect(self._forget)
        desk.version_changed.connect(self._forget)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)

    def show_visible(self, start_us: float, end_us: float) -> None:
        """Move the frame."""
        self._visible = (start_us, end_us)
        self.update()

    def show_playhead(self, time_us: float) -> None:
        before, self._playhead_us = self._playhead_us, time_us
        if abs(self._y(before) - self._y(time_us)) >= 0.5:
            self.update()

    def _forget(self) -> None:
        """Draw anew; in a long programme once editing rests, since a row stands for many segments there."""
        if len(self._desk.project.segments) > _MANY:
            self._rest.start()
        elif self.isVisible():
            self.draw_anew()

    def draw_anew(self) -> None:
        """The project is another, or its colours."""
        self._picture = self._drawn()
        self.update()

    def _duration(self) -> float:
        project = self._desk.project
        ends = [project.programme.sound.duration_us] if project.programme else []
        ends += [project.segments[-1].end_us] if project.segments else []
        return float(max(ends, default=1))

    def _y(self, time_us: float) -> float:
        return _EDGE + (self.height() - 2 * _EDGE) * time_us / self._duration()

    def _time(self, y: float) -> float:
        return (y - _EDGE) / max(1, self.height() - 2 * _EDGE) * self._duration()

    def event(self, event: QEvent | None) -> bool:
        """Who speaks at the pointer is said."""
        if isinstance(event, QHelpEvent):
            segments, time_us = self._desk.project.segments, self._time(event.pos().y())
            place = bisect_right(segments, time_us, key=lambda segment: segment.start_us) - 1
            said = f"{clock(round(max(0.0, time_us)), 0)}"
            if place >= 0 and time_us < segments[place].end_us:
                said += f"  {self._desk.project.speakers[segments[place].speaker_id].name}"
                said += self._tight_words(segments[place].start_us)
            QToolTip.showText(event.globalPos(), tr("{said}\nPress or drag to go there.", said=said), self)
            return True
        return super().event(event)

    def _tight_words(self, start_us: int) -> str:
        """Whether what is said from there on will be tight."""
        strain = next((one for start, _, one in self.tightness.stretches if start == start_us), Strain.CALM)
        words = {Strain.FIRM: tr("a little tight"), Strain.HARD: tr("tight")}
        return f"\n{words[strain]}" if strain in words else ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.moved.emit(self._time(event.position().y()))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu_wanted.emit("overview", event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def resizeEvent(self, _event: object) -> None:
        self._picture = None

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self._picture is None:
            self._forget()
        painter = QPainter(self)
        if self._picture is not None:
            painter.drawPixmap(0, 0, self._picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, bottom = (self._y(max(0.0, min(t, self._duration()))) for t in self._visible)
        painter.setPen(QPen(colour("ink"), 1.6))
        painter.setBrush(colour("card", 60))
        painter.drawRoundedRect(QRectF(2.5, top, WIDTH - 5, max(8.0, bottom - top)), 3, 3)
        painter.setPen(QPen(colour("playhead"), 1.6))
        y = self._y(self._playhead_us)
        painter.drawLine(QPointF(2, y), QPointF(WIDTH - 2, y))

    def _drawn(self) -> QPixmap:
        """Both voices as one image: a row of pixels is one stretch of time, whatever the number of segments."""
        ratio = self.devicePixelRatioF()
        rows = max(1, round((self.height() - 2 * _EDGE) * ratio))
        picture = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(colour("sheet"))
        painter = QPainter(picture)
        painter.setPen(QPen(colour("rule"), 1))
        painter.setBrush(colour("card"))
        painter.drawRoundedRect(
            QRectF(_ORIGINAL - 2.5, _EDGE - 3, _TIGHT - _ORIGINAL + 2, self.height() - 2 * _EDGE + 6), 3, 3
        )
        people = {key: place for place, key in enumerate(self._desk.project.speakers)}
        segments, version = self._desk.project.segments, self._desk.version
        voices = [(s.start_us, s.end_us, people[s.speaker_id]) for s in segments]
        self._column(painter, _ORIGINAL, rows, voices, [speaker_colour(place) for place in range(len(people))])
        placed = list(version.placements.values()) if version else []
        dubs = [(p.start_us, p.start_us + p.length_us, 0) for p in placed]
        self._column(painter, _DUB, rows, dubs, [colour("dub", 190)])
        tight = [(start, end, _TENSE.index(strain)) for start, end, strain in self.tightness.stretches]
        self._column(painter, _TIGHT, rows, tight, [colour(strain.role) for strain in _TENSE], width=3, least=2)
        hard = [(p.start_us, p.start_us + 1, 0) for p in placed if strain_of(p) is Strain.HARD]
        self._column(painter, _TROUBLE, rows, hard, [colour("hard")], width=6, least=3)
        self._names(painter, voices)
        painter.end()
        return picture

    def _names(self, painter: QPainter, voices: Sequence[tuple[int, int, int]]) -> None:
        """The first letter of whoever begins to speak, where there is room for it."""
        letters = initials([speaker.name for speaker in self._desk.project.speakers.values()])
        painter.setFont(font(SMALL_PT - 0.5, bold=True))
        height = painter.fontMetrics().height()
        free, before = float(_EDGE), -1
        scale = (self.height() - 2 * _EDGE) / self._duration()
        for start, _, place in voices:
            y = _EDGE + scale * start
            if place != before and y >= free and y + height <= self.height() - _EDGE / 2:
                painter.setPen(speaker_colour(place))
                painter.drawText(QRectF(_NAMES, y - 2, 13, height), Qt.AlignmentFlag.AlignHCenter, letters[place])
                free = y + height
            before = place

    def _column(
        self, painter: QPainter, x: int, rows: int, spans: Sequence[tuple[int, int, int]], tints: Sequence[QColor],
        *, width: int = 8, least: int = 1,
    ) -> None:  # fmt: skip
        """Spans of time, each in the colour of its number, down one column."""
        if not spans or not tints:
            return
        table = np.array(spans, dtype=np.int64)
        scale = rows / self._duration()
        tops = np.clip((table[:, 0] * scale).astype(np.int64), 0, rows - 1)
        ends = np.clip(np.maximum((table[:, 1] * scale).astype(np.int64), tops + least), 1, rows)
        shown = np.full(rows + least + 1, -1, dtype=np.int64)
        for depth in range(int((ends - tops).max())):
            inside = tops + depth < ends
            shown[tops[inside] + depth] = table[inside, 2]
        palette = np.array([[c.blue(), c.green(), c.red(), c.alpha()] for c in tints] + [[0, 0, 0, 0]], dtype=np.uint8)
        pixels = np.repeat(palette[shown[:rows]][:, None, :], width, axis=1)
        image = QImage(pixels.tobytes(), width, rows, width * 4, QImage.Format.Format_ARGB32)
        painter.drawImage(QRectF(x, _EDGE, width, self.height() - 2 * _EDGE), image, QRectF(image.rect()))


def initials(names: Sequence[str]) -> list[str]:
    """A letter for each name: its first, or that of the word that tells it from others that begin with the same.

    >>> initials(["Speaker A", "Speaker B", "Maren", "Speaker"]), initials(["話者一", "話者二", "Uhr"])
    (['A', 'B', 'M', 'S'], ['一', '二', 'U'])
    """
    words = [words_in(name[:_LETTERS]) or [""] for name in names]
    letters = []
    for own in words:
        others = [other for other in words if other[0] == own[0] and (len(other) > 1) == (len(own) > 1)]
        alike = sum(1 for _ in takewhile(lambda column: len({*column}) == 1, zip(*others, strict=False)))
        told_by = own[alike] if alike < len(own) else own[0]
        letters.append(next(iter(graphemes(told_by)), ""))
    return letters
