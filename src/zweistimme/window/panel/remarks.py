"""What checks notice of the selected line: each with what mends it, or let be with a reason."""

from __future__ import annotations

from functools import partial
from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QInputDialog, QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.checks import EVERYWHERE, let_be
from zweistimme.sentences import KINDS, sentence_of
from zweistimme.stages.check import Noticed
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.noticing import Noticing
from zweistimme.window.theme import SMALL_PT, font, tint


class Remarks(QWidget):
    """Made anew only where they are others."""

    def __init__(self, desk: Desk, noticing: Noticing, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._noticing = desk, noticing
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self._shown: tuple[Noticed, ...] | None = None
        noticing.found.connect(self.refresh)

    def refresh(self) -> None:
        """Show what is noticed of the selected line."""
        noticed = self._noticing.of_line(self._desk.segment_id)
        if noticed == self._shown:
            return
        self._shown = noticed
        empty(self._column)
        for one in noticed:
            self._column.addWidget(self._row(one))
        self.setVisible(bool(noticed))

    def _row(self, one: Noticed) -> QWidget:
        row = QWidget()
        box = QHBoxLayout(row)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        words = QLabel(sentence_of(one.finding))
        words.setTextFormat(Qt.TextFormat.PlainText)
        words.setWordWrap(True)
        words.setFont(font(SMALL_PT))
        tint(words, "firm")
        box.addWidget(words, 1)
        if one.mended is not None:
            mend = _button(tr("mend"), f"<p>{escape(one.mended)}</p><p>{escape(tip('mend'))}</p>")
            mend.setAccessibleName(tr("Mend: {sentence}", sentence=words.text()))
            mend.clicked.connect(partial(self._mend, one))
            box.addWidget(mend, 0, Qt.AlignmentFlag.AlignTop)
        away = _button(tr("let be"), tr("Do not notice this any more"))
        away.setAccessibleName(tr("Let be: {sentence}", sentence=words.text()))
        away.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        away.setMenu(self._ways(one, away))
        box.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _ways(self, one: Noticed, owner: QWidget) -> QMenu:
        menu = QMenu(owner)
        kind = tr(KINDS[one.code])
        for words, segment_id, asked in (
            (tr("In this line"), one.segment_id, False),
            (tr("In this line, with a reason …"), one.segment_id, True),
            (tr("In every line: {kind}", kind=kind), EVERYWHERE, False),
            (tr("In every line, with a reason: {kind} …", kind=kind), EVERYWHERE, True),
        ):
            action = menu.addAction(words)
            assert action is not None
            action.triggered.connect(partial(self._let_be, one.code, segment_id, asked))
        return menu

    def _mend(self, one: Noticed, _checked: bool = False) -> None:
        self._noticing.mend(one)

    def _let_be(self, code: str, segment_id: str, asked: bool, _checked: bool = False) -> None:
        reason = ""
        if asked:
            reason, given = QInputDialog.getText(self, tr("Let be"), tr("Why this may be so:"))
            if not given:
                return
        tag = self._desk.tag
        self._desk.apply("Let a remark be", lambda project: let_be(project, tag, segment_id, code, reason))
        self._noticing.look()


def _button(words: str, hint: str) -> QToolButton:
    button = QToolButton()
    button.setText(words)
    button.setFont(font(SMALL_PT))
    button.setToolTip(hint)
    return button
