"""Text broken into lines once and kept: a screenful of cards is drawn from these in a few milliseconds."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontMetricsF

from zweistimme.project.writing import RTL_MARK, is_rtl, word_spans
from zweistimme.window.theme import TEXT_PT, font


@dataclass(frozen=True, slots=True)
class LaidLine:
    """One line of text: the words as drawn, (number, x, width) of each, and where the line begins."""

    text: str
    words: tuple[tuple[int, float, float], ...]
    left: float = 0.0


@lru_cache(maxsize=4)
def _metrics(size: float) -> QFontMetricsF:
    return QFontMetricsF(font(size))


def line_height(size: float = TEXT_PT) -> float:
    """Distance of two lines of text."""
    return _metrics(size).height() + 1


@lru_cache(maxsize=20_000)
def laid_out(text: str, width: int, most_lines: int) -> tuple[LaidLine, ...]:
    """*text* in at most *most_lines* lines of *width* pixels, the last one elided if there is more. Lines that run from
    right to left stand at the right, and so do their words."""
    metrics = _metrics(TEXT_PT)
    spans = word_spans(text)
    lines: list[list[int]] = [[]]
    for number, (_, end) in enumerate(spans):
        first = spans[lines[-1][0]][0] if lines[-1] else 0
        if lines[-1] and metrics.horizontalAdvance(text[first:end]) > width:
            lines.append([])
        lines[-1].append(number)
    result = []
    turned = is_rtl(text)
    for number, line in enumerate(lines[:most_lines] if spans else []):
        first, last = spans[line[0]][0], spans[line[-1]][1]
        # marks about a line keep its full stop at its end, whatever way the window runs
        shown = f"{RTL_MARK}{text[first:last]}{RTL_MARK}" if turned else text[first:last]
        places = [
            (k, metrics.horizontalAdvance(text[first : spans[k][0]]), metrics.horizontalAdvance(text[slice(*spans[k])]))
            for k in line
        ]
        if number == most_lines - 1 and len(lines) > most_lines:
            shown = metrics.elidedText(f"{shown} …………", Qt.TextElideMode.ElideRight, width)
        if turned:
            places = [(k, width - x - advance, advance) for k, x, advance in places]
        left = width - metrics.horizontalAdvance(shown) if turned else 0.0
        result.append(LaidLine(shown, tuple(places), left))
    return tuple(result) or (LaidLine("", ()),)


def forget() -> None:
    """Fonts have changed: lay everything out anew."""
    _metrics.cache_clear()
    laid_out.cache_clear()
