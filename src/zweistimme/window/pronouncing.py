"""How words are said: the project's dictionary for the language on the desk, written in IPA or as a word sounds, heard
before and after, and exchanged as a lexicon."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Final

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QTableWidgetItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.formats.pls import read_pls, written_pls
from zweistimme.media.atomic import written_bytes
from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.facts import cast_voice_of
from zweistimme.project.languages import language_of, same_language, spoken_tag
from zweistimme.project.model import Line, Segment
from zweistimme.project.pronunciations import Pronunciations, pronunciations_of
from zweistimme.project.saying_edits import put_sayings, remove_sayings
from zweistimme.project.sayings import Saying, saying_key, sayings_in
from zweistimme.sentences import sentences_of
from zweistimme.stages.voice.own_sayings import keep_own, usable_here
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import list_table, push_button
from zweistimme.window.theme import px
from zweistimme.window.trial_speech import speak_trial

NAME: Final = msg("How words are said")
_HEADS: Final = (msg("Word"), msg("Said"), msg("Language"), msg("Lines"))
_SYMBOLS: Final = "ˈˌːəɐɪʊɛɔœøyɑæʌɜɨɯaeiouçxɣŋɲɳʃʒʂθðɹʁɾʀʎɫʔβɸʋɟɡʦʧʤ̃"
_A_ROW: Final = 25


class PronouncingPanel(QWidget):
    """Words and how they are said; what is written below is kept by *Keep*."""

    heard = pyqtSignal(object, bool)
    """Samples to be played, a piece of them or (True) the last."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._shown: list[Saying] = []
        self._of: tuple[object, ...] = (None, None, None)
        """What was shown last was made of this."""
        self.table = list_table([tr(words) for words in _HEADS], tr(NAME), (0, 1))
        self.word, self.kind, self.how = QLineEdit(), QComboBox(), QLineEdit()
        self.word.setPlaceholderText(tr("Word, as it is written"))
        self.word.setAccessibleName(tr("Word, as it is written"))
        self.kind.addItem(tr("as it sounds"), "like")
        self.kind.addItem(tr("IPA"), "ipa")
        self.kind.setAccessibleName(tr("How it is written down"))
        self.how.setAccessibleName(tr("How it is said"))
        self.own = QCheckBox(tr("in my own lexicon, too"))
        self.own.setToolTip(tr("Your own lexicon offers it in other projects"))
        self.before = push_button(tr("▸ Before"), partial(self._hear, anew=False))
        self.after = push_button(tr("▸ After"), partial(self._hear, anew=True))
        self.keep = push_button(tr("Keep"), self._keep)
        self.forget = push_button(tr("Forget"), self._forget)
        self.from_own = push_button("", self._use_own)
        self.read = push_button(tr("Read …"), self._ask_file)
        self.write = push_button(tr("Write …"), self._ask_target)
        self.symbols = self._made_symbols()
        self._lay_out()
        self.table.currentCellChanged.connect(lambda row, *_: self._reach(row))
        self.kind.activated.connect(lambda _place: self._show_kind())
        self.how.returnPressed.connect(self._keep)
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        self.setFocusProxy(self.word)
        self._show_kind()

    def _made_symbols(self) -> QWidget:
        """A key for each sign of IPA that keyboards lack."""
        keys = QWidget()
        grid = QGridLayout(keys)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(1)
        for place, sign in enumerate(_SYMBOLS):
            key = QToolButton()
            key.setText(f"◌{sign}" if sign == "̃" else sign)
            key.setFixedWidth(px(26))
            key.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            key.clicked.connect(lambda _on, sign=sign: self.how.insert(sign))
            grid.addWidget(key, place // _A_ROW, place % _A_ROW)
        grid.setColumnStretch(_A_ROW, 1)
        return keys

    def _lay_out(self) -> None:
        first, second = QHBoxLayout(), QHBoxLayout()
        for widget, stretch in ((self.word, 2), (self.kind, 0), (self.how, 3), (self.before, 0), (self.after, 0)):
            first.addWidget(widget, stretch)
        for act in (self.keep, self.own, self.forget):
            second.addWidget(act)
        second.addStretch(1)
        for act in (self.from_own, self.read, self.write):
            second.addWidget(act)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(first)
        column.addWidget(self.symbols)
        column.addLayout(second)
        column.addWidget(self.table, 1)
        self.table.setMinimumHeight(px(60))

    # what is shown

    def showEvent(self, event: object) -> None:
        self._of = (None, None, None)  # one's own lexicon may be another
        self.refresh()

    def refresh(self) -> None:
        """Show the dictionary of the language on the desk."""
        if not self.isVisible() or self._desk.version is None:
            return
        tag, project, version = self._desk.tag, self._desk.project, self._desk.version
        of = (tag, project.sayings, version.lines)
        if all(a is b for a, b in zip(of, self._of, strict=True)):
            return
        self._of = of
        self._shown = sorted(sayings_in(project.sayings, tag), key=lambda one: one.word.casefold())
        finder = Pronunciations([(one.word, one.how) for one in self._shown], tag)
        times = Counter(word for line in version.lines.values() for word, _ in finder.of(line.text))
        self.table.blockSignals(True)
        self.table.setRowCount(len(self._shown))
        for row, one in enumerate(self._shown):
            how = f"/{one.ipa}/" if one.ipa else tr("like “{text}”", text=one.like)
            for column, words in enumerate((one.word, how, one.language, str(times[one.word]))):
                self.table.setItem(row, column, QTableWidgetItem(words))
        self.table.blockSignals(False)
        try:
            usable = len(usable_here(project, tag))
        except ZweistimmeError as error:
            usable = 0
            self._desk.notice("error", str(error))
        self.from_own.setVisible(usable > 0)
        self.from_own.setText(tr("Use {n:word|words} of mine", n=usable))

    def open_word(self, word: str) -> None:
        """Show how a word is said, and put the keyboard where that is written."""
        known = next((one for one in sayings_in(self._desk.project.sayings, self._desk.tag) if one.word == word), None)
        self._show_saying(known or Saying(word, spoken_tag(self._desk.tag)))
        (self.how if word else self.word).setFocus()

    def _reach(self, row: int) -> None:
        if 0 <= row < len(self._shown):
            self._show_saying(self._shown[row])

    def _show_saying(self, one: Saying) -> None:
        self.word.setText(one.word)
        self.kind.setCurrentIndex(self.kind.findData("ipa" if one.ipa else "like"))
        self.how.setText(one.ipa or one.like)
        self._show_kind()

    def _show_kind(self) -> None:
        ipa = self.kind.currentData() == "ipa"
        self.symbols.setVisible(ipa)
        self.how.setPlaceholderText("ˈvaʁnhɔlm" if ipa else tr("as a reader would spell what is heard"))

    # what is done

    def _written(self) -> Saying:
        """What is written down now."""
        how, ipa = self.how.text().strip(), self.kind.currentData() == "ipa"
        tag = spoken_tag(self._desk.tag)
        return Saying(self.word.text().strip(), tag, ipa=how if ipa else "", like="" if ipa else how)

    def _keep(self) -> None:
        one = self._written()
        label = msg_act("Say how words are said")
        if self._desk.apply(label, partial(put_sayings, sayings=[one])) and self.own.isChecked():
            try:
                keep_own([one], self._desk.tag)
            except ZweistimmeError as error:
                self._desk.notice("error", str(error))

    def _forget(self) -> None:
        word, tag = self.word.text().strip(), self._desk.tag
        keys = [saying_key(word, language) for language in (spoken_tag(tag), language_of(tag))]
        self._desk.apply(msg_act("Read words as written"), partial(remove_sayings, keys=keys))

    def _use_own(self) -> None:
        tag = self._desk.tag
        given = [replace(one, language=spoken_tag(tag)) for one in usable_here(self._desk.project, tag)]
        self._desk.apply(msg_act("Say how words are said"), partial(put_sayings, sayings=given))

    def _hear(self, *, anew: bool) -> None:
        """The first line with the word as it is said now, or as it is written here."""
        desk, one = self._desk, self._written()
        line = next(iter(self._lines_with(one)), None)
        segment = desk.segment(line.segment_id) if line else desk.segment()
        voice = cast_voice_of(desk.version, segment) if segment is not None and desk.version else None
        if segment is None or voice is None or not one.word:
            desk.notice("note", tr("Write a word first; somebody with a voice says it."))
            return
        said = pronunciations_of(desk.project, desk.tag)
        if anew:
            words = [(one.word, one.how), *((other.word, other.how) for other in self._shown if other.word != one.word)]
            said = Pronunciations(words, desk.tag)
        speak_trial(desk, segment.speaker_id, voice, line.text if line else one.word, self.heard.emit, said)

    def _lines_with(self, one: Saying) -> list[Line]:
        """The lines of the version in which a word is, in order."""
        version = self._desk.version
        if version is None or not one.word:
            return []
        finder = Pronunciations([(one.word, one.how)], version.tag)
        segments: tuple[Segment, ...] = self._desk.project.segments
        lines = (version.lines[segment.id] for segment in segments if segment.id in version.lines)
        return [line for line in lines if one.word in line.text and finder.of(line.text)]

    # files

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Read a lexicon"), "", tr("Lexicons (*.pls *.xml)"))
        if name:
            self.read_from(Path(name))

    def read_from(self, file: Path) -> None:
        """Take in a lexicon."""
        tag = self._desk.tag
        try:
            found, odd = read_pls(file)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        fitting = [replace(one, language=spoken_tag(tag)) for one in found if same_language(one.language, tag)]
        if found and not fitting:
            words = tr("{file} is a lexicon for {language}, not for {tag}.",
                       file=file.name, language=found[0].language, tag=tag)  # fmt: skip
            self._desk.notice("error", words)
            return
        self._desk.apply(msg_act("Say how words are said"), partial(put_sayings, sayings=fitting))
        words = tr("{file}: how {n:word is|words are} said.", file=file.name, n=len(fitting))
        self._desk.notice("done", f"{words} {sentences_of(odd)}".strip())

    def _ask_target(self) -> None:
        usual = f"{self._desk.project.title} {spoken_tag(self._desk.tag)}.pls"
        name, _ = QFileDialog.getSaveFileName(self, tr("Write a lexicon"), usual, tr("Lexicons (*.pls *.xml)"))
        if name:
            self.write_to(Path(name))

    def write_to(self, file: Path) -> None:
        """Write the dictionary of the language on the desk."""
        try:
            written_bytes(file, written_pls(self._shown, spoken_tag(self._desk.tag)))
        except OSError as error:
            self._desk.notice("error", tr("{file} cannot be written: {why}.", file=file.name, why=error))
