"""The sounds of a file, one a row: which is the dialogue, which the bed, and what was heard in each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QLabel, QRadioButton, QSizePolicy, QWidget

from zweistimme.media.downmix import channel_names
from zweistimme.media.probe import TrackInfo
from zweistimme.messages import msg, tr
from zweistimme.project.languages import language_name
from zweistimme.project.programme import SoundPick
from zweistimme.stages.intake import Candidate
from zweistimme.window.theme import SMALL_PT, colour, font

_LAYOUTS = {1: msg("one channel"), 2: msg("stereo"), 6: "5.1", 8: "7.1"}
_SILENT_DB = -75.0


@dataclass(frozen=True, slots=True)
class Offer:
    """Sound that can be picked, in words, and what for."""

    pick: SoundPick
    words: str
    dialogue: bool = True
    bed: bool = True


def offers_of(tracks: Sequence[TrackInfo]) -> list[Offer]:
    """Everything of these sound tracks that can be the dialogue or the bed."""
    offers = []
    for track in tracks:
        names = channel_names(track.channels)
        offers.append(Offer(SoundPick((track.number,)), _named(track)))
        if "FC" in names and len(names) > 2:
            offers.append(
                Offer(
                    SoundPick((track.number,), "FC"), tr("{number}, the centre alone", number=track.number), bed=False
                )
            )
            rest = SoundPick((track.number,), "-FC")
            offers.append(Offer(rest, tr("{number}, all but the centre", number=track.number), dialogue=False))
    single = [track for track in tracks if len(track.channels) == 1]
    for left, right in pairwise(single):
        if len(single) > 2 and right.number == left.number + 1:
            pair = SoundPick((left.number, right.number))
            offers.append(
                Offer(
                    pair,
                    tr("{left} and {right} as left and right", left=left.number, right=right.number),
                    dialogue=False,
                )
            )
    return offers


def _named(track: TrackInfo) -> str:
    count = len(track.channels)
    language = language_name(track.language) if track.language not in ("", "und") else ""
    layout = tr(_LAYOUTS.get(count, "")) or tr("{count} channels", count=count)
    return " · ".join(filter(None, (str(track.number), language, track.title, layout, track.codec)))


class HeardBar(QWidget):
    """How much a sound is like speech, as a bar and in words."""

    def __init__(self, candidate: Candidate | None, most: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._share = min(1.0, candidate.speech / most) if candidate and most > 0 else 0.0
        self._silent = candidate is None or candidate.level_db < _SILENT_DB
        self.words = self._in_words(candidate)
        self.setToolTip(
            self.words
            if candidate is None
            else tr("{words}; its level is {level_db:.0f} dB", words=self.words, level_db=candidate.level_db)
        )
        self.setAccessibleName(self.words)
        self.setMinimumSize(170, 18)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def _in_words(self, candidate: Candidate | None) -> str:
        if candidate is None:
            return ""
        if self._silent:
            return tr("silent")
        return (
            tr("speech") if self._share > 0.8 else tr("some speech") if self._share > 0.5 else tr("hardly any speech")
        )

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if not self.words:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        middle = self.height() / 2
        painter.setBrush(colour("rule"))
        painter.drawRoundedRect(QRectF(0, middle - 3, 60, 6), 3, 3)
        if not self._silent:
            painter.setBrush(colour("original"))
            painter.drawRoundedRect(QRectF(0, middle - 3, max(6.0, 60 * self._share), 6), 3, 3)
        painter.setPen(colour("faded"))
        painter.setFont(font(SMALL_PT))
        painter.drawText(self.rect().adjusted(70, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.words)


class SoundTable(QWidget):
    """Rows of sounds; one is the dialogue, one or none the bed."""

    changed = pyqtSignal()

    def __init__(self, tracks: Sequence[TrackInfo], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._offers = offers_of(tracks)
        self._dialogue, self._bed = QButtonGroup(self), QButtonGroup(self)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(2, 1)
        for column, words in enumerate((tr("Dialogue"), tr("Bed"), tr("Sound"), tr("Heard in it"))):
            label = QLabel(words)
            label.setFont(font(SMALL_PT, bold=True))
            label.setProperty("faded", True)
            self._grid.addWidget(label, 0, column)
        for row, offer in enumerate(self._offers):
            self._add_row(row, offer)
        none = self._button(self._bed, len(self._offers), tr("No bed from this file"))
        none.setChecked(True)
        self._grid.addWidget(none, len(self._offers) + 1, 1, Qt.AlignmentFlag.AlignHCenter)
        self._grid.addWidget(QLabel(tr("no bed in this file")), len(self._offers) + 1, 2)

    def _add_row(self, row: int, offer: Offer) -> None:
        if offer.dialogue:
            button = self._button(self._dialogue, row, tr("Dialogue: {sound}", sound=offer.words))
            self._grid.addWidget(button, row + 1, 0, Qt.AlignmentFlag.AlignHCenter)
        if offer.bed:
            button = self._button(self._bed, row, tr("Bed: {sound}", sound=offer.words))
            self._grid.addWidget(button, row + 1, 1, Qt.AlignmentFlag.AlignHCenter)
        label = QLabel(offer.words)
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setToolTip(offer.words)
        self._grid.addWidget(label, row + 1, 2)

    def _button(self, group: QButtonGroup, number: int, words: str) -> QRadioButton:
        button = QRadioButton()
        button.setAccessibleName(words)
        button.setToolTip(words)
        group.addButton(button, number)
        button.toggled.connect(lambda _on: self.changed.emit())
        return button

    def show_heard(self, candidates: Sequence[Candidate]) -> None:
        """Say beside each sound what was heard in it."""
        most = max((one.speech for one in candidates), default=0.0)
        for row, offer in enumerate(self._offers):
            candidate = next((one for one in candidates if one.pick == offer.pick), None)
            if candidate is not None:
                self._grid.addWidget(HeardBar(candidate, most), row + 1, 3)

    @property
    def dialogue(self) -> SoundPick:
        """What is chosen as the dialogue."""
        place = self._dialogue.checkedId()
        return self._offers[place].pick if place >= 0 else SoundPick()

    @property
    def bed(self) -> SoundPick | None:
        """What of this file is chosen as the bed."""
        place = self._bed.checkedId()
        return self._offers[place].pick if 0 <= place < len(self._offers) else None

    def choose(self, dialogue: SoundPick, bed: SoundPick | None) -> None:
        """Choose both."""
        for group, pick in ((self._dialogue, dialogue), (self._bed, bed)):
            place = next((row for row, offer in enumerate(self._offers) if offer.pick == pick), len(self._offers))
            button = group.button(place)
            if button is not None:
                button.setChecked(True)
