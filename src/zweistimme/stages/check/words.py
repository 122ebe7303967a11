"""Words: doubled, left in the wrong language, lost or added by the sentence, too many or too few for the time."""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator
from functools import lru_cache
from itertools import pairwise
from typing import Any, Final

from zweistimme.project.access import find_version
from zweistimme.project.languages import language_of, spoken_tag
from zweistimme.project.times import SECOND_US
from zweistimme.project.writing import is_unspaced, sentences, without_parentheticals, word_spans
from zweistimme.project.writing.untranslated import untranslated_spans
from zweistimme.stages.check.noticed import Looked, Noticed
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.slot import measured_length

NOT_TRANSLATED: Final = "words-untranslated"
"""The kind of this remark. A version that has one is not handed over until somebody lets it be."""
_DOUBLED: Final = re.compile(r"(?<!\S)(\w+)\W+\1\b", re.IGNORECASE)
_MARKS: Final = ".,;:!?…“”„«»‹›’)]।؟،"
_WORD: Final = re.compile(r"\w+(?:['’]\w+)*")
_SAID_TWICE: Final = {
    "de": frozenset(["die", "das", "der", "sie", "ja", "nein", "so"]),
    "en": frozenset(["that", "had", "no", "yes", "bye"]),
    "nl": frozenset(["dat", "ja", "nee"]),
    "fr": frozenset(["nous", "vous", "non", "oui"]),
    "es": frozenset(["no", "sí"]),
    "it": frozenset(["sì", "no", "piano"]),
    "pt": frozenset(["não", "sim"]),
}
"""Words that may well follow each other."""
_REPEATING: Final = frozenset(["id", "ms", "jv", "fil", "tl", "th", "zh", "ja", "vi", "haw", "mi"])
"""Languages that double words to mean something."""
_LEAST_LETTERS: Final = 16
_SURE, _IMPOSSIBLE = 0.5, 0.001
"""How likely a text must be in another language, and at most in its own. Of eighteen lines in eleven languages none of
198 is taken for another language, and 1,180 of 1,200 that claim to be in another are found."""
_NEAR: Final = tuple(
    frozenset(names.split())
    for names in (
        "no nb nn da sv", "hr sr bs sl", "id ms jv", "cs sk", "es gl pt ast an ca oc", "ru uk be bg mk", "nl af fy",
        "de lb gsw nds", "hi mr ne",
    )
)  # fmt: skip
"""Languages whose short texts are taken for each other."""
_turn = threading.Lock()


def not_translated(looked: Looked) -> Iterator[Noticed]:
    """Words that a translator left as they were, and nobody has translated yet."""
    for start, end in untranslated_spans(looked.text):
        yield looked.noticed(NOT_TRANSLATED, start, end, words=looked.text[start + 1 : end - 1])


def doubled(looked: Looked) -> Iterator[Noticed]:
    """A word that stands twice in a row."""
    language = language_of(looked.tag)
    if language in _REPEATING or is_unspaced(looked.text) or _DOUBLED.search(looked.source):
        return
    usual, text = _SAID_TWICE.get(language, frozenset()), looked.text
    for (start, first_end), (second_start, end) in pairwise(word_spans(text, looked.tag)):
        first, second = text[start:first_end].casefold(), text[second_start:end].rstrip(_MARKS)
        word = second.casefold()
        if first == word and any(map(str.isalpha, word)) and word not in usual:
            second_end = second_start + len(second)
            mended = text[:first_end] + text[second_end:]
            yield looked.noticed("word-doubled", start, second_end, mended, word=second)


def language(looked: Looked) -> Iterator[Noticed]:
    """A wording that is the original itself, or in another language than its own."""
    text, source = without_parentheticals(looked.text).strip(), looked.source.strip()
    if text.casefold() == source.casefold() and len(_WORD.findall(text)) > 1 and not _only_names(looked):
        if language_of(looked.tag) != language_of(looked.project.source_tag):
            yield looked.noticed("untranslated")
        return
    if sum(map(str.isalpha, text)) < _LEAST_LETTERS:
        return
    heard = _identified(text)
    own = language_of(looked.tag)
    best = max(heard, key=lambda name: heard[name])
    near = any(own in family and best in family for family in _NEAR)
    if own in heard and best != own and heard[best] >= _SURE and heard[own] <= _IMPOSSIBLE and not near:
        yield looked.noticed("other-language", language=best, said=spoken_tag(looked.tag))


def _only_names(looked: Looked) -> bool:
    words = _WORD.findall(looked.text)
    return all(word[0].isupper() or word[0].isdigit() for word in words)


@lru_cache(maxsize=1)
def _identifier() -> Any:
    from py3langid import langid  # slow to import

    return langid.LanguageIdentifier.from_model_file(langid.MODEL_FILE, norm_probs=True)


@lru_cache(maxsize=20_000)
def _identified(text: str) -> dict[str, float]:
    """How likely a text is in each language, by its first two or three letters (py3langid)."""
    with _turn:
        return {str(name): float(share) for name, share in _identifier().rank(text)}


def sentence_counts(looked: Looked) -> Iterator[Noticed]:
    """Two sentences more or less than the original has: one may well be put as two, or two as one."""
    source, target = len(sentences(looked.source)), len(sentences(looked.text))
    if abs(source - target) >= 2:
        code = "sentences-lost" if target < source else "sentences-added"
        yield looked.noticed(code, wanted=source, there=target)


def lengths(looked: Looked) -> Iterator[Noticed]:
    """Words that no permitted tempo can bring into the time there is, or that leave a person on screen silent for half
    of theirs."""
    version = find_version(looked.project, looked.tag)
    length = measured_length(looked.project, version, looked.segment, looked.text)
    fastest = limits_of(version).hard[1]
    spoken_s, slot_s = length.spoken_us / SECOND_US, length.slot_us / SECOND_US
    if length.spoken_us > fastest * length.slot_us:
        over = max(1, length.syllables - length.room)
        yield looked.noticed("length-over", spoken_s=spoken_s, slot_s=slot_s, syllables=over)
    elif looked.segment.on_screen and length.spoken_us < length.slot_us / 2 and length.slot_us > SECOND_US:
        yield looked.noticed("length-under", spoken_s=spoken_s, slot_s=slot_s)
