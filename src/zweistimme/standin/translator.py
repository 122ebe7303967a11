"""The bundled translator: whole phrases from a table, else word by word with agreement, in three lengths.

Terms are obeyed; numbers, names and placeholders are kept; words it does not know are marked, never dropped.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Final

from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import Term, Translation, TranslationRequest, Wording, Wordings
from zweistimme.project.errors import EngineError
from zweistimme.project.term_finding import Sought, TermFinder
from zweistimme.project.writing import spoken_us
from zweistimme.project.writing.untranslated import untranslated_spans
from zweistimme.standin import phrases
from zweistimme.standin.grammar import COLUMNS
from zweistimme.standin.phrase_files import phrase_lines
from zweistimme.standin.text import language_of

PAIRS: Final = tuple((a, b) for a in COLUMNS for b in COLUMNS if a != b)
_SENTENCE_END: Final = re.compile(r"(?<=[.!?…])\s+|(?<=[.!?…][”\"»“])\s+")
_KEPT: Final = re.compile(
    r"⟦[^⟦⟧]*⟧|\{\{?[^{}\s]{1,40}\}?\}|%\(\w+\)[sdf]|%[sdf]\b|</?[A-Za-z][^<>]{0,80}>|https?://\S+|[\w.]+@[\w.]+\.\w+"
)
_HELD: Final = re.compile("\ue000(\\d+)\ue001")
_OPTIONAL: Final = {
    "en": "very really just then now still again always also please only there well so",
    "de": "sehr wirklich nur dann jetzt noch wieder immer auch bitte doch mal so",
    "es": "muy realmente solo entonces ahora todavía siempre también por favor pues",
}
_QUOTES: Final = {"en": ("“", "”"), "de": ("„", "“"), "es": ("«", "»")}


@dataclass(slots=True)
class _Held:
    """Parts of a text that are not to be translated, put aside under numbers."""

    parts: list[str]

    def put(self, part: str) -> str:
        self.parts.append(part)
        return f"\ue000{len(self.parts) - 1}\ue001"

    def back(self, text: str) -> str:
        return _HELD.sub(lambda match: self.parts[int(match.group(1))], text)


def translate(request: TranslationRequest) -> Translation:
    """Wordings of each item, the fullest first."""
    pair = (language_of(request.source), language_of(request.target))
    if pair not in PAIRS:
        known = ", ".join(f"{a} to {b}" for a, b in PAIRS)
        raise EngineError(
            "The bundled translator does not know {source} to {target}. It knows {known}.",
            source=request.source,
            target=request.target,
            known=known,
        )
    items = []
    for item in request.items:
        formal = item.situation is not None and item.situation.address == "formal"
        texts = _wordings(item.text, *pair, request.terms, formal)[: request.wordings]
        items.append(Wordings(item.id, tuple(_told(text, request.target) for text in texts)))
    return Translation(tuple(items), Cost(sum(len(item.text) for item in request.items)))


def _told(text: str, tag: str) -> Wording:
    """A wording whose unknown words are told by their places, not by brackets."""
    said, spans = [], []
    length = done = 0
    for start, end in untranslated_spans(text):
        said += [text[done:start], text[start + 1 : end - 1]]
        length += start - done
        spans.append((length, length + end - start - 2))
        length += end - start - 2
        done = end
    plain = "".join((*said, text[done:]))
    return Wording(plain, spoken_us(plain, tag), tuple(spans))


def _wordings(text: str, source: str, target: str, terms: tuple[Term, ...], formal: bool) -> tuple[str, ...]:
    """Up to three wordings, the fullest first; each shorter than the one before."""
    whole = _table(source, target).get(phrases.key(text))
    if whole and not _contradicts(text, whole[0], source, terms):
        return whole
    parts = [_sentence(sentence, source, target, terms, formal) for sentence in _SENTENCE_END.split(text.strip())]
    lengths = max(len(part) for part in parts)
    wordings = [" ".join(part[min(place, len(part) - 1)] for part in parts) for place in range(lengths)]
    kept = [wordings[0]]
    for wording in wordings[1:]:
        if len(wording) < len(kept[-1]):
            kept.append(wording)
    return tuple(kept)


def _contradicts(text: str, wording: str, source: str, terms: tuple[Term, ...]) -> bool:
    """Whether a ready-made wording lacks a term that the text asks for."""
    return any(one.key.lower() not in wording.lower() for one in _finder(terms, source).found(text))


@lru_cache(maxsize=50)
def _finder(terms: tuple[Term, ...], source: str) -> TermFinder:
    """Finds the terms of a request, in any form; what is found has what the term must become for its key."""
    return TermFinder([Sought(term.source, term.target) for term in terms], source)


@lru_cache(maxsize=8)
def _table(source: str, target: str) -> dict[str, tuple[str, ...]]:
    """The phrase table from one language to another."""
    a, b = COLUMNS.index(source), COLUMNS.index(target)
    table: dict[str, tuple[str, ...]] = {}
    for line in phrase_lines("phrasetable.txt"):
        cells = [tuple(wording.strip() for wording in cell.split(" / ")) for cell in line.split("|")]
        for wording in cells[a]:
            table.setdefault(phrases.key(wording), cells[b])
    return table


def _sentence(sentence: str, source: str, target: str, terms: tuple[Term, ...], formal: bool) -> tuple[str, ...]:
    known = _table(source, target).get(phrases.key(sentence))
    if known and not _contradicts(sentence, known[0], source, terms):
        return known
    held = _Held([])
    text = _KEPT.sub(lambda match: held.put(match.group()), sentence)
    for one in reversed(_finder(terms, source).found(text)):
        text = text[: one.start] + held.put(one.key) + text[one.end :]
    texts = [text, without(text, source, adjectives=False), without(text, source, adjectives=True)]
    way: tuple[str, ...] = (source, target) if "en" in (source, target) else (source, "en", target)
    said = []
    for wording in dict.fromkeys(texts):
        for a, b in pairwise(way):
            protected = _KEPT.sub(lambda match: held.put(match.group()), wording)
            wording = phrases.word_by_word(protected, a, b, formal=formal and b == target)
        said.append(held.back(_finished(wording, target)))
    return tuple(said)


def without(text: str, language: str, *, adjectives: bool) -> str:
    """*text* without words that can be spared: adverbs, and adjectives before a noun if wanted.

    >>> without("The very old clock still turns.", "en", adjectives=False)
    'The old clock turns.'
    """
    optional = set(_OPTIONAL[language].split())
    words = text.split()
    kept = []
    for place, word in enumerate(words):
        bare = word.strip(",.;:!?").lower()
        spare = bare in optional or (adjectives and phrases.is_attribute(words, place, language))
        if spare and len(words) > 2 and word[-1:] not in ".!?;:":
            continue
        kept.append(word)
    result = " ".join(kept)
    return result[:1].upper() + result[1:] if text[:1].isupper() else result


def _finished(text: str, target: str) -> str:
    """Marks as the language writes them."""
    opening, closing = _QUOTES[target]
    text = re.sub(r"[“„«\"]([^“”„«»\"]+)[”“»\"]", rf"{opening}\1{closing}", text)
    if target != "es":
        return text.replace("¿", "").replace("¡", "")
    if text:
        if text.endswith("?") and "¿" not in text:
            text = "¿" + text
        if text.endswith("!") and "¡" not in text:
            text = "¡" + text
    return text
