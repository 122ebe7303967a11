"""The picture at the playhead, decoded on a thread of its own, with the version's caption on it."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zweistimme.formats.captions import marked_text
from zweistimme.formats.cue import Cue
from zweistimme.media.picture import PictureReader
from zweistimme.messages import tr
from zweistimme.project.errors import MediaError
from zweistimme.project.times import SECOND_US
from zweistimme.window.background import CLOSING_S
from zweistimme.window.mishaps import tell_defect
from zweistimme.window.theme import TEXT_PT, colour, font

_DECODED_WIDTH = 480


class PictureView(QWidget):
    """Shows the frame at a time; asks for the newest wanted one only, so that it never lags behind."""

    _arrived = pyqtSignal(QImage)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._image: QImage | None = None
        self._cues: list[Cue] = []
        self._time_us = 0.0
        self._words = tr("No picture: this programme is sound alone.")
        self._wanted: float | None = None
        self._path: Path | None = None
        self._length_us = 0
        self._closed = False
        self._lock = threading.Condition()
        self._arrived.connect(self._show)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(tr("Picture at the playhead"))
        self._thread = threading.Thread(target=self._decode, name="picture", daemon=True)
        self._thread.start()

    def sizeHint(self) -> QSize:
        return QSize(345, 196)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """As high as a picture of 16 to 9 is at this width, but never more than leaves the line its room."""
        super().resizeEvent(event)
        outer = self.parentWidget()
        most = outer.height() // 2 if outer else 400
        self.setFixedHeight(max(90, min(self.width() * 9 // 16, most)))

    def open(self, path: Path | None, length_us: int = 0) -> None:
        """Show this file's picture from now on; *length_us* is how long its programme lasts."""
        self._words = tr("No picture: this programme is sound alone.")
        if path is not None and not path.is_file():
            self._words = tr("{name} is not where it was; put it back to see the picture.", name=path.name)
            path = None
        with self._lock:
            self._path, self._length_us, self._image = path, length_us, None
            self._lock.notify()
        self.update()

    def set_captions(self, cues: list[Cue]) -> None:
        self._cues = cues
        self.update()

    def show_time(self, time_us: float) -> None:
        """Show the frame at a time."""
        before, self._time_us = self._shown_cues(), time_us
        with self._lock:
            self._wanted = time_us / SECOND_US
            self._lock.notify()
        if self._shown_cues() != before:
            self.update()

    def close_source(self) -> None:
        """End the thread."""
        with self._lock:
            self._closed = True
            self._lock.notify()
        self._thread.join(CLOSING_S)

    def _show(self, image: QImage) -> None:
        self._image = image
        self.update()

    def _decode(self) -> None:
        reader: PictureReader | None = None
        path: Path | None = None
        length_us = 0
        while True:
            with self._lock:
                while not self._closed and (
                    self._wanted is None and (path, length_us) == (self._path, self._length_us)
                ):
                    self._lock.wait()
                if self._closed:
                    break
                wanted, self._wanted = self._wanted, None
                new = self._path, self._length_us
            if new != (path, length_us):
                path, length_us = new
                reader = self._opened(reader, path, length_us)
                wanted = wanted if wanted is not None else self._time_us / SECOND_US
            if reader is not None and wanted is not None:
                self._bring(reader, wanted)
        if reader is not None:
            reader.close()

    def _bring(self, reader: PictureReader, wanted_s: float) -> None:
        try:
            frame = reader.at(wanted_s, _DECODED_WIDTH)
        except Exception:  # the picture before stays
            tell_defect()
            return
        if frame is not None and not self._closed:
            self._arrived.emit(_as_image(frame))

    @staticmethod
    def _opened(before: PictureReader | None, path: Path | None, length_us: int) -> PictureReader | None:
        if before is not None:
            before.close()
        try:
            return PictureReader(path, length_us / SECOND_US) if path is not None else None
        except MediaError:
            return None

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("ink") if self._image else colour("sheet"))
        if self._image is None:
            painter.setPen(colour("faded"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(
                QRectF(self.rect()).adjusted(20, 10, -20, -10), flags, self._words if not self._path else ""
            )
            return
        size = self._image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
        painter.drawImage(QRectF(left, top, size.width(), size.height()), self._image)
        self._paint_caption(painter)

    def _shown_cues(self) -> list[Cue]:
        return [cue for cue in self._cues if cue.start_us <= self._time_us < cue.end_us]

    def _paint_caption(self, painter: QPainter) -> None:
        shown = self._shown_cues()
        if not shown:
            return
        text = "\n".join(marked_text(cue.text) for cue in shown)
        painter.setFont(font(TEXT_PT - 0.5))
        flags = Qt.AlignmentFlag.AlignCenter
        room = QRectF(4, 0, self.width() - 8, self.height() - 8)
        box = painter.boundingRect(room, flags, text)
        box.moveBottom(self.height() - 10)
        frame = box.adjusted(-8, -4, 8, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Qt.GlobalColor.black)
        painter.setOpacity(0.72)
        painter.drawRoundedRect(frame, 4, 4)
        painter.setOpacity(1.0)
        painter.setPen(Qt.GlobalColor.white)
        painter.drawText(box, flags, text)


def _as_image(frame: np.ndarray[tuple[int, int, int], np.dtype[np.uint8]]) -> QImage:
    height, width, _ = frame.shape
    return QImage(np.ascontiguousarray(frame).tobytes(), width, height, width * 4, QImage.Format.Format_RGB32).copy()
