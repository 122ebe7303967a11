"""Cast: every speaker with a voice for the version on the desk."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice
from zweistimme.project.edits import allow_substitutes, cast_voice, set_version_style
from zweistimme.project.facts import speakers_in_use
from zweistimme.project.languages import own_name, substitutes_for
from zweistimme.project.manner_edits import play_together, set_manner
from zweistimme.project.model import AS_USUAL, Manner, Preference, Style
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.sound.arrays import Mono
from zweistimme.stages.answers import LineToSpeak, spoken_line
from zweistimme.stages.cast import spoken_language
from zweistimme.stages.voice import manner_for
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.manner import MannerButton
from zweistimme.window.theme import SMALL_PT, TITLE_PT, font, speaker_colour
from zweistimme.window.voices import voice_choices


class CastPage(QWidget):
    """A row a speaker: name, measured pitch, lines, and the voice."""

    heard = pyqtSignal(object, bool)
    """Samples to be played, a piece of them or (True) the last."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 20)
        self._title = QLabel()
        self._title.setFont(font(TITLE_PT + 2, bold=True))
        self._about = QLabel()
        self._about.setProperty("faded", True)
        self._about.setWordWrap(True)
        column.addWidget(self._title)
        column.addWidget(self._about)
        column.addLayout(self._make_style())
        column.addSpacing(10)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(10)
        column.addLayout(self._grid)
        column.addStretch(1)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())
        desk.book.changed.connect(self._refresh_if_seen)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _refresh_if_seen(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self.refresh()

    def _make_style(self) -> QHBoxLayout:
        """How closely this version follows the original, and what gives way first."""
        row = QHBoxLayout()
        self.style_box, self.prefer_box = QComboBox(), QComboBox()
        self.style_box.addItems([style.value for style in Style])
        self.prefer_box.addItems([preference.value for preference in Preference])
        self.style_box.setToolTip("How closely the dub follows the original; fit again after changing it")
        self.prefer_box.setToolTip("What is kept first where a line is too long: the voice's tempo, or the lips")
        for words, box in (("Style", self.style_box), ("Keep first", self.prefer_box)):
            label = QLabel(words)
            label.setProperty("faded", True)
            box.setAccessibleName(words)
            box.activated.connect(self._restyle)
            row.addWidget(label)
            row.addWidget(box)
            row.addSpacing(12)
        self.substitutes = QCheckBox("related voices may stand in")
        self.substitutes.setToolTip("Where no voice speaks the language, one of a related language may be cast")
        self.substitutes.clicked.connect(self._allow_substitutes)
        row.addWidget(self.substitutes)
        self.together = QCheckBox("answers asked for together")
        self.together.setToolTip("Lines that answer each other are spoken in one go, where an engine can do so")
        self.together.clicked.connect(self._play_together)
        row.addWidget(self.together)
        row.addStretch(1)
        return row

    def _allow_substitutes(self, allowed: bool) -> None:
        label = "Allow related voices" if allowed else "Refuse related voices"
        self._desk.apply(label, lambda project: allow_substitutes(project, allowed))

    def _play_together(self, together: bool) -> None:
        tag = self._desk.tag
        self._desk.apply("Answers together", lambda project: play_together(project, tag, together))

    def _restyle(self) -> None:
        tag = self._desk.tag
        style, preference = Style(self.style_box.currentText()), Preference(self.prefer_box.currentText())
        self._desk.apply("Change the style", lambda project: set_version_style(project, tag, style, preference))

    def refresh(self) -> None:
        """Show the cast as it is."""
        if self.focusWidget() is not None and isinstance(self.focusWidget(), QLineEdit):
            return
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        project, version = self._desk.project, self._desk.version
        self.substitutes.setChecked(project.substitutes)
        self.substitutes.setVisible(version is not None and bool(substitutes_for(version.tag)))
        if version is not None:
            self.style_box.setCurrentText(version.style.value)
            self.prefer_box.setCurrentText(version.preference.value)
            self.together.setChecked(version.together)
        if version is None or not project.segments:
            self._title.setText("Cast")
            self._about.setText("No speakers yet. Continue with the transcript; the speakers found there stand here.")
            return
        self._title.setText(f"Cast · {own_name(version.tag)}")
        missing = [key for key in speakers_in_use(project) if key not in version.cast]
        self._about.setText(
            "Everybody has a voice. Pitches are measured from the original; voices are proposed by pitch."
            if not missing
            else f"{len(missing)} without a voice. Nothing can be voiced before everybody has one."
        )
        for place, words in enumerate(("Speaker", "Measured pitch", "Lines", "Voice", "Speaks", "")):
            label = QLabel(words)
            label.setFont(font(SMALL_PT))
            label.setProperty("faded", True)
            self._grid.addWidget(label, 0, place)
        for row, key in enumerate(speakers_in_use(project), 1):
            self._add_row(row, key)
        self._grid.setColumnStretch(6, 1)

    def _add_row(self, row: int, key: str) -> None:
        project, version = self._desk.project, self._desk.version
        assert version is not None
        speaker = project.speakers[key]
        name = QWidget()
        line = QHBoxLayout(name)
        line.setContentsMargins(0, 0, 0, 0)
        swatch = QLabel()
        swatch.setFixedSize(9, 22)
        swatch.setStyleSheet(
            f"background: {speaker_colour(list(project.speakers).index(key)).name()}; border-radius: 3px"
        )
        edit = QLineEdit(speaker.name)
        edit.setAccessibleName("The speaker's name")
        edit.setToolTip("The speaker's name; used everywhere")
        edit.setFixedWidth(160)
        edit.editingFinished.connect(lambda: self._rename(key, edit))
        line.addWidget(swatch)
        line.addWidget(edit)
        self._grid.addWidget(name, row, 0)
        self._grid.addWidget(QLabel(f"{speaker.pitch_hz:.0f} Hz" if speaker.pitch_hz else "not measured"), row, 1)
        count = sum(1 for segment in project.segments if segment.speaker_id == key)
        self._grid.addWidget(QLabel(str(count)), row, 2)
        self._grid.addWidget(self._voices(key, version.cast.get(key), version.tag), row, 3)
        listen = QPushButton("▸ Listen")
        listen.setToolTip("Hear the voice with the speaker's first line")
        listen.setEnabled(key in version.cast)
        listen.clicked.connect(lambda: self._listen(key))
        manner = MannerButton()
        manner.show_manner(version.manners.get(key, AS_USUAL), self._desk.book.voice(version.cast.get(key, "")))
        manner.chosen.connect(lambda wanted: self._set_manner(key, wanted))
        self._grid.addWidget(manner, row, 4, alignment=Qt.AlignmentFlag.AlignLeft)
        self._grid.addWidget(listen, row, 5, alignment=Qt.AlignmentFlag.AlignLeft)

    def _set_manner(self, key: str, manner: Manner) -> None:
        tag, name = self._desk.tag, self._desk.project.speakers[key].name
        self._desk.apply(f"How {name} speaks", lambda project: set_manner(project, tag, key, manner))

    def _voices(self, key: str, cast: str | None, tag: str) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName("Voice")
        box.setMinimumWidth(270)
        box.addItem("no voice", None)
        for ref, words in voice_choices(self._desk, tag, cast):
            box.addItem(words, ref)
        box.setCurrentIndex(max(0, box.findData(cast)))
        box.activated.connect(lambda: self._cast(key, box.currentData()))
        return box

    def _cast(self, key: str, voice: str | None) -> None:
        tag = self._desk.tag
        self._desk.apply("Cast a voice", lambda project: cast_voice(project, tag, key, voice))

    def _rename(self, key: str, edit: QLineEdit) -> None:
        if edit.text() != self._desk.project.speakers[key].name:
            name = edit.text()
            if not self._desk.apply("Rename a speaker", lambda project: rename_speaker(project, key, name)):
                edit.setText(self._desk.project.speakers[key].name)

    def _listen(self, key: str) -> None:
        """Speak the speaker's first line; a job, since an engine may take its time."""
        version = self._desk.version
        first = next((s for s in self._desk.project.segments if s.speaker_id == key and s.text), None)
        if version is None or first is None:
            return
        line = version.lines.get(first.id)
        text, tag = line.text if line else first.text, version.tag
        name, voice_id = split_voice(version.cast[key])

        def speak(work: Work) -> None:
            asked = engine(name)
            language = spoken_language(asked.info(), voice_id, tag, substitutes=work.project.substitutes)
            manner, _ = manner_for(asked.info().voice(voice_id), version.manners.get(key, AS_USUAL))
            wanted = LineToSpeak(text, voice_id, language, manner=manner)
            pieces: list[int] = []

            def hear(samples: Mono) -> None:
                pieces.append(len(samples))
                self.heard.emit(samples, False)

            clip = spoken_line(work, asked, wanted, hear).samples
            self.heard.emit(clip[:0] if pieces else clip, True)

        self._desk.start("Listen to a voice", speak)
