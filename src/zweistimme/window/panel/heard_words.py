"""What was heard in a take, in marks that need no colour."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from zweistimme.messages import tr
from zweistimme.sound.word_check import WordState
from zweistimme.stages.voice.heard_back import WordHeard
from zweistimme.window.theme import SMALL_PT, colour, font

_AROUND: Final = ".,;:!?…“”„«»()¿¡"
_MARKS: Final = {
    WordState.MUMBLED: ("<u>", "</u>", "firm"), WordState.MISSING: ("<s>", "</s>", "hard"),
    WordState.DOUBLED: ("<b>", " ×2</b>", "hard"), WordState.ADDED: ("<i>+", "</i>", "hard"),
}  # fmt: skip


def heard_words(words: Iterable[WordHeard]) -> str:
    """A line as rich text: missing words struck through, mumbled ones underlined, doubled ones said to be."""
    parts = []
    for word in words:
        before, behind, role = _MARKS.get(word.state, ("", "", "ink"))
        tint = colour(role).name()
        parts.append(f'<span style="color:{tint}">{before}{escape(word.text)}{behind}</span>')
    return " ".join(parts)


def paint_fault(painter: QPainter, word: WordHeard, box: QRectF) -> None:
    """Mark a word that is not clear over the sound of its take: a frame, and what it is in words."""
    role = _MARKS[word.state][2]
    painter.setPen(QPen(colour(role), 1.6, Qt.PenStyle.DotLine if role == "firm" else Qt.PenStyle.SolidLine))
    painter.setBrush(colour(role, 36))
    painter.drawRect(box)
    painter.setFont(font(SMALL_PT))
    painter.drawText(QPointF(box.left() + 2, box.bottom() - 3), f"{word.text.strip(_AROUND)}: {tr(word.state.value)}")
