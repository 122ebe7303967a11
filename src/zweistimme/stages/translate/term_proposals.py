"""Terms and names proposed from what is said: names by their capitals, noun phrases by how often they are said.

Phrases are ranked by the C-value of Frantzi, Ananiadou and Mima (2000): how often a phrase is said, less how often it
is said inside longer ones, weighed by its length. What begins or ends with a word that is everywhere is no term; which
words are is measured in the programme itself.
"""

from __future__ import annotations

import math
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from zweistimme.project.languages import language_of
from zweistimme.project.model import Project
from zweistimme.project.term_book import term_book
from zweistimme.project.terms import PartOfSpeech
from zweistimme.project.writing import is_unspaced, sentences
from zweistimme.project.writing.stems import bare_words, stem

_LONGEST: Final = 4
_LEAST: Final = 2
"""What is said once is no term of a programme; a name is."""
_COMMON_SHARE, _COMMON_LEAST, _COMMON_LETTERS = 0.002, 3, 6
"""Words of the language rather than of the programme are said so often, of all words and at least, and are short."""
_NOUNS_WITH_CAPITALS: Final = frozenset(["de", "lb"])
_NEAR: Final = re.compile(r"[\s\-\u2010\u2011]*")
_KATAKANA: Final = re.compile("[ァ-ヴー]{3,}")
_HAN: Final = re.compile("[\u3400-\u9fff]{2,}")
_LONGEST_HAN: Final = 6


@dataclass(frozen=True, slots=True)
class Proposal:
    """What might be a term: as it is said most, how often, and whether it looks like a name."""

    text: str
    count: int
    part: PartOfSpeech


@dataclass(frozen=True, slots=True)
class _Sentence:
    text: str
    words: tuple[tuple[str, int, int], ...]


def proposals(project: Project, most: int = 200) -> list[Proposal]:
    """Names, then phrases, of the original, that are no terms yet; those said most first."""
    tag = project.source_tag
    texts = [segment.text for segment in project.segments if segment.text.strip()]
    if any(map(is_unspaced, texts)):
        found = _of_letters(texts)
    else:
        parts = [_Sentence(text, tuple(bare_words(text))) for line in texts for text in sentences(line, tag)]
        common = _common(parts)
        names = _names(parts, tag, common)
        phrases = _phrases(parts, tag, common, {proposal.text.casefold() for proposal in names})
        found = [*names, *phrases]
    known = {term.source.casefold() for term in project.terms.values()}
    book = term_book(project, next(iter(project.versions), tag))
    new = [one for one in found if one.text.casefold() not in known and not book.said(one.text)]
    return new[:most]


def _common(parts: Iterable[_Sentence]) -> frozenset[str]:
    """The words that are everywhere: short ones that are said much, and in small letters where there are such; all
    single letters, and numbers."""
    count: Counter[str] = Counter()
    small: set[str] = set()
    for part in parts:
        count.update(word for word, _, _ in part.words)
        small.update(word for word, start, _ in part.words if not part.text[start].isupper())
    least = max(_COMMON_LEAST, sum(count.values()) * _COMMON_SHARE)
    usual = (word for word, times in count.items() if times >= least and len(word) <= _COMMON_LETTERS and word in small)
    bare = (word for word in count if len(word) == 1 or word.isdigit())
    return frozenset([*usual, *bare])


def _names(parts: Sequence[_Sentence], tag: str, common: frozenset[str]) -> list[Proposal]:
    """Runs of words with capitals that are not only at the beginning of sentences. Where every noun has one, a name is
    what never has an article or another common word before it."""
    runs: Counter[str] = Counter()
    inside: Counter[str] = Counter()
    after_common: Counter[str] = Counter()
    lower = {word for part in parts for word, start, _ in part.words if part.text[start].islower()}
    for part in parts:
        for first, last in _capital_runs(part):
            if first == 0 and part.words[first][0] in common:
                first += 1  # "The Varnholm Bell": the article is none of it
            if first == last:
                continue
            text = part.text[part.words[first][1] : part.words[last - 1][2]]
            runs[text] += 1
            inside[text] += first > 0
            after_common[text] += first > 0 and part.words[first - 1][0] in common
    nouns = language_of(tag) in _NOUNS_WITH_CAPITALS
    kept = []
    for forms in _by_stem(runs, tag):
        times, within, behind = (sum(count[text] for text in forms) for count in (runs, inside, after_common))
        text = max(forms, key=lambda form: (runs[form], -len(form)))
        single = " " not in text
        if (single and text.casefold() in lower) or not within or len(text) < 2 or text.casefold() in common:
            continue
        if nouns and single and (2 * behind >= times or times < _LEAST):
            continue
        kept.append(Proposal(text, times, PartOfSpeech.NAME))
    return sorted(kept, key=lambda one: -one.count)


def _by_stem(runs: Iterable[str], tag: str) -> Iterable[list[str]]:
    """Forms of one name together."""
    forms: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for text in runs:
        forms[tuple(stem(word, tag) for word, _, _ in bare_words(text))].append(text)
    return forms.values()


def _capital_runs(part: _Sentence) -> Iterable[tuple[int, int]]:
    """Words ``[first, last)`` with capitals that follow each other, nothing but spaces and hyphens between."""
    first: int | None = None
    for place, (_, start, _) in enumerate(part.words):
        near = (
            place > 0 and re.fullmatch(r"[\s\-\u2010\u2011]*", part.text[part.words[place - 1][2] : start]) is not None
        )
        if first is not None and not (near and part.text[start].isupper()):
            yield first, place
            first = None
        if first is None and part.text[start].isupper():
            first = place
    if first is not None:
        yield first, len(part.words)


def _phrases(parts: Sequence[_Sentence], tag: str, common: frozenset[str], names: set[str]) -> list[Proposal]:
    """Phrases of up to four words by their C-value, at least said twice, forms of one counted together."""
    count: Counter[tuple[str, ...]] = Counter()
    written: dict[tuple[str, ...], Counter[str]] = defaultdict(Counter)
    for part in parts:
        for length in range(1, _LONGEST + 1):
            for first in range(len(part.words) - length + 1):
                words = part.words[first : first + length]
                if words[0][0] in common or words[-1][0] in common or _parted(part, words):
                    continue
                key = tuple(stem(word, tag) for word, _, _ in words)
                count[key] += 1
                written[key][part.text[words[0][1] : words[-1][2]]] += 1
    frequent = {key: times for key, times in count.items() if times >= _LEAST}
    longer: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for key, times in frequent.items():
        for length in range(1, len(key)):
            for first in range(len(key) - length + 1):
                longer[key[first : first + length]].append(times)
    valued = []
    for key, times in frequent.items():
        nested = longer.get(key, [])
        value = math.log2(len(key) + 1) * (times - (sum(nested) / len(nested) if nested else 0.0))
        text = _usual(written[key])
        named = {text.casefold(), *(text.casefold().split()[place] for place in (0, -1))} & names
        if value > 0 and not named and (len(key) > 1 or times > _LEAST):
            valued.append((value, times, text))
    valued.sort(key=lambda one: (-one[0], one[2]))
    return [Proposal(text, times, PartOfSpeech.NOUN) for _, times, text in valued]


def _parted(part: _Sentence, words: Sequence[tuple[str, int, int]]) -> bool:
    """Whether a mark stands between two of the words."""
    between = part.text[words[0][1] : words[-1][2]]
    return any(sign in between for sign in ",.;:!?…“”„«»()[]—–")


def _usual(written: Counter[str]) -> str:
    """As it is written most; in small letters if it ever is, since sentences begin with capitals."""
    small = {text for text in written if text[:1].islower()}
    return max(small or written, key=lambda text: (written[text], text))


def _of_letters(texts: Iterable[str]) -> list[Proposal]:
    """Where there are no spaces: runs of katakana, and stretches of Han signs that come again; of stretches that come
    as often as a longer one they are part of, that alone. Where runs are long, as in Chinese, two signs are a word of
    the language more often than of the programme, and have to come once more."""
    count: Counter[str] = Counter()
    runs: list[str] = []
    for text in texts:
        count.update(_KATAKANA.findall(text))
        runs += _HAN.findall(text)
    stretches: Counter[str] = Counter()
    for run in runs:
        for length in range(2, _LONGEST_HAN + 1):
            stretches.update(run[k : k + length] for k in range(len(run) - length + 1))
    long_runs = sum(map(len, runs)) > _LONGEST_HAN * max(1, len(runs))
    frequent = {one: times for one, times in stretches.items() if times >= _LEAST + (long_runs and len(one) == 2)}
    inner = {part for one, times in frequent.items() for part in (one[1:], one[:-1]) if frequent.get(part, 0) <= times}
    count.update({one: times for one, times in frequent.items() if one not in inner})
    found = sorted(count.items(), key=lambda one: (-one[1], -len(one[0]), one[0]))
    return [
        Proposal(text, times, PartOfSpeech.NAME if _KATAKANA.fullmatch(text) else PartOfSpeech.NOUN)
        for text, times in found
        if times >= _LEAST
    ]
