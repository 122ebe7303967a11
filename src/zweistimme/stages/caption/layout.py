"""Breaking text into captions and captions into lines, at the places where reading pauses anyway."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Final

from zweistimme.project.writing import ends_clause, ends_sentence, graphemes, is_unspaced, letters, word_spans
from zweistimme.project.writing.break_prices import parting_price
from zweistimme.project.writing.tokens import Span
from zweistimme.stages.caption.rules import CaptionRules

_INFINITE: Final = 1e9
_CAPTION_PRICE: Final = 60.0
"""Every caption costs, so that there are few."""
_OVER_PRICE: Final = 500.0
_SENTENCE, _CLAUSE, _PHRASE, _WITHIN = 0.0, 8.0, 30.0, 75.0
_CLING: Final = 40.0
_NAME: Final = 20.0


@lru_cache(maxsize=4096)
def captions_of(text: str, rules: CaptionRules) -> tuple[str, ...]:
    """*text* as captions of at most two lines, the lines divided by newlines.

    >>> captions_of("And if it doesn't?", CaptionRules())
    ("And if it doesn't?",)
    """
    text = " ".join(text.split())
    units = _units(text, rules)
    if not units:
        return ()
    prices = [_break_price(text, units, place, rules.tag) for place in range(1, len(units))]
    best: list[tuple[float, int]] = [(0.0, 0)] + [(_INFINITE, 0)] * len(units)
    for end in range(1, len(units) + 1):
        for start in range(end - 1, -1, -1):
            part = text[units[start][0] : units[end - 1][1]]
            if letters(part) > rules.lines * rules.line_letters + 1 and end - start > 1:
                break
            price = best[start][0] + _caption_price(text, units, start, end, rules, prices)
            if price < best[end][0]:
                best[end] = (price, start)
    cuts, end = [], len(units)
    while end:
        start = best[end][1]
        cuts.append((start, end))
        end = start
    return tuple(broken(text[units[a][0] : units[b - 1][1]], rules) for a, b in reversed(cuts))


def _units(text: str, rules: CaptionRules) -> list[Span]:
    """Words, and the parts of those that are longer than a line."""
    units: list[Span] = []
    for start, end in word_spans(text, rules.tag):
        if letters(text[start:end]) <= rules.line_letters:
            units.append((start, end))
            continue
        at = start
        for part in _parts(text[start:end], rules.line_letters):
            units.append((at, at + len(part)))
            at += len(part)
    return units


def _parts(word: str, most: float) -> list[str]:
    """A word longer than a line, where Unicode line breaking (UAX #14) lets it be broken, else between letters."""
    from uniseg.linebreak import line_break_units

    parts: list[str] = []
    allowed = list(line_break_units(word)) if is_unspaced(word) else graphemes(word)
    for unit in allowed:
        if parts and letters(parts[-1] + unit) <= most:
            parts[-1] += unit
        else:
            parts.append(unit)
    return parts


def _caption_price(
    text: str, units: Sequence[Span], start: int, end: int, rules: CaptionRules, prices: Sequence[float]
) -> float:
    part = text[units[start][0] : units[end - 1][1]]
    lines = broken(part, rules).split("\n")
    price = _CAPTION_PRICE + sum(_OVER_PRICE * max(0.0, letters(line) - rules.line_letters) for line in lines)
    if end < len(units):
        price += prices[end - 1]
    if end - start == 1 and len(units) > 1:
        price += 60.0
    wanted = 0.7 * rules.lines * rules.line_letters
    return price + 14.0 * ((letters(part) - wanted) / wanted) ** 2 * (len(units) > end or start > 0)


def _break_price(text: str, units: Sequence[Span], place: int, tag: str) -> float:
    """What it costs to break before a unit."""
    (a, b), (c, d) = units[place - 1], units[place]
    before, after = text[a:b], text[c:d]
    if ends_sentence(before, after):
        return _SENTENCE
    if ends_clause(before):
        return _CLAUSE
    if b == c and not is_unspaced(before + after):
        return _WITHIN  # in the middle of a word
    price = _PHRASE + _CLING * parting_price(before, after, tag)
    if before[:1].isupper() and after[:1].isupper():
        price += _NAME  # probably a name
    return price


@lru_cache(maxsize=4096)
def broken(text: str, rules: CaptionRules) -> str:
    """One caption in one line or two, the lower one rather the longer, no word left alone if it can be helped."""
    if letters(text) <= rules.line_letters or rules.lines < 2:
        return text
    units = _units(text, rules)
    scale = 42.0 / rules.line_letters
    best, choice = _INFINITE, text
    for cut in range(1, len(units)):
        upper, lower = text[: units[cut - 1][1]], text[units[cut][0] :]
        longer = letters(lower) - letters(upper)
        over = max(0.0, letters(upper) - rules.line_letters) + max(0.0, letters(lower) - rules.line_letters)
        price = 50.0 * over * scale + 0.5 * _break_price(text, units, cut, rules.tag)
        price += 0.05 * (scale * longer - 4) ** 2 * (0.6 if longer >= 0 else 1.0)
        price += 40.0 * (cut == 1) + 40.0 * (cut == len(units) - 1)
        if price < best:
            best, choice = price, f"{upper}\n{lower}"
    return choice
