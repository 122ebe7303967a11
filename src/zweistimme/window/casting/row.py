"""One person of the cast: name, measured pitch, lines, voice, how it speaks."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QToolButton, QWidget

from zweistimme.messages import msg, tr
from zweistimme.project.manner_edits import set_manner
from zweistimme.project.model import AS_USUAL, Manner, Version
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.choices import voice_choices
from zweistimme.window.casting.giving import give_voice, settle
from zweistimme.window.choices import Choice, fill
from zweistimme.window.manner import MannerButton
from zweistimme.window.theme import px, tint_ground
from zweistimme.window.writing import Draft, Kind, Place

HEADS = (msg("Speaker"), msg("Measured pitch"), msg("Lines"), msg("Voice"), "", msg("Speaks"), "")


class CastRow:
    """The widgets of one speaker, which stay while the speaker does."""

    def __init__(self, desk: Desk, key: str) -> None:
        self._desk, self.key = desk, key
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("The speaker's name"))
        self.name.setToolTip(tr("The speaker's name; used everywhere"))
        self.name.setFixedWidth(px(160))
        self._draft = Draft(desk, self.name)
        self.name.returnPressed.connect(self._draft.keep)
        self._swatch, self._pitch, self._count = QLabel(), QLabel(), QLabel()
        self._swatch.setFixedSize(9, 22)
        self.voice = QComboBox()
        self.voice.setAccessibleName(tr("Voice"))
        self.voice.setMinimumWidth(px(180))
        self.voice.activated.connect(self._cast)
        self.settled = QToolButton()
        self.settled.setCheckable(True)
        self.settled.setAccessibleName(tr("Whether the voice is to stay"))
        self.settled.setToolTip(tr("A voice that is chosen stays; for one that is not, another may be proposed"))
        self.settled.clicked.connect(lambda on: settle(self._desk, self.key, settled=on))
        self.manner = MannerButton()
        self.manner.chosen.connect(self._set_manner)
        self.listen = QPushButton(tr("▸ Listen"))
        self.listen.setToolTip(tr("Hear the voice with the speaker's first line"))
        named = QWidget()
        line = QHBoxLayout(named)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self._swatch)
        line.addWidget(self.name)
        self.cells: tuple[QWidget, ...] = (
            named, self._pitch, self._count, self.voice, self.settled, self.manner, self.listen,
        )  # fmt: skip

    def refresh(self, version: Version) -> None:
        """Show the person as it is."""
        project, cast = self._desk.project, version.cast.get(self.key)
        speaker = project.speakers[self.key]
        tint_ground(self._swatch, list(project.speakers).index(self.key))
        self._draft.show(Place(Kind.NAME, self.key), speaker.name)
        self._pitch.setText(
            tr("{pitch_hz:.0f} Hz", pitch_hz=speaker.pitch_hz) if speaker.pitch_hz else tr("not measured")
        )
        self._count.setText(str(sum(1 for segment in project.segments if segment.speaker_id == self.key)))
        voices: list[Choice] = [(words, ref, "") for ref, words in voice_choices(self._desk, version.tag, cast)]
        fill(self.voice, [(tr("no voice"), None, ""), *voices], cast)
        self.manner.show_manner(version.manners.get(self.key, AS_USUAL), self._desk.book.voice(cast or ""))
        self.listen.setEnabled(cast is not None)
        chosen = self.key in version.cast_chosen
        self.settled.setChecked(chosen)
        self.settled.setText(tr("chosen") if chosen else tr("proposed"))
        self.settled.setVisible(cast is not None)

    def _set_manner(self, manner: Manner) -> None:
        tag, key = self._desk.tag, self.key
        self._desk.apply("How a speaker speaks", lambda project: set_manner(project, tag, key, manner))

    def _cast(self) -> None:
        give_voice(self._desk, self.key, self.voice.currentData())
