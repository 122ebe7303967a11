"""The selected line's voice, its direction and how it is spoken."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QToolButton, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.manner_edits import set_line_voices
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.choices import voice_choices
from zweistimme.window.casting.giving import give_voice
from zweistimme.window.choices import Choice, fill
from zweistimme.window.manner import LineManner
from zweistimme.window.theme import SMALL_PT, font
from zweistimme.window.writing import Draft, Kind, Place


class VoiceRow(QWidget):
    """Who speaks the line in this version, and how."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown = ""
        self.voice, self.direction, self.manner = QComboBox(), QComboBox(), LineManner(desk)
        self.voice.setAccessibleName(tr("Voice of this speaker in this version"))
        self.own = QToolButton()
        self.own.setText(tr("this line"))
        self.own.setCheckable(True)
        self.own.setAccessibleName(tr("A voice for the chosen lines alone"))
        self.own.setToolTip(
            tr("Pressed: the voice is that of the chosen lines alone. Let go: they have their speaker's again")
        )
        self.own.clicked.connect(self._flip_own)
        self.direction.setAccessibleName(tr("Direction"))
        self.direction.setToolTip(tr("How the line is to be spoken; never spoken itself"))
        for box in (self.voice, self.direction):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(6)
        self.direction.setEditable(True)
        self.direction.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        field = self.direction.lineEdit()
        assert isinstance(field, QLineEdit)
        self.draft = Draft(desk, field, self.direction)
        self.voice.activated.connect(self._cast)
        self.direction.activated.connect(lambda _place: self.draft.keep())
        field.returnPressed.connect(self.draft.keep)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        for column, (words, widget) in enumerate(((tr("Voice"), self.voice), (tr("Direction"), self.direction))):
            grid.addWidget(self._caption(words), 0, 2 * column)
            grid.addWidget(widget, 0, 2 * column + 1)
        own = QHBoxLayout()
        own.addWidget(self.voice, 1)
        own.addWidget(self.own)
        grid.addLayout(own, 0, 1)
        grid.setColumnStretch(1, 3)
        grid.setColumnStretch(3, 2)
        row = QHBoxLayout()
        row.addWidget(self._caption(tr("Speaks")))
        row.addWidget(self.manner)
        row.addStretch(1)
        grid.addLayout(row, 1, 0, 1, 4)

    @staticmethod
    def _caption(words: str) -> QLabel:
        label = QLabel(words)
        label.setFont(font(SMALL_PT))
        label.setProperty("faded", True)
        return label

    def refresh(self) -> None:
        """Show the selected line's."""
        desk = self._desk
        segment, version, line = desk.segment(), desk.version, desk.line()
        if segment is None or version is None:
            return
        alone = line.voice if line is not None else ""
        if segment.id != self._shown:  # who goes to another line has pressed nothing there yet
            self._shown = segment.id
            self.own.setChecked(bool(alone))
        self.own.setChecked(self.own.isChecked() or bool(alone))
        self.own.setEnabled(line is not None)
        self.voice.setToolTip(
            tr("The voice of this line alone") if self.own.isChecked() else tr("The speaker's voice in this version")
        )
        cast = alone or version.cast.get(segment.speaker_id)
        voices: list[Choice] = [(tr("no voice"), None, "")]
        for ref, words in voice_choices(desk, version.tag, cast):
            name, _, about = words.partition(" · ")
            voices.append((name, ref, about))
        fill(self.voice, voices, cast)
        voice = desk.book.voice(cast) if cast else None
        fill(self.direction, [(words, None, "") for words in ("", *(voice.directions if voice else ()))], None)
        self.direction.setEnabled(line is not None)
        place = Place(Kind.DIRECTION, segment.id, version.tag)
        self.draft.show(place, desk.text_at(place))
        self.manner.refresh(voice)

    def _flip_own(self, own: bool) -> None:
        line = self._desk.line()
        if not own and line is not None and line.voice:
            self._give_own("")
        self.refresh()

    def _give_own(self, voice: str) -> None:
        desk = self._desk
        version, tag = desk.version, desk.tag
        there = version.lines if version is not None else {}
        ids = [one for one in desk.chosen_ids() if one in there] or [desk.segment_id]
        label = msg_act("Give lines a voice of their own")
        desk.apply(label, lambda project: set_line_voices(project, tag, ids, voice))

    def _cast(self) -> None:
        segment = self._desk.segment()
        if segment is not None and self.own.isChecked():
            self._give_own(self.voice.currentData() or "")
        elif segment is not None:
            give_voice(self._desk, segment.speaker_id, self.voice.currentData())
