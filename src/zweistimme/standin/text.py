"""From written to spoken words: numbers, years and a few abbreviations spelled out, punctuation as pauses."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

PAUSES_MS: Final = {",": 190, ";": 260, ":": 260, "–": 220, "—": 220, "…": 320, ".": 380, "!": 380, "?": 380}
_ABBREVIATIONS: Final[dict[str, dict[str, str]]] = {
    "en": {"mr": "mister", "mrs": "missis", "dr": "doctor", "st": "saint"},
    "de": {"dr": "Doktor", "nr": "Nummer", "usw": "und so weiter", "z.b": "zum Beispiel"},
    "es": {"sr": "señor", "sra": "señora", "dr": "doctor", "núm": "número"},
}
_TOKEN = re.compile(r"\d+(?:[.,]\d+)?|[^\W\d_]+(?:['’\-][^\W\d_]+)*\.?|[,;:–—…!?.]")


@dataclass(frozen=True, slots=True)
class SpokenWord:
    """A written word, the words said for it, and the pause that follows it in ms (0: none).

    *ends* is the mark that ended the phrase, or empty.
    """

    written: str
    said: tuple[str, ...]
    pause_ms: int = 0
    ends: str = ""


def language_of(tag: str) -> str:
    """The language part of a tag.

    >>> language_of("de-DE")
    'de'
    """
    return tag.split("-")[0].lower()


def spoken_words(text: str, language: str) -> list[SpokenWord]:
    """Words of *text* as they are said in *language* ("en", "de", "es").

    >>> [word.said for word in spoken_words("In 1884, yes.", "en")]
    [('in',), ('eighteen', 'eighty', 'four'), ('yes',)]
    """
    words: list[SpokenWord] = []
    for piece in text.split():
        said: list[str] = []
        pause, ends = 0, ""
        for token in _TOKEN.findall(piece):
            if token in PAUSES_MS:
                pause, ends = max(pause, PAUSES_MS[token]), token
                continue
            bare = token.rstrip(".")
            short = _ABBREVIATIONS.get(language, {}).get(bare.lower()) if token.endswith(".") else None
            if token.endswith(".") and short is None:
                pause, ends = PAUSES_MS["."], "."
            said += (short or _number(bare, language) or bare).lower().replace("-", " ").split()
        if said:
            words.append(SpokenWord(piece, tuple(said), pause, ends))
        elif words and pause:
            last = words[-1]
            words[-1] = SpokenWord(last.written, last.said, max(pause, last.pause_ms), ends)
    return words


def _number(token: str, language: str) -> str | None:
    if not token[0].isdigit():
        return None
    from num2words import num2words

    known = language if language in ("en", "de", "es") else "en"
    point = "." if known == "en" else ","
    if not token.isdigit():
        plain = token.replace("," if point == "." else ".", "") if _grouped(token, point) else token.replace(",", ".")
        number: float | int = float(plain) if "." in plain else int(plain)
        return str(num2words(number, lang=known)).replace(",", " ")
    is_year = len(token) == 4 and 1100 <= int(token) <= 1999 and known != "es"
    return str(num2words(int(token), lang=known, to="year" if is_year else "cardinal")).replace(",", " ")


def _grouped(token: str, point: str) -> bool:
    """Whether the mark in a number groups thousands rather than dividing a fraction."""
    mark = "," if "," in token else "."
    return mark != point and len(token.split(mark)[1]) == 3
