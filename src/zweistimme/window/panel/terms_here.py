"""Terms that are said in the selected line, each with what it is in the version; press that to have it in the line."""

from __future__ import annotations

from html import escape
from typing import Final

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel, QWidget

from zweistimme.messages import tr
from zweistimme.project.model import Project
from zweistimme.project.term_book import Said, term_book
from zweistimme.project.writing import is_unspaced
from zweistimme.window.actions import BY_ID, key_words
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, colour, font

_CLOSING: Final = ",;:.!?…)]”»"
_FEW: Final = 200
"""So many terms are made ready in no time anybody notices."""
MOST_KEYS: Final = 5
"""So many terms of a line have keys."""


class TermsHere(QLabel):
    """One behind the other, as links; those without a rendering are named alone."""

    wanted = pyqtSignal(int)
    """The number of one of them, from 0."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.said: tuple[Said, ...] = ()
        self._asked: tuple[str, str] | None = None
        self._looking = Latest("terms of a line", self)
        self._looking.ready.connect(self._take_over)
        self.setFont(font(SMALL_PT))
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse)
        self.setAccessibleName(tr("Terms in this line"))
        self.linkActivated.connect(lambda number: self.wanted.emit(int(number)))
        self.linkHovered.connect(self._hint)
        self.hide()

    def refresh(self) -> None:
        """Show what is said in the selected line; where making many terms ready takes a moment, once that is done."""
        desk, segment = self._desk, self._desk.segment()
        project, tag = desk.project, desk.tag
        if segment is None or desk.version is None or not project.terms:
            self._show(())
        elif len(project.terms) <= _FEW:
            self._show(_said(project, tag, segment.text))
        else:
            asked = (segment.id, tag)
            if asked != self._asked:
                self._show(())
            self._asked = asked
            self._looking.want(lambda: (asked, _said(project, tag, segment.text)))

    def _take_over(self, found: tuple[tuple[str, str], tuple[Said, ...]]) -> None:
        if found[0] == (self._desk.segment_id, self._desk.tag):
            self._show(found[1])

    def _show(self, said: tuple[Said, ...]) -> None:
        self.said = said
        ink = colour("ink").name()
        parts = [_in_words(number, one, ink) for number, one in enumerate(said)]
        self.setText(" &nbsp;·&nbsp; ".join(parts))
        self.setVisible(bool(said))

    def close_parts(self) -> None:
        """End the thread."""
        self._looking.close()

    def changeEvent(self, event: QEvent | None) -> None:
        """Links have no colour of a role: they are written anew when day becomes night."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange and self.said:
            self._show(self.said)

    def _hint(self, link: str) -> None:
        """What there is to know of the one under the pointer."""
        if not link:
            self.setToolTip("")
            return
        number, one = int(link), self.said[int(link)]
        key = key_words(BY_ID[f"term_{number + 1}"].key) if number < MOST_KEYS else ""
        insert = tr("Put “{word}” into the line", word=one.rendering.text) + (f" ({key})" if key else "")
        self.setToolTip("\n".join(filter(None, (insert, _about(one)))))


def _said(project: Project, tag: str, text: str) -> tuple[Said, ...]:
    return tuple(one for one in term_book(project, tag).said(text) if _tells(one))


def _in_words(number: int, one: Said, ink: str) -> str:
    source = escape(one.term.source)
    if not one.rendering.text:
        return source
    style = f"color: {ink}; text-decoration: underline;"
    return f'{source} → <a href="{number}" style="{style}">{escape(one.rendering.text)}</a>'


def _tells(one: Said) -> bool:
    """Whether there is anything to say of it in this version."""
    return bool(one.rendering.text or one.rendering.forbidden or one.term.note)


def _about(one: Said) -> str:
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
