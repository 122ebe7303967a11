"""The listening desk: takes heard back and looked at, the worst first; played one after the other, and dealt with by
key: good, again, mend, note."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence, QPalette
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QSizePolicy, QTableWidgetItem, QVBoxLayout, QWidget

from zweistimme.messages import msg, msg_act, number, tr
from zweistimme.project.auditions import BEST
from zweistimme.project.edits import score_take
from zweistimme.project.times import RATE
from zweistimme.sentences.takes import fault_sentence
from zweistimme.stages.voice.heard_back import TakeHeard, hear_back
from zweistimme.stages.voice.looked_at import Remedy, TakeLooked, look_at_takes, mend_take
from zweistimme.stages.voice.until_right import Bounds, again_until_right
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.hearing_costs import agreed_to_ask_again, agreed_to_hear
from zweistimme.window.known_takes import KnownTake, filters, is_wanted
from zweistimme.window.layouts import list_table, push_button
from zweistimme.window.panel.heard_words import heard_words
from zweistimme.window.theme import SMALL_PT, font, px

NAME: Final = msg("Takes heard back")
_HEADS: Final = (msg("Line"), msg("Speaker"), msg("Heard"), msg("Wording"), msg("Sound"))
_MOST: Final = 500
_BETWEEN_MS: Final = 500
_TRIES: Final = 3
_SOON_MS: Final = 100
_WORDING, _SOUND = 3, 4


class ListeningPanel(QWidget):
    """A row for each take; what is good goes."""

    heard = pyqtSignal(str)
    """A take to be played."""
    again_wanted = pyqtSignal()
    note_wanted = pyqtSignal()
    _took = pyqtSignal(str, object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._tag = desk, ""
        self.known: dict[str, KnownTake] = {}
        self._rows: list[str] = []
        self.table = list_table([tr(words) for words in _HEADS], tr(NAME), (_WORDING, _SOUND))
        self.about, self.filter = QLabel(), QComboBox()
        self.about.setFont(font(SMALL_PT))
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.filter.setAccessibleName(tr("Which takes are shown"))
        self.some = push_button(tr("What is chosen"), lambda: self.ask(desk.chosen_ids()))
        self.all = push_button(tr("The whole version"), lambda: self.ask(None))
        self.until = push_button(tr("Again until right"), self._until_right)
        self.until.setToolTip(
            tr("Ask again for the takes shown that are not good, three times at most; the best stays")
        )
        self.row = push_button(tr("▸ In a row"), self.play_in_a_row)
        self.row.setCheckable(True)
        self._soon, self._next = QTimer(self), QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._show)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._play_next)
        self._lay_out()
        self._took.connect(self._take_over)
        self.filter.activated.connect(lambda _place: self._show())
        self.table.currentCellChanged.connect(lambda row, *_: self._reach(row))
        self.table.cellActivated.connect(lambda _row, _column: self._play())
        desk.changed.connect(lambda _change: self._forget())
        desk.version_changed.connect(lambda _tag: self._forget())
        self.setFocusProxy(self.all)
        self._show()

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.filter, 1)
        for widget in (self.some, self.all, self.until, self.row):
            top.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(top)
        column.addWidget(self.table, 1)
        column.addWidget(self.about)
        self._keys: dict[Qt.Key, QAction] = {}
        acts: tuple[tuple[str, str, Callable[[], object]], ...] = (
            (tr("Good: no more to be done"), "G", self.good),
            (tr("Again: ask for another take"), "A", self.again_wanted.emit),
            (tr("Mend: trim, fade, level"), "E", self.mend),
            (tr("Write a note about the line"), "N", self.note_wanted.emit),
        )
        for words, key, act in acts:
            action = QAction(words, self.table)
            action.setShortcut(QKeySequence(key))
            action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            action.triggered.connect(lambda _on, act=act: act())
            self.table.addAction(action)
            self._keys[QKeySequence(key)[0].key()] = action
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        self.table.setProperty("ownKeys", "listening")
        self.table.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The keys of the table are its own, before they are those of the desk."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and not event.modifiers():
            action = self._keys.get(Qt.Key(event.key()))
            if action is not None:
                action.trigger()
                return True
        return super().eventFilter(watched, event)

    # asking

    def ask(self, ids: list[str] | None) -> None:
        """Hear takes of these lines back (None: of all), and look at their sound."""
        tag = self._desk.tag
        if self._desk.version is None or ids == [] or not agreed_to_hear(self, self._desk, ids):
            return

        def stage(work: Work) -> None:
            took = partial(self._took.emit, tag)
            look_at_takes(replace(work, report=work.part(0.0, 0.2)), tag, ids, took)
            hear_back(replace(work, report=work.part(0.2, 1.0)), tag, ids, took)

        self._desk.jobs.read(msg_act("Hear takes back"), stage)

    def _until_right(self) -> None:
        """Ask again for what is shown and not good."""
        tag = self._desk.tag
        bad = [key for key in self._rows if (one := self.known[key].heard) is not None and one.faults]
        if bad and agreed_to_ask_again(self, self._desk, bad, _TRIES):
            took, bounds = partial(self._took.emit, tag), Bounds(tries=_TRIES)
            self._desk.jobs.start(
                msg_act("Ask again until takes are right"), lambda work: again_until_right(work, tag, bad, bounds, took)
            )

    def _take_over(self, tag: str, found: object) -> None:
        if tag != self._desk.tag:
            return
        if tag != self._tag:
            self.known, self._tag = {}, tag
        if isinstance(found, TakeHeard):
            looked = self._same(found.segment_id, found.take_id).looked
            self.known[found.segment_id] = KnownTake(found, looked)
            self._desk.show_heard(found)
        elif isinstance(found, TakeLooked):
            self.known[found.segment_id] = KnownTake(self._same(found.segment_id, found.take_id).heard, found)
        if not self._soon.isActive():  # results come faster than anybody reads
            self._soon.start(_SOON_MS)

    def _same(self, segment_id: str, take_id: str) -> KnownTake:
        """What is known of a line, if it is of this take."""
        one = self.known.get(segment_id, KnownTake())
        return one if one.take_id == take_id else KnownTake()

    def _forget(self) -> None:
        """What is known of takes that are chosen no more, or say something else, is of no use."""
        version = self._desk.version
        lines = version.lines if version is not None and self._desk.tag == self._tag else {}
        kept = {key: one for key, one in self.known.items() if key in lines and lines[key].take_id == one.take_id}
        if len(kept) != len(self.known):
            self.known = kept
            self._show()

    # showing

    def _show(self) -> None:
        who = self._speakers()
        here = self._rows[self.table.currentRow()] if 0 <= self.table.currentRow() < len(self._rows) else ""
        wanted = str(self.filter.currentData() or "")
        shown = {
            key: one
            for key, one in self.known.items()
            if not self._is_good(one) and is_wanted(one, wanted, who.get(key, ""))
        }
        self._rows = sorted(shown, key=lambda key: shown[key].rank)[:_MOST]
        self.table.blockSignals(True)
        self.table.setRowCount(len(self._rows))
        for place, key in enumerate(self._rows):
            self._fill(place, shown[key], who.get(key, ""))
        if here in self._rows:
            self.table.setCurrentCell(self._rows.index(here), 0)
        self.table.blockSignals(False)
        self._offer(who)
        heard = [one.heard for one in self.known.values() if one.heard is not None]
        self.about.setText(
            tr(
                "{n:take|takes} heard, {mean} of 100 in the mean, {bad} with a word that is not clear.",
                n=len(heard), mean=round(sum(one.score for one in heard) / len(heard)),
                bad=sum(bool(one.faults) for one in heard),
            )
            if heard
            else tr("Hear takes back: is every word there, and is the sound in order?")
        )  # fmt: skip

    def _is_good(self, one: KnownTake) -> bool:
        """Whether somebody has said that it is as it should be."""
        version = self._desk.version
        take = version.takes.get(one.take_id) if version is not None else None
        return take is not None and take.score == BEST

    def _speakers(self) -> dict[str, str]:
        """Who speaks each segment."""
        return {one.id: one.speaker_id for one in self._desk.project.segments}

    def _fill(self, place: int, one: KnownTake, speaker: str) -> None:
        people = self._desk.project.speakers
        name = people[speaker].name if speaker in people else ""
        heard, looked = one.heard, one.looked
        line = (heard or looked).number if heard or looked else 0  # type: ignore[union-attr]
        sound = ", ".join(fault_sentence(f.kind, f.amount, f.remedy.value) for f in looked.faults) if looked else ""
        for column, words in enumerate((str(line), name, number(heard.score, ".0f") if heard else "", "", sound)):
            item = QTableWidgetItem(words)
            item.setToolTip(words)
            self.table.setItem(place, column, item)
        label = QLabel(heard_words(heard.words) if heard else "")
        label.setMargin(px(3))
        label.setBackgroundRole(QPalette.ColorRole.Base)  # so that its marks are seen in the row that is chosen, too
        label.setAutoFillBackground(True)
        self.table.setCellWidget(place, _WORDING, label)
        said = ", ".join(f"{word.text}: {tr(word.state.value)}" for word in heard.faults) if heard else ""
        wording = self.table.item(place, _WORDING)
        if wording is not None:
            wording.setData(Qt.ItemDataRole.AccessibleTextRole, f"{heard.text if heard else ''} {said}".strip())
            wording.setToolTip(said)

    def _offer(self, who: dict[str, str]) -> None:
        """Whose takes, and with which findings, can be shown."""
        before = self.filter.currentData()
        self.filter.blockSignals(True)
        self.filter.clear()
        for words, value in filters(self.known, who, self._desk.project.speakers):
            self.filter.addItem(words, value)
        self.filter.setCurrentIndex(max(0, self.filter.findData(before)))
        self.filter.blockSignals(False)

    # going through

    def _reach(self, row: int) -> None:
        if 0 <= row < len(self._rows):
            self._desk.select(self._rows[row])

    def _here(self) -> KnownTake | None:
        row = self.table.currentRow()
        return self.known.get(self._rows[row]) if 0 <= row < len(self._rows) else None

    def _play(self) -> None:
        one = self._here()
        if one is not None:
            self.heard.emit(one.take_id)

    def play_in_a_row(self) -> None:
        """Play from here on, one after the other, or stop."""
        if not self.row.isChecked():
            self._next.stop()
            return
        if self.table.currentRow() < 0 and self._rows:
            self.table.setCurrentCell(0, 0)
        self._play_here()

    def _play_here(self) -> None:
        one, version = self._here(), self._desk.version
        take = version.takes.get(one.take_id) if one is not None and version is not None else None
        if take is None:
            self.row.setChecked(False)
            return
        self._play()
        self._next.start(round(1000 * take.length_samples / RATE) + _BETWEEN_MS)

    def _play_next(self) -> None:
        row = self.table.currentRow() + 1
        if not self.row.isChecked() or row >= len(self._rows):
            self.row.setChecked(False)
            return
        self.table.setCurrentCell(row, 0)
        self._play_here()

    def good(self) -> None:
        """This take is good, whatever was found: it is shown no more, and the next is reached."""
        one, row = self._here(), self.table.currentRow()
        if one is not None:
            edit = partial(score_take, tag=self._desk.tag, take_id=one.take_id, score=BEST)
            self._desk.apply(msg_act("Score a take"), edit)
            self._show()
            row = min(row, len(self._rows) - 1)
            self.table.setCurrentCell(row, 0)
            self._reach(row)  # another line in the same row

    def mend(self) -> None:
        """Trim, fade and set the level of this take, as far as its findings ask for it."""
        one, tag = self._here(), self._desk.tag
        if one is None or one.looked is None or not {f.remedy for f in one.looked.faults} - {Remedy.AGAIN}:
            self._desk.notice("note", tr("Nothing of this take can be mended. Ask for another (A)."))
            return
        looked = one.looked
        self._desk.jobs.start(msg_act("Mend a take"), lambda work: mend_take(work, tag, looked.take_id, looked.faults))
