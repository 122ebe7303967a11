"""Form of address: whether a line says du or Sie to somebody as it was agreed, or as everywhere else.

What tells is a short list of words for each language. Words that also mean something else (German “sie” at the
beginning of a sentence, French “vous” for several people) tell nothing by themselves: where nothing was agreed only
words that cannot be misread are counted.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from zweistimme.project.brief import Address
from zweistimme.project.conversation import address_at, listeners
from zweistimme.project.languages import language_of
from zweistimme.stages.check.noticed import Looked, Noticed

_MANY: Final = 3
"""So many lines one way are needed before one the other way is odd."""


@dataclass(frozen=True, slots=True)
class _Words:
    """Words of a language: formal ones, familiar ones, and those that are formal only if one person is meant."""

    formal: str
    familiar: str
    perhaps: str = ""


_LANGUAGES: Final = {
    "de": _Words(r"(?<=[^.!?…:]\s)(?:Sie|Ihnen|Ihre?[mnrs]?)\b", r"\b(?:[Dd]u|[Dd]ich|[Dd]ir|[Dd]eine?[mnrs]?)\b"),
    "es": _Words(r"\b[Uu]sted\b", r"\b(?:[Tt]ú|[Tt]i|[Cc]ontigo|[Tt]uy[oa]s?|[Tt]us?|[Vv]os)\b", r"\b[Uu]stedes\b"),
    "fr": _Words("", r"\b(?:[Tt]u|[Tt]oi|[Tt]es|[Tt]on|[Tt]a|[Tt][’'](?=\w))\b", r"\b(?:[Vv]ous|[Vv]otre|[Vv]os)\b"),
    "it": _Words(r"(?<=[^.!?…:]\s)Lei\b", r"\b(?:[Tt]u|[Tt]e|[Tt]uo|[Tt]ua|[Tt]uoi|[Tt]ue)\b", r"\b[Vv]oi\b"),
    "pt": _Words(r"\b(?:[Oo] senhor|[Aa] senhora)\b", r"\b(?:[Tt]u|[Tt]i|[Cc]ontigo|[Tt]eus?|[Tt]uas?)\b"),
    "nl": _Words(r"\b(?:[Uu]|[Uu]w)\b", r"\b(?:[Jj]e|[Jj]ij|[Jj]ou|[Jj]ouw)\b"),
    "pl": _Words(
        r"\b(?:Pan|Pani|Pana|Panu|Panem|Panią)\b", r"\b(?:[Tt]y|[Cc]iebie|[Tt]obie|[Tt]obą|[Tt]wój|[Tt]woja|[Tt]woje)\b"
    ),
    "ru": _Words(
        r"(?<=[^.!?…:]\s)(?:Вы|Вас|Вам|Вами|Ваш[аеи]?)\b",
        r"\b(?:[Тт]ы|[Тт]ебя|[Тт]ебе|[Тт]обой|[Тт]вой|[Тт]воя|[Тт]воё|[Тт]вои)\b",
        r"\b(?:[Вв]ы|[Вв]ас|[Вв]ам|[Вв]аш[аеи]?)\b",
    ),
    "hi": _Words(r"(?<!\S)आप(?:का|की|के|को|से)?(?!\S)", r"(?<!\S)(?:तू|तुझे|तेरा|तेरी|तेरे)(?!\S)"),
    "ko": _Words(r"(?:니다|니까|세요|어요|아요|예요|이에요)(?=[.!?…]|$)", ""),
}  # fmt: skip


@lru_cache(maxsize=40)
def _patterns(language: str) -> tuple[re.Pattern[str] | None, ...]:
    words = _LANGUAGES[language]
    return tuple(re.compile(one) if one else None for one in (words.formal, words.familiar, words.perhaps))


@dataclass(frozen=True, slots=True)
class _Told:
    """How a text addresses somebody, by which of its letters ``[start, end)``."""

    how: Address
    start: int
    end: int


def _told(text: str, language: str, *, alone: bool) -> Iterator[_Told]:
    """What in a text tells how somebody is addressed; *alone* where one person is known to be meant."""
    if language not in _LANGUAGES:
        return
    formal, familiar, perhaps = _patterns(language)
    for how, pattern in (
        (Address.FORMAL, formal), (Address.FAMILIAR, familiar), (Address.FORMAL, perhaps if alone else None),
    ):  # fmt: skip
        if pattern is not None:
            for match in pattern.finditer(text):
                yield _Told(how, *match.span())


def agreed_address(looked: Looked) -> Iterator[Noticed]:
    """Words that address somebody otherwise than was agreed for these two."""
    wanted = address_at(looked.project, looked.segment)
    if not wanted:
        return
    for told in _told(looked.text, language_of(looked.tag), alone=True):
        if told.how is not wanted:
            yield looked.noticed(
                f"address-not-{wanted.value}", told.start, told.end,
                word=looked.text[told.start : told.end], listener=_listener(looked),
            )  # fmt: skip
            return


def mixed_address(lines: Sequence[Looked]) -> Iterator[Noticed]:
    """Lines of a version that address somebody otherwise than the same person addresses them in most lines, where
    nothing was agreed."""
    if not lines or language_of(lines[0].tag) not in _LANGUAGES:
        return
    to, language = listeners(lines[0].project), language_of(lines[0].tag)
    by_pair: dict[tuple[str, str], list[tuple[Looked, _Told]]] = {}
    for looked in lines:
        listener = to.get(looked.segment.id)
        if listener and not address_at(looked.project, looked.segment):
            told = next(_told(looked.text, language, alone=False), None)
            if told is not None:
                by_pair.setdefault((looked.segment.speaker_id, listener), []).append((looked, told))
    for found in by_pair.values():
        count = Counter(told.how for _, told in found)
        usual, most = count.most_common(1)[0]
        if most >= _MANY and most > 2 * (len(found) - most):
            for looked, told in found:
                if told.how is not usual:
                    yield looked.noticed(
                        "address-mixed", told.start, told.end, word=looked.text[told.start : told.end],
                        listener=_listener(looked), lines=most,
                    )  # fmt: skip


def _listener(looked: Looked) -> str:
    speaker = looked.project.speakers.get(listeners(looked.project).get(looked.segment.id, ""))
    return speaker.name if speaker else ""
