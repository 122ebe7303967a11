"""What the connected engines say of themselves, asked off the GUI thread and kept for the widgets."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.engines.connections import BUNDLED, Connection, Kind, connections
from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.engines.registry import Examined, examined
from zweistimme.engines.voices import split_voice, voice_ref
from zweistimme.project.errors import StoreError
from zweistimme.window.background import Latest


class EngineBook(QObject):
    """The latest test of every connection: a new mapping whenever one of them changes. The bundled engine is known at
    once, the others once they have answered."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tests: dict[str, Examined] = {}
        self.problem = ""
        """Why the list itself cannot be read, if so."""
        self._asking = Latest("engines", self)
        self._asking.ready.connect(self._took)
        self.refresh()

    def refresh(self) -> None:
        """Ask all engines anew; those that are gone are forgotten at once."""
        try:
            others = connections()[1:]
            self.problem = ""
        except StoreError as error:
            others, self.problem = [], str(error)
        bundled = examined(Connection(BUNDLED, Kind.BUNDLED))
        self.tests = {BUNDLED: bundled} | {c.name: self.tests.get(c.name, Examined(c)) for c in others}
        if others:
            self._asking.want(lambda: [examined(connection) for connection in others])
        self.changed.emit()

    def info(self, name: str) -> EngineInfo | None:
        """What an engine says of itself; None as long as it has not answered."""
        found = self.tests.get(name)
        return found.info if found else None

    def voices(self) -> list[tuple[str, VoiceInfo]]:
        """All voices of all engines, each with the name a cast has for it."""
        return [
            (voice_ref(name, voice.id), voice)
            for name, found in self.tests.items()
            if found.info
            for voice in found.info.voices
        ]

    def voice(self, ref: str) -> VoiceInfo | None:
        """The voice that a cast names, if its engine has answered."""
        name, voice_id = split_voice(ref)
        info = self.info(name)
        return next((voice for voice in info.voices if voice.id == voice_id), None) if info else None

    def close(self) -> None:
        """Let the thread end."""
        self._asking.close()

    def _took(self, found: object) -> None:
        assert isinstance(found, list)
        answered = {test.connection.name: test for test in found if test.connection.name in self.tests}
        self.tests = self.tests | answered
        self.changed.emit()
