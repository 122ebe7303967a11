"""Breaking text into captions and captions into lines, at the places where reading pauses anyway."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from zweistimme.stages.caption.rules import CaptionRules

_CLINGING: Final = frozenset(
    [
        "a",
        "an",
        "the",
        "and",
        "or",
        "but",
        "of",
        "in",
        "on",
        "at",
        "to",
        "for",
        "with",
        "from",
        "by",
        "as",
        "that",
        "this",
        "his",
        "her",
        "its",
        "my",
        "your",
        "our",
        "their",
        "der",
        "die",
        "das",
        "den",
        "dem",
        "des",
        "ein",
        "eine",
        "einen",
        "einem",
        "einer",
        "und",
        "oder",
        "aber",
        "in",
        "im",
        "am",
        "an",
        "auf",
        "zu",
        "zum",
        "zur",
        "mit",
        "von",
        "vom",
        "bei",
        "el",
        "la",
        "los",
        "las",
        "un",
        "una",
        "y",
        "o",
        "pero",
        "de",
        "del",
        "a",
        "al",
        "en",
        "con",
        "por",
        "para",
        "que",
        "su",
        "mi",
        "tu",
    ]
)
_INFINITE: Final = 1e9


def captions_of(text: str, rules: CaptionRules) -> list[str]:
    """*text* as captions of at most two lines, the lines divided by newlines.

    >>> captions_of("And if it doesn't?", CaptionRules())
    ["And if it doesn't?"]
    """
    words = text.split()
    if not words:
        return []
    best: list[tuple[float, int]] = [(0.0, 0)] + [(_INFINITE, 0)] * len(words)
    for end in range(1, len(words) + 1):
        for start in range(end - 1, -1, -1):
            part = " ".join(words[start:end])
            if len(part) > rules.lines * rules.line_letters + 1 and end - start > 1:
                break
            price = best[start][0] + _caption_price(words, start, end, rules)
            if price < best[end][0]:
                best[end] = (price, start)
    cuts, end = [], len(words)
    while end:
        start = best[end][1]
        cuts.append((start, end))
        end = start
    return [broken(" ".join(words[start:end]), rules) for start, end in reversed(cuts)]


def _caption_price(words: list[str], start: int, end: int, rules: CaptionRules) -> float:
    part = " ".join(words[start:end])
    lines = broken(part, rules).split("\n")
    price = 60.0  # every caption costs, so that there are few
    price += sum(500.0 * max(0, len(line) - rules.line_letters) for line in lines)
    if end < len(words):
        price += _break_price(words[end - 1], words[end])
    if end - start == 1 and len(words) > 1:
        price += 60.0
    return price + 0.004 * (len(part) - 60) ** 2 * (len(words) > end or start > 0)


def _break_price(before: str, after: str) -> float:
    """What it costs to break between two words."""
    if before[-1] in ".!?…":
        return 0.0
    if before[-1] in ",;:–—":
        return 8.0
    price = 30.0
    if before.lower().strip("«»„“”\"'¿¡(") in _CLINGING:
        price += 40.0
    if before[:1].isupper() and after[:1].isupper():
        price += 20.0  # probably a name
    return price


@lru_cache(maxsize=4096)
def broken(text: str, rules: CaptionRules) -> str:
    """One caption in one line or two, the lower one rather the longer, no word left alone if it can be helped."""
    if len(text) <= rules.line_letters or rules.lines < 2:
        return text
    words = text.split()
    best, choice = _INFINITE, text
    for cut in range(1, len(words)):
        upper, lower = " ".join(words[:cut]), " ".join(words[cut:])
        over = max(0, len(upper) - rules.line_letters) + max(0, len(lower) - rules.line_letters)
        price = 50.0 * over + 0.5 * _break_price(words[cut - 1], words[cut])
        price += 0.05 * (len(lower) - len(upper) - 4) ** 2 * (0.6 if len(lower) >= len(upper) else 1.0)
        price += 40.0 * (cut == 1) + 40.0 * (cut == len(words) - 1)
        if price < best:
            best, choice = price, f"{upper}\n{lower}"
    return choice
