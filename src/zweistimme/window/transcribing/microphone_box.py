"""Which microphone is recorded from: those of the machine, or a sound file in the place of one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFileDialog, QWidget

from zweistimme.media.microphone import FileMicrophone, Microphone
from zweistimme.messages import msg, tr

_FILE = msg("a sound file …")


class MicrophoneBox(QComboBox):
    """Offers them; *taken* once another is to be used."""

    taken = pyqtSignal()

    def __init__(self, found: Callable[[], Sequence[Microphone]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._found = found
        self._microphones: list[Microphone] = []
        self._place = 0
        self.setAccessibleName(tr("Microphone"))
        self.activated.connect(self._choose)

    def look(self) -> None:
        """Look which there are, if none was found before."""
        if not self._microphones:
            self._microphones = list(self._found())
            self._fill()

    def use_microphone(self, microphone: Microphone) -> None:
        """Take this one; it stands in the list from now on."""
        self._microphones.insert(0, microphone)
        self._fill()
        self.taken.emit()

    @property
    def microphone(self) -> Microphone | None:
        """The one that is chosen, if there is any."""
        place = self.currentIndex()
        return self._microphones[place] if 0 <= place < len(self._microphones) else None

    def _fill(self) -> None:
        self.clear()
        for microphone in self._microphones:
            self.addItem(microphone.name)
        self.addItem(tr(_FILE), _FILE)
        self._place = 0

    def _choose(self, place: int) -> None:
        if self.itemData(place) == _FILE:
            name, _ = QFileDialog.getOpenFileName(self, tr("A sound file in place of a microphone"))
            if name:
                self.use_microphone(FileMicrophone(Path(name)))
            else:
                self.setCurrentIndex(self._place)
        elif place != self._place:
            self._place = place
            self.taken.emit()
