"""What would help the selected line: who binds it, and every remedy with what comes of it, one key away."""

from __future__ import annotations

from functools import partial
from html import escape
from typing import Final

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.sentences import sentences_of
from zweistimme.stages.fit import change_and_plan
from zweistimme.stages.fit.explained import Explained, explained
from zweistimme.stages.fit.remedies import Help, Remedy, Standing
from zweistimme.window.actions import BY_ID
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.theme import SMALL_PT, font

MOST: Final = 5
_REST_MS: Final = 180
WORDS: Final = {
    Help.SHORTER: msg("say “{words}”"),
    Help.OTHER_TAKE: msg("use {words}"),
    Help.BORROW: msg("borrow {words} from the pause"),
    Help.NEIGHBOUR: msg("let {words} wait a little"),
    Help.OFF_SCREEN: msg("fit it as off screen"),
    Help.VOICE_OVER: msg("fit it as voice-over"),
    Help.FREE: msg("free its pins"),
}


class Helps(QWidget):
    """Made anew, off the GUI thread, when another line is selected or the plan is another."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.shown: Explained | None = None
        self._of: tuple[object, ...] = ()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self._latest = Latest("what would help", self)
        self._latest.ready.connect(self._take_over)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._look)

    def refresh(self) -> None:
        """Look into the selected line, if it is another, or stands otherwise."""
        version = self._desk.version
        here = (self._desk.tag, self._desk.segment_id)
        of = (here, version.placements if version else None, version.lines if version else None)
        if self._of and self._of[0] == here and all(a is b for a, b in zip(self._of[1:], of[1:], strict=True)):
            return
        self._of = of
        if not self._is_here(self.shown):
            self._show(None)
        self._rest.start()

    def close_parts(self) -> None:
        """End the thread."""
        self._rest.stop()
        self._latest.close()

    def _look(self) -> None:
        project, tag, segment_id = self._desk.project, self._desk.tag, self._desk.segment_id
        if self._desk.version is not None and self._desk.placed() is not None:
            self._latest.want(partial(explained, project, tag, segment_id))
        else:
            self._show(None)

    def _take_over(self, found: Explained) -> None:
        if self._is_here(found):
            self._show(found)

    def _is_here(self, found: Explained | None) -> bool:
        """Whether it is of the selected line, in the version on the desk."""
        return found is not None and (found.tag, found.segment_id) == (self._desk.tag, self._desk.segment_id)

    def _show(self, found: Explained | None) -> None:
        self.shown = found
        empty(self._column)
        self.setVisible(found is not None and bool(found.findings or found.remedies))
        if found is None:
            return
        if found.findings:
            why = _label(sentences_of(found.findings))
            why.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self._column.addWidget(why)
        if found.remedies:
            head = _label(tr("What would help"))
            head.setFont(font(SMALL_PT, bold=True))
            self._column.addWidget(head)
        for number, remedy in enumerate(found.remedies[:MOST], 1):
            self._column.addWidget(self._row(number, remedy))

    def _row(self, number: int, remedy: Remedy) -> QWidget:
        row = QWidget()
        box = QHBoxLayout(row)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        button = QToolButton()
        button.setFont(font(SMALL_PT))
        words = tr(WORDS[remedy.help], words=remedy.words)
        button.setText(words if len(words) < 46 else words[:44] + " …")
        button.setAccessibleName(words)
        key = BY_ID[f"help_{number}"].key
        button.setToolTip(f"<p>{escape(words)}</p><p>{escape(key)}</p>")
        button.clicked.connect(partial(self.take, number - 1))
        effect = _label(effect_in_words(remedy))
        effect.setProperty("faded", True)
        effect.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        box.addWidget(button)
        box.addWidget(effect, 1)
        return row

    def take(self, number: int, _checked: bool = False) -> None:
        """Do the remedy with this number, from 0."""
        found, segment_id, tag = self.shown, self._desk.segment_id, self._desk.tag
        if found is None or not self._is_here(found) or number >= len(found.remedies):
            self._desk.notice("note", tr("There is no remedy {number} for this line.", number=number + 1))
            return
        edit = found.remedies[number].edit
        self._desk.apply(msg_act("Help a line"), lambda project: change_and_plan(project, tag, segment_id, edit))


def effect_in_words(remedy: Remedy) -> str:
    """What comes of a remedy."""
    words = standing_in_words(remedy.after)
    if remedy.others < -0.5:
        words += "; " + tr("others worse")
    elif remedy.others > 0.5:
        words += "; " + tr("others better")
    return words


def standing_in_words(standing: Standing) -> str:
    """How a line stands, in a few words."""
    parts = []
    if standing.over_s > 0:
        parts.append(tr("{over_s:.1f} s too long", over_s=standing.over_s))
    if standing.clash_s > 0:
        parts.append(tr("{clash_s:.1f} s at once", clash_s=standing.clash_s))
    if standing.late_s >= 0.05:
        parts.append(tr("start off by {late_s:.2f} s more", late_s=standing.late_s))
    if standing.ends_s >= 0.05:
        parts.append(tr("end late by {ends_s:.2f} s more", ends_s=standing.ends_s))
    tempo = f"×{standing.tempo:.2f}"
    return ", ".join([*parts, tempo]) if parts else tr("stands well, {tempo}", tempo=tempo)


def _label(words: str) -> QLabel:
    label = QLabel(words)
    label.setWordWrap(True)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setFont(font(SMALL_PT))
    return label
