"""Everything about the selected line: who, what was said, what will be said, with which voice, and why it fits so."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.project.edits import cast_voice, set_direction, set_line_text
from zweistimme.project.facts import line_is_stale
from zweistimme.project.languages import own_name
from zweistimme.project.speaker_edits import assign_speaker
from zweistimme.project.transcript import set_on_screen, set_segment_text
from zweistimme.sentences import sentences_of
from zweistimme.stages.fit.slot import measured_length
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.manner import LineManner
from zweistimme.window.panel.gauge import LengthGauge
from zweistimme.window.panel.makers import maker_in_words
from zweistimme.window.panel.shorter import WordingButton
from zweistimme.window.panel.takes import TakeRow
from zweistimme.window.panel.wording import WordingEdit
from zweistimme.window.theme import SMALL_PT, TITLE_PT, colour, font, speaker_colour
from zweistimme.window.voices import voice_choices


def _caption(text: str, role: str = "faded") -> QLabel:
    label = QLabel(text)
    label.setFont(font(SMALL_PT, bold=role != "faded"))
    label.setStyleSheet(f"color: {colour(role).name()}")
    return label


class LinePanel(QWidget):
    """The selected line."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 10)
        column.setSpacing(4)
        self._make_head(column)
        column.addWidget(_caption("Original", "original"))
        self.source = WordingEdit("The original's words", 2)
        column.addWidget(self.source)
        row = QHBoxLayout()
        self.tag_label, self.state_label = _caption("", "dub"), _caption("")
        self.other_wordings = QToolButton()
        self.other_wordings.setText("ask again")
        self.other_wordings.setFont(font(SMALL_PT))
        self.other_wordings.setToolTip(tip("other_wordings"))
        self.other_wordings.setAccessibleName("Ask for other wordings")
        row.addWidget(self.tag_label)
        row.addWidget(self.other_wordings)
        row.addStretch(1)
        row.addWidget(self.state_label)
        column.addLayout(row)
        self.wording = WordingEdit("The line's wording", 3)
        column.addWidget(self.wording)
        self.gauge = LengthGauge()
        column.addWidget(self.gauge)
        self._shorter = QVBoxLayout()
        self._shorter.setSpacing(3)
        column.addLayout(self._shorter)
        self._make_voice(column)
        self.takes = TakeRow(desk)
        column.addWidget(self.takes)
        self.failure = QLabel()
        self.failure.setWordWrap(True)
        self.failure.setTextFormat(Qt.TextFormat.PlainText)
        self.failure.setStyleSheet(f"color: {colour('hard').name()}")
        column.addWidget(self.failure)
        column.addSpacing(4)
        self._why_title = _caption("Why this fit")
        column.addWidget(self._why_title)
        self.why = QLabel()
        self.why.setWordWrap(True)
        self.why.setTextFormat(Qt.TextFormat.PlainText)
        self.why.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.why)
        column.addStretch(1)
        self._connect()
        self.refresh()

    def _make_head(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.swatch = QLabel()
        self.swatch.setFixedSize(9, 18)
        self.speaker = QComboBox()
        self.speaker.setAccessibleName("Speaker of this line")
        self.speaker.setToolTip("Who says this; names are changed on the Cast page")
        self.speaker.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.speaker.setFont(font(TITLE_PT - 1, bold=True))
        self.seen = QToolButton()
        self.seen.setFont(font(SMALL_PT))
        self.seen.setToolTip(tip("screen"))
        self.place = _caption("")
        for widget in (self.swatch, self.speaker, self.seen):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.place)
        column.addLayout(row)

    def _make_voice(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.voice, self.direction = QComboBox(), QComboBox()
        self.voice.setAccessibleName("Voice of this speaker in this version")
        for box in (self.voice, self.direction):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(6)
        self.voice.setToolTip("The speaker's voice in this version")
        self.direction.setAccessibleName("Direction")
        self.direction.setToolTip("How the line is to be spoken; never spoken itself")
        self.direction.setEditable(True)
        row.addWidget(_caption("Voice"))
        row.addWidget(self.voice, 3)
        row.addWidget(_caption("Direction"))
        row.addWidget(self.direction, 2)
        column.addLayout(row)
        row = QHBoxLayout()
        self.manner = LineManner(self._desk)
        row.addWidget(_caption("Speaks"))
        row.addWidget(self.manner)
        row.addStretch(1)
        column.addLayout(row)

    def _connect(self) -> None:
        desk = self._desk
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        desk.selected.connect(lambda _id: self._reselected())
        desk.book.changed.connect(self.refresh)
        self.seen.clicked.connect(self.flip_screen)
        for edit, keep in ((self.source, self._keep_source), (self.wording, self._keep_wording)):
            edit.textChanged.connect(edit.rest.start)
            edit.rest.timeout.connect(keep)
        self.wording.textChanged.connect(lambda: self.measure(self.wording.toPlainText()))
        self.voice.activated.connect(self._cast)
        self.speaker.activated.connect(self._assign)
        self.direction.textActivated.connect(self._direct)

    # what is shown

    def refresh(self) -> None:
        """Show the selected line as it is now."""
        segment, line, version = self._desk.segment(), self._desk.line(), self._desk.version
        self.setVisible(segment is not None)
        if segment is None:
            return
        self._shown = segment.id
        project = self._desk.project
        speakers = list(project.speakers)
        tint = speaker_colour(speakers.index(segment.speaker_id)).name()
        self.swatch.setStyleSheet(f"background: {tint}; border-radius: 3px")
        self.speaker.clear()
        for key, speaker in project.speakers.items():
            self.speaker.addItem(speaker.name, key)
        self.speaker.setCurrentIndex(self.speaker.findData(segment.speaker_id))
        self.seen.setText("on screen" if segment.on_screen else "off screen")
        self.place.setText(f"line {(self._desk.place(segment.id) or 0) + 1} of {len(project.segments)}")
        self.source.show_text(segment.text)
        self.wording.show_text(line.text if line else "")
        self.wording.setEnabled(version is not None)
        self.other_wordings.setEnabled(version is not None)
        if version is not None:
            self.tag_label.setText(own_name(version.tag))
        stale = line is not None and line_is_stale(segment, line)
        by_hand = line is not None and line.by_hand
        self.state_label.setText("the original has changed" if stale else "written by hand" if by_hand else "")
        maker = line.maker if line is not None and not by_hand else None
        self.wording.setToolTip(f"Worded by {maker_in_words(maker)}" if maker else "")
        self.measure(self.wording.toPlainText())
        self._refresh_shorter()
        self._refresh_voice()
        self.takes.refresh()
        failure = self._desk.failure(segment)
        self.failure.setText(failure)
        self.failure.setVisible(bool(failure))
        placed = self._desk.placed()
        self.why.setText(sentences_of(placed[0].why) if placed else "Not placed yet.")

    def _reselected(self) -> None:
        """Keep what was typed for the line that is left, then show the other."""
        for edit, keep in ((self.source, self._keep_source), (self.wording, self._keep_wording)):
            if edit.rest.isActive():
                keep()
        self.refresh()

    def measure(self, text: str) -> None:
        """Move the gauge for a wording, kept or not."""
        segment, version = self._desk.segment(), self._desk.version
        known = segment is not None and version is not None and bool(text.strip())
        self.gauge.show_length(
            measured_length(self._desk.project, version, segment, text) if known and version and segment else None
        )

    def _refresh_shorter(self) -> None:
        while (item := self._shorter.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        line, segment, version = self._desk.line(), self._desk.segment(), self._desk.version
        if line is None or segment is None or version is None:
            return
        now = measured_length(self._desk.project, version, segment, line.text).syllables
        for wording in line.shorter:
            if wording == line.text:
                continue
            count = measured_length(self._desk.project, version, segment, wording).syllables
            button = WordingButton(wording, f"{count - now:+d} syll.")
            button.setToolTip(f"<p>Use “{escape(wording)}” instead. {tip('shorter')}</p>")
            button.clicked.connect(lambda _on=False, wording=wording: self._use(wording))
            self._shorter.addWidget(button)

    def _refresh_voice(self) -> None:
        segment, version = self._desk.segment(), self._desk.version
        if segment is None or version is None:
            return
        self.voice.clear()
        self.voice.addItem("no voice", None)
        cast = version.cast.get(segment.speaker_id)
        for ref, words in voice_choices(self._desk, version.tag, cast):
            name, _, about = words.partition(" · ")
            self.voice.addItem(name, ref)
            self.voice.setItemData(self.voice.count() - 1, about, Qt.ItemDataRole.ToolTipRole)
        self.voice.setCurrentIndex(max(0, self.voice.findData(cast)))
        line = self._desk.line()
        voice = self._desk.book.voice(cast) if cast else None
        known = voice.directions if voice else ()
        self.direction.clear()
        self.direction.addItems(["", *known])
        self.direction.setCurrentText(line.direction if line else "")
        self.manner.refresh(voice)

    # what a hand changes

    def flip_screen(self) -> None:
        """Everything that is chosen goes where the selected line is not."""
        segment, ids = self._desk.segment(), self._desk.chosen_ids()
        if segment is not None:
            seen = not segment.on_screen
            self._desk.apply("On or off screen", lambda project: set_on_screen(project, ids, seen))

    def use_shorter(self) -> None:
        """Take the next shorter wording on offer."""
        line = self._desk.line()
        offers = [wording for wording in line.shorter if len(wording) < len(line.text)] if line else []
        if offers:
            self._use(max(offers, key=len))
        else:
            self._desk.notice("note", "There is no shorter wording on offer for this line.")

    def _use(self, wording: str) -> None:
        tag, segment_id = self._desk.tag, self._desk.segment_id
        self._desk.apply("Take a shorter wording", lambda project: set_line_text(project, tag, segment_id, wording))

    def _keep_source(self) -> None:
        self.source.rest.stop()
        segment_id, text = self._shown, self.source.toPlainText()
        self._desk.apply(
            "Correct the original", lambda project: set_segment_text(project, segment_id, text), f"source {segment_id}"
        )

    def _keep_wording(self) -> None:
        self.wording.rest.stop()
        tag, segment_id, text = self._desk.tag, self._shown, self.wording.toPlainText()
        if self._desk.line(segment_id) is None and not text.strip():
            return
        self._desk.apply(
            "Write a line", lambda project: set_line_text(project, tag, segment_id, text), f"line {tag} {segment_id}"
        )

    def _assign(self) -> None:
        segment_id, speaker = self._desk.segment_id, self.speaker.currentData()
        self._desk.apply("Give a line to a speaker", lambda project: assign_speaker(project, [segment_id], speaker))

    def _cast(self) -> None:
        segment, tag, voice = self._desk.segment(), self._desk.tag, self.voice.currentData()
        if segment is not None:
            self._desk.apply("Cast a voice", lambda project: cast_voice(project, tag, segment.speaker_id, voice))

    def _direct(self, words: str) -> None:
        tag, segment_id = self._desk.tag, self._desk.segment_id
        if self._desk.line() is not None:
            self._desk.apply("Direct a line", lambda project: set_direction(project, tag, segment_id, words))
