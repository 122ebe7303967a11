"""Play, repeat, time, and the three lanes with level, mute and solo."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QHBoxLayout, QLabel, QMenu, QSlider, QToolButton, QWidget

from zweistimme.project.times import clock
from zweistimme.window.actions import tip
from zweistimme.window.clock import Player
from zweistimme.window.lanes import LANES, LaneMixer, LaneState
from zweistimme.window.theme import SMALL_PT, TITLE_PT, colour, font

SPEEDS = (1.0, 0.85, 0.7, 0.5)
_ROLES = {"Original": "original", "Bed": "faded", "Dub": "dub"}


class PlayButton(QAbstractButton):
    """A round button that plays or pauses."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setCheckable(True)
        self.setToolTip(tip("play"))
        self.setAccessibleName("Play or pause")

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

    def __init__(self, player: Player, mixer: LaneMixer, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._mixer = mixer
        self._lane_parts: dict[str, tuple[QWidget, ...]] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 14, 4)
        row.setSpacing(8)
        self.button = PlayButton()
        self.button.clicked.connect(lambda: player.toggle())
        self._shown: Callable[[int], str] = lambda time_us: clock(time_us, 3)
        self._time_us = 0.0
        self.time = QLabel("0:00.000")
        self.time.setFont(font(TITLE_PT, bold=True))
        self.time.setMinimumWidth(104)
        self.loop = QToolButton()
        self.loop.setText("repeat line")
        self.loop.setCheckable(True)
        self.loop.setToolTip(tip("loop"))
        self.loop.toggled.connect(self.loop_wanted)
        self.speed = QComboBox()
        for speed in SPEEDS:
            self.speed.addItem(f"×{speed:g}", speed)
        self.speed.setToolTip(f"How fast it is played; the pitch is kept. {tip('slower')}, {tip('faster')}")
        self.speed.setAccessibleName("Speed of playing")
        self.speed.activated.connect(lambda place: player.set_speed(SPEEDS[place]))
        player.speed_changed.connect(lambda speed: self.speed.setCurrentIndex(SPEEDS.index(speed)))
        for widget in (self.button, self.time, self.speed, self.loop):
            row.addWidget(widget)
        self.transcript = QToolButton()
        self.transcript.setText("transcript")
        self.transcript.setToolTip("All that can be done to the transcript, with its keys")
        self.transcript.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        row.addWidget(self.transcript)
        row.addStretch(1)
        for name in LANES:
            self._add_lane(row, name)
        player.moved.connect(self._show_time)
        player.playing_changed.connect(self.button.setChecked)

    def show_actions(self, actions: Sequence[QAction]) -> None:
        """What the transcript button offers."""
        menu = QMenu(self.transcript)
        group = ""
        for action in actions:
            if group and action.data() != group:
                menu.addSeparator()
            group = action.data()
            menu.addAction(action)
        self.transcript.setMenu(menu)

    def _add_lane(self, row: QHBoxLayout, name: str) -> None:
        state = self._mixer.states[name]
        label = QLabel(name)
        label.setFont(font(SMALL_PT + 0.5, bold=True))
        label.setStyleSheet(f"color: {colour(_ROLES[name]).name()}")
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, 150)
        slider.setValue(round(state.level * 100))
        slider.setMinimumWidth(48)  # what gives way in a narrow window
        slider.setMaximumWidth(84)
        slider.setToolTip(f"Level of the {name.lower()} while listening")
        slider.setAccessibleName(f"{name} level")
        slider.valueChanged.connect(lambda value: setattr(state, "level", value / 100))
        mute, solo = QToolButton(), QToolButton()
        mute.setText("mute")
        solo.setText("alone")
        mute.setChecked(state.mute)
        for button, attribute, words in ((mute, "mute", "Leave out"), (solo, "solo", "Hear only")):
            button.setCheckable(True)
            button.setChecked(getattr(state, attribute))
            button.setFont(font(SMALL_PT))
            button.setToolTip(f"{words} the {name.lower()} while listening")
            button.setAccessibleName(f"{words} the {name.lower()}")
            button.toggled.connect(lambda on, attribute=attribute: self._set(state, attribute, on))
        for widget in (label, slider, mute, solo):
            row.addWidget(widget)
        self._lane_parts[name] = (label, slider, mute, solo)
        row.addSpacing(8)

    def _set(self, state: LaneState, attribute: str, on: bool) -> None:
        setattr(state, attribute, on)
        state.by_hand = state.by_hand or attribute == "mute"

    def show_lanes(self) -> None:
        """Lanes without sound are switched off; what is muted shows it."""
        there = self._mixer.lanes
        for name, parts in self._lane_parts.items():
            mute = parts[2]
            assert isinstance(mute, QToolButton)
            mute.blockSignals(True)
            mute.setChecked(self._mixer.states[name].mute)
            mute.blockSignals(False)
            for widget in parts:
                widget.setEnabled(name in there)

    def count_as(self, shown: Callable[[int], str]) -> None:
        """Show times as *shown* gives them: from the beginning, or as timecode."""
        self._shown = shown
        self._show_time(self._time_us)

    def _show_time(self, time_us: float) -> None:
        self._time_us = time_us
        self.time.setText(self._shown(round(time_us)))
