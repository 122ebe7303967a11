"""Terms that are said in the selected line, each with what it is in the version; press one to have it in the line."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLabel, QToolButton, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.term_book import Said, term_book
from zweistimme.project.writing import is_unspaced
from zweistimme.window.actions import BY_ID, key_words
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import empty
from zweistimme.window.theme import SMALL_PT, font, tint

_CLOSING: Final = ",;:.!?…)]”»"
MOST_KEYS: Final = 5
"""So many terms of a line have keys."""


class TermsHere(QWidget):
    """Made anew only where they are others."""

    wanted = pyqtSignal(int)
    """The number of one of them, from 0."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(1)
        self.said: tuple[Said, ...] = ()
        self.hide()

    def refresh(self) -> None:
        """Show what is said in the selected line."""
        desk, segment = self._desk, self._desk.segment()
        said: tuple[Said, ...] = ()
        if segment is not None and desk.version is not None and desk.project.terms:
            said = tuple(one for one in term_book(desk.project, desk.tag).said(segment.text) if _tells(one))
        if said == self.said:
            return
        self.said = said
        empty(self._column)
        title = QLabel(tr("Terms in this line"))
        title.setFont(font(SMALL_PT))
        tint(title, "faded")
        self._column.addWidget(title)
        for number, one in enumerate(said):
            self._column.addWidget(self._row(number, one))
        self.setVisible(bool(said))

    def _row(self, number: int, one: Said) -> QWidget:
        rendering = one.rendering
        words = f"{one.term.source}  →  {rendering.text or '—'}"
        if not rendering.text:
            label = QLabel(words)
            label.setFont(font(SMALL_PT))
            label.setToolTip(_hint(one))
            return label
        button = QToolButton()
        button.setText(words.replace("&", "&&"))
        button.setFont(font(SMALL_PT))
        key = key_words(BY_ID[f"term_{number + 1}"].key) if number < MOST_KEYS else ""
        insert = tr("Put “{word}” into the line", word=rendering.text) + (f" ({key})" if key else "")
        button.setToolTip("\n".join(filter(None, (insert, _hint(one)))))
        button.setAccessibleName(insert)
        button.clicked.connect(partial(self._want, number))
        return button

    def _want(self, number: int, _checked: bool = False) -> None:
        self.wanted.emit(number)


def _tells(one: Said) -> bool:
    """Whether there is anything to say of it in this version."""
    return bool(one.rendering.text or one.rendering.forbidden or one.term.note)


def _hint(one: Said) -> str:
    rendering = one.rendering
    also = tr("also: {words}", words=" | ".join(rendering.also)) if rendering.also else ""
    unused = tr("not: {words}", words=" | ".join(rendering.forbidden)) if rendering.forbidden else ""
    said = f"/{rendering.pronunciation}/" if rendering.pronunciation else ""
    return "\n".join(filter(None, (also, unused, said, one.term.note)))


def with_spaces(before: str, word: str, after: str) -> str:
    """A word as it goes between two texts: with a space where letters would touch and the script has spaces.

    >>> with_spaces("Das", "Feuer", "."), with_spaces("海の", "灯台", "が")
    (' Feuer', '灯台')
    """
    if is_unspaced(word):
        return word
    left = " " if before and (before[-1].isalnum() or before[-1] in _CLOSING) else ""
    right = " " if after[:1].isalnum() else ""
    return f"{left}{word}{right}"
