"""Play, repeat, time, and the three lanes with level, mute and solo."""

from __future__ import annotations

from collections.abc import Callable, Collection

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QHBoxLayout, QLabel, QSlider, QToolButton, QWidget

from zweistimme.messages import tr
from zweistimme.project.times import clock
from zweistimme.window.actions import BY_ID, tip
from zweistimme.window.clock import Player
from zweistimme.window.line_up import LANES, LineUp
from zweistimme.window.theme import SMALL_PT, TITLE_PT, colour, font, px, tint

SPEEDS = (1.0, 0.85, 0.7, 0.5)
_ROLES = {"Original": "original", "Bed": "faded", "Dub": "dub"}


class PlayButton(QAbstractButton):
    """A round button that plays or pauses."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setCheckable(True)
        self.setToolTip(tip("play"))
        self.setAccessibleName(tr("Play or pause"))

    def sizeHint(self) -> QSize:
        return QSize(36, 36)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(colour("chosen_edge")) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(colour("ink"))
        painter.drawEllipse(self.rect().adjusted(2, 2, -2, -2))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("card"))
        if self.isChecked():
            painter.drawRect(12, 11, 4, 14)
            painter.drawRect(20, 11, 4, 14)
        else:
            painter.drawPolygon(QPolygonF([QPointF(14, 10), QPointF(27, 18), QPointF(14, 26)]))


class Transport(QWidget):
    """The strip at the bottom."""

    loop_wanted = pyqtSignal(bool)

    def __init__(self, player: Player, line_up: LineUp, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._line_up = line_up
        self.lanes: dict[str, tuple[QToolButton, QSlider]] = {}
        """The switch and the level of each lane."""
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 4)
        row.setSpacing(7)
        self.button = PlayButton()
        self.button.clicked.connect(lambda: player.toggle())
        self._shown: Callable[[int], str] = lambda time_us: clock(time_us, 3)
        self._time_us = 0.0
        self.time = QLabel("0:00.000")
        self.time.setFont(font(TITLE_PT, bold=True))
        self.time.setMinimumWidth(px(104))
        self.loop = self._switch(tr("repeat line"), "loop")
        self.loop.toggled.connect(self.loop_wanted)
        self.speed = QComboBox()
        for speed in SPEEDS:
            self.speed.addItem(f"×{speed:g}", speed)
        self.speed.setToolTip(f"{tr('How fast it is played; the pitch is kept.')} {tip('slower')}, {tip('faster')}")
        self.speed.setAccessibleName(tr("Speed of playing"))
        self.speed.activated.connect(lambda place: player.set_speed(SPEEDS[place]))
        player.speed_changed.connect(lambda speed: self.speed.setCurrentIndex(SPEEDS.index(speed)))
        self.follow, self.along = self._switch(tr("follow"), "follow"), self._switch(tr("select along"), "select_along")
        self.follow.setChecked(True)
        for widget in (self.button, self.time, self.speed, self.loop, self.follow, self.along):
            row.addWidget(widget)
        row.addStretch(1)
        self.before = self._switch(tr("before"), "before")
        self.before.toggled.connect(self._hear_before)
        row.addWidget(self.before)
        for name in LANES:
            self._add_lane(row, name)
        player.moved.connect(self._show_time)
        player.playing_changed.connect(self.button.setChecked)

    @staticmethod
    def _switch(words: str, action_id: str) -> QToolButton:
        made = QToolButton()
        made.setText(words)
        made.setCheckable(True)
        made.setToolTip(tip(action_id))
        return made

    def _add_lane(self, row: QHBoxLayout, name: str) -> None:
        state = self._line_up.states[name]
        button = QToolButton()
        button.setCheckable(True)
        button.setFont(font(SMALL_PT + 0.5, bold=True))
        tint(button, _ROLES[name])
        button.setToolTip(f"{tip(f'lane_{name}')}. {tip(f'alone_{name}')}: {tr('also with Shift pressed.')}")
        button.setAccessibleName(BY_ID[f"lane_{name}"].words)
        button.clicked.connect(lambda: self._press(name))
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, 150)
        slider.setValue(round(state.level * 100))
        slider.setMinimumWidth(30)  # what gives way in a narrow window
        slider.setMaximumWidth(84)
        slider.setToolTip(tr("Level while listening: {lane}", lane=tr(name)))
        slider.setAccessibleName(tr("Level while listening: {lane}", lane=tr(name)))
        slider.valueChanged.connect(lambda value: setattr(state, "level", value / 100))
        row.addWidget(button)
        row.addWidget(slider)
        self.lanes[name] = (button, slider)

    def _press(self, name: str) -> None:
        if QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.flip_alone(name)
        else:
            self.flip_lane(name)

    def flip_lane(self, name: str) -> None:
        """Hear a lane, or leave it out."""
        self._line_up.flip(name)
        self._show_line_up()

    def flip_alone(self, name: str) -> None:
        """Hear a lane alone, or all again."""
        self._line_up.flip_alone(name)
        self._show_line_up()

    def _hear_before(self, on: bool) -> None:
        self._line_up.before = on
        self._show_line_up()

    def show_lanes(self, there: Collection[str]) -> None:
        """Lanes without sound are switched off."""
        for name, parts in self.lanes.items():
            for widget in parts:
                widget.setEnabled(name in there)
        self._show_line_up()

    def _show_line_up(self) -> None:
        heard = self._line_up.factors()
        for name, (button, _) in self.lanes.items():
            button.setChecked(heard[name] > 0)
            button.setText(tr("{lane} alone", lane=tr(name)) if self._line_up.states[name].solo else tr(name))

    def count_as(self, shown: Callable[[int], str]) -> None:
        """Show times as *shown* gives them: from the beginning, or as timecode."""
        self._shown = shown
        self._show_time(self._time_us)

    def _show_time(self, time_us: float) -> None:
        self._time_us = time_us
        self.time.setText(self._shown(round(time_us)))
