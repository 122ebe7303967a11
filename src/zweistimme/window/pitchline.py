"""The pitch of the selected segment over its waveform, measured off the GUI thread, only while it is wanted."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from zweistimme.media.sound_reader import SoundReader
from zweistimme.messages import tr
from zweistimme.project.model import Segment
from zweistimme.project.times import RATE, SECOND_US, us_to_samples
from zweistimme.sound.arrays import Floats
from zweistimme.stages.work import working_file
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, colour, font

_LOWEST_HZ, _HIGHEST_HZ = 70.0, 400.0
_HOP_S = 0.01
_LOW_RATE = 16_000


class PitchLine(QObject):
    """Switched on and off; draws nothing until the pitch is there."""

    arrived = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.on = False
        self._known: tuple[str, int, int] | None = None
        self._hertz: Floats = np.empty(0)
        self._asked: tuple[str, int, int] | None = None
        self._work = Latest("pitch", self)
        self._work.ready.connect(self._take)

    def flip(self) -> None:
        """On or off."""
        self.on = not self.on
        self.arrived.emit()

    def close(self) -> None:
        self._work.close()

    def _take(self, found: object) -> None:
        assert isinstance(found, tuple)
        self._known, self._hertz = found
        self.arrived.emit()

    def paint(self, painter: QPainter, segment: Segment, box: QRectF, x_of: Callable[[float], float]) -> None:
        """Draw it into the waveform's box, from 70 to 400 Hz by octaves."""
        if not self.on:
            return
        key = (segment.id, segment.start_us, segment.end_us)
        if self._known != key:
            self._ask(key)
            return
        span = np.log2(_HIGHEST_HZ / _LOWEST_HZ)
        heights = (
            box.bottom() - np.log2(np.clip(self._hertz, _LOWEST_HZ, _HIGHEST_HZ) / _LOWEST_HZ) / span * box.height()
        )
        painter.setPen(QPen(colour("playhead"), 1.6))
        run: list[QPointF] = []
        for k, height in enumerate(heights):
            if np.isfinite(height):
                run.append(QPointF(x_of(segment.start_us + k * _HOP_S * SECOND_US), float(height)))
            if run and not np.isfinite(height):
                painter.drawPolyline(QPolygonF(run))
                run = []
        if run:
            painter.drawPolyline(QPolygonF(run))
        voiced = self._hertz[np.isfinite(self._hertz)]
        painter.setFont(font(SMALL_PT))
        words = tr("{median:.0f} Hz", median=np.median(voiced)) if len(voiced) else tr("no pitch")
        painter.drawText(box.adjusted(0, 1, -5, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, words)

    def _ask(self, key: tuple[str, int, int]) -> None:
        programme = self._desk.project.programme
        if programme is None or self._asked == key:
            return
        self._asked = key
        file = working_file(self._desk.document.cache, programme.sound)

        def measure() -> object:
            import soxr

            from zweistimme.sound.pitch import pitch_track

            first, last = us_to_samples(key[1]), us_to_samples(key[2])
            with SoundReader(file) as reader:
                sound = reader.mono(first, last - first + RATE // 20)
            low = soxr.resample(sound, RATE, _LOW_RATE, "QQ").astype(np.float32)
            return key, pitch_track(low, _LOW_RATE, hop_seconds=_HOP_S)

        self._work.want(measure)
