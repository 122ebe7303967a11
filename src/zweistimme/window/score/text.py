"""Text broken into lines once and kept: a screenful of cards is drawn from these in a few milliseconds."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontMetricsF

from zweistimme.window.theme import TEXT_PT, font


@dataclass(frozen=True, slots=True)
class LaidLine:
    """One line of text: the words as drawn, and (number, x, width) of each."""

    text: str
    words: tuple[tuple[int, float, float], ...]


@lru_cache(maxsize=4)
def _metrics(size: float) -> QFontMetricsF:
    return QFontMetricsF(font(size))


def line_height(size: float = TEXT_PT) -> float:
    """Distance of two lines of text."""
    return _metrics(size).height() + 1


@lru_cache(maxsize=20_000)
def laid_out(text: str, width: int, most_lines: int) -> tuple[LaidLine, ...]:
    """*text* in at most *most_lines* lines of *width* pixels, the last one elided if there is more."""
    metrics = _metrics(TEXT_PT)
    space = metrics.horizontalAdvance(" ")
    lines: list[list[tuple[str, int, float, float]]] = [[]]
    x = 0.0
    for number, word in enumerate(text.split()):
        advance = metrics.horizontalAdvance(word)
        if lines[-1] and x + advance > width:
            lines.append([])
            x = 0.0
        lines[-1].append((word, number, x, advance))
        x += advance + space
    result = []
    for number, line in enumerate(lines[:most_lines]):
        words = " ".join(word for word, _, _, _ in line)
        if number == most_lines - 1 and len(lines) > most_lines:
            words = metrics.elidedText(words + " …………", Qt.TextElideMode.ElideRight, width)
        result.append(LaidLine(words, tuple((place, start, advance) for _, place, start, advance in line)))
    return tuple(result)


def forget() -> None:
    """Fonts have changed: lay everything out anew."""
    _metrics.cache_clear()
    laid_out.cache_clear()
