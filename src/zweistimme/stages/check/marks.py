"""Marks: quotation marks and spaces as the language has them, ends, brackets."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Final

from zweistimme.project.languages import language_of
from zweistimme.stages.check.noticed import Looked, Noticed

_NARROW: Final = "\u202f"
_QUOTES: Final = {
    # as CLDR 45 has them (quotationStart, quotationEnd); French with its spaces inside
    "en": ("“", "”"), "de": ("„", "“"), "es": ("«", "»"), "it": ("«", "»"), "pt": ("“", "”"), "nl": ("‘", "’"),
    "fr": (f"«{_NARROW}", f"{_NARROW}»"), "ru": ("«", "»"), "uk": ("«", "»"), "pl": ("„", "”"), "cs": ("„", "“"),
    "sk": ("„", "“"), "hu": ("„", "”"), "ro": ("„", "”"), "bg": ("„", "“"), "hr": ("„", "”"), "el": ("«", "»"),
    "tr": ("“", "”"), "da": ("“", "”"), "nb": ("«", "»"), "nn": ("«", "»"), "no": ("«", "»"), "sv": ("”", "”"),
    "fi": ("”", "”"), "ja": ("「", "」"), "zh": ("“", "”"), "ko": ("“", "”"), "ar": ("”", "“"), "fa": ("«", "»"),
    "he": ("”", "”"), "ca": ("«", "»"), "th": ("“", "”"), "vi": ("“", "”"), "id": ("“", "”"), "hi": ("“", "”"),
}  # fmt: skip
_ANY_QUOTE: Final = re.compile(r'["“”„«»「」]')
_OPENED: Final = {"(": ")", "[": "]", "{": "}", "（": "）", "【": "】"}
_QUESTIONS: Final = frozenset("?？؟;")
_ENDS: Final = frozenset(".。!！?？؟…;。।։።")
_BEFORE_MARK: Final = re.compile(r"(?<=\w)[ \u00a0]+(?=[,.;:!?](?:\s|$))")
_FRENCH: Final = re.compile(r"(?<=[\w»])(?=[;!?:](?:\s|$))")
_CLOSING: Final = "\"'”’“»」』)）]"


def quotes(looked: Looked) -> Iterator[Noticed]:
    """Quotation marks that are not those of the language; mended in pairs where they come in pairs."""
    wanted = _QUOTES.get(language_of(looked.tag))
    found = list(_ANY_QUOTE.finditer(looked.text))
    if wanted is None or not found:
        return
    right = {mark for side in wanted for mark in side if mark != _NARROW}
    wrong = next((match for match in found if match.group() not in right), None)
    if len(found) % 2:
        yield looked.noticed("quotes-open", *found[-1].span())
    elif wrong is not None or not _in_order(found, wanted):
        mended = looked.text
        for place, match in reversed(list(enumerate(found))):
            start, end = match.span()
            if place % 2:
                mended = mended[:start].rstrip(f" \u00a0{_NARROW}") + wanted[1] + mended[end:]
            else:
                mended = mended[:start] + wanted[0] + mended[end:].lstrip(f" \u00a0{_NARROW}")
        first = wrong or found[0]
        yield looked.noticed("quotes-foreign", *first.span(), mended, marks=f"{wanted[0]}…{wanted[1]}")


def _in_order(found: list[re.Match[str]], wanted: tuple[str, str]) -> bool:
    return all(match.group() == wanted[place % 2].strip(_NARROW) for place, match in enumerate(found))


def ends(looked: Looked) -> Iterator[Noticed]:
    """A question that is none any more, or the other way round; an end that is missing; in Spanish, one that does not
    begin as a question."""
    source, text = looked.source.rstrip(_CLOSING + " "), looked.text.rstrip(_CLOSING + " ")
    if not source or not text:
        return
    asks, asked = text[-1] in _QUESTIONS, source[-1] in _QUESTIONS
    if language_of(looked.tag) != "el":
        asks, asked = (asks and text[-1] != ";"), (asked and source[-1] != ";")
    if asks != asked and text[-1] in _ENDS and source[-1] in _ENDS:
        yield looked.noticed("question-lost" if asked else "question-added", len(text) - 1, len(text))
    elif source[-1] in _ENDS and text[-1].isalnum() and not _unmarked(looked.tag):
        mark = "。" if language_of(looked.tag) in ("ja", "zh") else "."
        mended = looked.text[: len(text)] + (source[-1] if source[-1] in "!?…" and mark == "." else mark)
        yield looked.noticed("end-missing", len(text) - 1, len(text), mended + looked.text[len(text) :])
    if language_of(looked.tag) == "es" and asks and "¿" not in looked.text:
        yield looked.noticed("question-unopened", len(text) - 1, len(text))


def _unmarked(tag: str) -> bool:
    """Languages whose sentences end without a mark."""
    return language_of(tag) in ("th", "lo")


def spaces(looked: Looked) -> Iterator[Noticed]:
    """Spaces before marks where the language has none, and none where it has one; of which kind makes no difference."""
    french = language_of(looked.tag) == "fr" and not looked.tag.startswith(("fr-CA", "fr-CH"))
    pattern = _FRENCH if french else _BEFORE_MARK
    mended = pattern.sub(lambda match: _space(looked.text, match) if french else "", looked.text)
    if mended != looked.text:
        place = next(k for k, sign in enumerate(looked.text) if k >= len(mended) or mended[k] != sign)
        yield looked.noticed("space-before-mark", place, place + 1, mended)


def _space(text: str, match: re.Match[str]) -> str:
    """Before a colon a space that does not break, before the others a narrow one (Imprimerie nationale)."""
    return "\u00a0" if text[match.end()] == ":" else _NARROW


def brackets(looked: Looked) -> Iterator[Noticed]:
    """Brackets that do not come in pairs."""
    stack: list[tuple[str, int]] = []
    for place, sign in enumerate(looked.text):
        if sign in _OPENED:
            stack.append((_OPENED[sign], place))
        elif sign in _OPENED.values():
            if not stack or stack[-1][0] != sign:
                if not _smiles(looked.text, place):
                    yield looked.noticed("bracket-alone", place, place + 1, bracket=sign)
                continue
            stack.pop()
    for _closes, place in stack:
        yield looked.noticed("bracket-alone", place, place + 1, bracket=looked.text[place])


def _smiles(text: str, place: int) -> bool:
    """Behind a number or letter a bracket counts something: “a)”."""
    return place > 0 and text[place - 1].isalnum() and (place == 1 or text[place - 2].isspace())
