"""The meters: how loud what is heard is just now, and since playing began, beside what is wanted."""

from __future__ import annotations

from math import isfinite
from typing import Final

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.window.heard_meter import HeardLoudness, HeardMeter
from zweistimme.window.mix.columns import WITHIN_LU
from zweistimme.window.mix.painting import across
from zweistimme.window.theme import SMALL_PT, colour, font, px

_EVERY_MS: Final = 100
_ROW: Final = 30
_ROWS: Final = (
    (msg("moment"), "momentary_lufs", "LUFS"),
    (msg("short term"), "short_term_lufs", "LUFS"),
    (msg("whole"), "integrated_lufs", "LUFS"),
    (msg("range"), "range_lu", "LU"),
    (msg("true peak"), "true_peak_dbtp", "dBTP"),
)
_WIDEST_LU: Final = 25.0


class Meters(QWidget):
    """Five bars, read ten times a second while they are seen."""

    def __init__(self, meter: HeardMeter, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._meter = meter
        self.preset = SoundPreset()
        self.heard = HeardLoudness()
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self._look)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(tr("Meters of what is heard"))
        self.setToolTip(tr("What is heard, since playing began"))

    def sizeHint(self) -> QSize:
        return QSize(px(250), len(_ROWS) * px(_ROW) + 4)

    def show_preset(self, preset: SoundPreset) -> None:
        """What is wanted."""
        self.preset = preset
        self.update()

    def showEvent(self, _event: object) -> None:
        self._meter.on = True
        self._timer.start()

    def hideEvent(self, _event: object) -> None:
        self._meter.on = False
        self._timer.stop()

    def _look(self) -> None:
        heard = self._meter.read()
        if heard != self.heard:
            self.heard = heard
            self.setAccessibleDescription(self.words())
            self.update()

    def words(self) -> str:
        """All of it as a sentence."""
        return ", ".join(f"{tr(name)} {self._figure(field, unit)}" for name, field, unit in _ROWS)

    def _figure(self, field: str, unit: str) -> str:
        value = getattr(self.heard, field)
        return f"{value:.1f} {unit}" if isfinite(value) else f"– {unit}"

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        name_width, figure_width = px(70), px(78)
        for place, (name, field, unit) in enumerate(_ROWS):
            row = QRectF(0, place * px(_ROW) + 2, self.width(), px(_ROW) - 4)
            middle = Qt.AlignmentFlag.AlignVCenter
            painter.setFont(font(SMALL_PT))
            painter.setPen(colour("faded"))
            painter.drawText(QRectF(row.left(), row.top(), name_width, row.height()), middle, tr(name))
            bar = row.adjusted(name_width + 4, 5, -figure_width - 6, -5)
            self._paint_bar(painter, bar, field)
            painter.setPen(colour("ink"))
            painter.setFont(font(SMALL_PT + 0.5, bold=True))
            figure = QRectF(row.right() - figure_width, row.top(), figure_width, row.height())
            painter.drawText(figure, middle | Qt.AlignmentFlag.AlignRight, self._figure(field, unit))

    def _paint_bar(self, painter: QPainter, bar: QRectF, field: str) -> None:
        """The value over what is wanted: a band of calm for loudness, a line for the peak and the range."""
        value, preset = getattr(self.heard, field), self.preset
        painter.fillRect(bar, colour("card"))
        wanted: float | None
        if field == "range_lu":
            wanted, share = preset.most_range_lu, min(1.0, value / _WIDEST_LU)
            aim = None if wanted is None else min(1.0, wanted / _WIDEST_LU)
            over = wanted is not None and value > wanted
        elif field == "true_peak_dbtp":
            share = across(value - 6.0) if isfinite(value) else 0.0
            aim, over = across(preset.true_peak_dbtp - 6.0), value > preset.true_peak_dbtp + 0.05
        else:
            share = across(value) if isfinite(value) else 0.0
            aim, over = across(preset.loudness_lufs), value > preset.loudness_lufs + WITHIN_LU[1]
            low = bar.left() + bar.width() * across(preset.loudness_lufs - WITHIN_LU[0])
            high = bar.left() + bar.width() * across(preset.loudness_lufs + WITHIN_LU[1])
            painter.fillRect(QRectF(low, bar.top(), high - low, bar.height()), colour("calm_soft", 160))
        painter.fillRect(
            QRectF(bar.left(), bar.top() + 3, bar.width() * share, bar.height() - 6), colour("hard" if over else "ink")
        )
        if aim is not None:
            painter.setPen(QPen(colour("calm"), 1.6))
            x = bar.left() + bar.width() * aim
            painter.drawLine(int(x), int(bar.top()), int(x), int(bar.bottom()))
        painter.setPen(QPen(colour("rule"), 1))
        painter.drawRect(bar)
