"""The words of a segment and their times. A segment's words, where it has any, make its text when they are put together
as its script does; they may be cut finer or coarser than the text is by itself."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from itertools import accumulate
from typing import Final

from zweistimme.project.languages import language_of
from zweistimme.project.model import Segment, Word
from zweistimme.project.writing import Span, joined, spans_of_words, words_in

LEAST_WORD_US: Final = 10_000
LEAST_PAUSE_US: Final = 150_000
"""Silence within a segment that is a pause, and no stop within a word or between two."""
SHORTEST_SEGMENT_US: Final = 100_000
_WIDTH_OF_SPACE: Final = 1
_MARKS: Final = ".,;:!?…\"'“”‘’„»«()[]¿¡"
_LONGEST_NAME: Final = 6


DOUBTFUL: Final = 0.8
"""Words with less confidence than this want to be looked at."""
_HESITATIONS: Final = {
    "en": {"um", "uh", "er", "erm", "hm", "hmm", "mhm", "ah"},
    "de": {"ähm", "äh", "hm", "hmm", "mhm", "öh"},
    "es": {"em", "eh", "hm", "mmm"},
}


def is_hesitation(word: Word, tag: str) -> bool:
    """Whether a word is marked as a sound of hesitation, or is one of those of the language of *tag*."""
    return word.filler or word.text.strip(_MARKS).casefold() in _HESITATIONS.get(language_of(tag), set())


def inner_pauses(segment: Segment) -> list[int]:
    """Where a segment pauses: before which of its words at least 150 ms lie, from the second word on."""
    words = segment.words
    return [k for k in range(1, len(words)) if words[k].start_us - words[k - 1].end_us >= LEAST_PAUSE_US]


def text_of(words: Sequence[Word]) -> str:
    """The text that words make."""
    return joined([word.text for word in words])


def in_sequence(words: Iterable[Word]) -> tuple[Word, ...]:
    """Words as they begin, none of which ends after one that begins later: what was said at once cannot be told apart,
    and a word within another leaves no place to cut between them."""
    ordered = sorted(words, key=lambda word: (word.start_us, word.end_us))
    ends = list(accumulate((word.end_us for word in reversed(ordered)), min))[::-1]
    return tuple(w if w.end_us == end else replace(w, end_us=end) for w, end in zip(ordered, ends, strict=True))


def says(text: str, words: Sequence[Word]) -> bool:
    """Whether words are those of a text, however either is spaced."""
    return "".join(text.split()) == "".join("".join(word.text.split()) for word in words)


def text_spans(text: str, words: Sequence[Word]) -> tuple[Span, ...]:
    """Where each of a segment's words stands in its text."""
    return spans_of_words(text, [word.text for word in words])


def spread(texts: Sequence[str], start_us: int, end_us: int) -> tuple[Word, ...]:
    """Words that share ``[start, end)`` by their letters.

    >>> [(w.start_us, w.end_us) for w in spread(["a", "abc"], 0, 60)]
    [(0, 20), (20, 60)]
    """
    total = sum(len(text) + _WIDTH_OF_SPACE for text in texts)
    edges, before = [], 0
    for text in texts:
        edges.append(start_us + (end_us - start_us) * before // total)
        before += len(text) + _WIDTH_OF_SPACE
    return tuple(Word(text, a, b) for text, a, b in zip(texts, edges, [*edges[1:], end_us], strict=True))


def spoken_words(segment: Segment) -> tuple[Word, ...]:
    """The segment's words; where their times are not known, spread over the segment by their letters."""
    return segment.words or (spread(words_in(segment.text), segment.start_us, segment.end_us) if segment.text else ())


def retimed(segment: Segment, texts: Sequence[str]) -> tuple[Word, ...]:
    """Words that are still there keep their times; new ones share the room of those they replace, or what lies
    between their neighbours."""
    old = segment.words
    if not old:
        return spread(texts, segment.start_us, segment.end_us) if texts else ()
    matcher = SequenceMatcher(a=[w.text for w in old], b=texts, autojunk=False)
    words: list[Word] = []
    for kind, a0, a1, b0, b1 in matcher.get_opcodes():
        if kind == "equal":
            words.extend(old[a0:a1])
        elif kind == "replace":
            words.extend(spread(texts[b0:b1], old[a0].start_us, old[a1 - 1].end_us))
        elif kind == "insert":
            start = words[-1].end_us if words else min(segment.start_us, old[0].start_us)
            end = old[a1].start_us if a1 < len(old) else max(segment.end_us, start)
            words.extend(spread(texts[b0:b1], start, max(start, end)))
    return tuple(words)


def squeezed(words: Sequence[Word], start_us: int, end_us: int) -> tuple[Word, ...]:
    """Words brought into ``[start, end)``: those inside keep their times, those that stick out share what is left
    on their side. Order is kept and no word is lost."""
    if all(start_us <= w.start_us and w.end_us <= end_us for w in words):
        return tuple(words)
    inside = [k for k, w in enumerate(words) if start_us <= w.start_us and w.end_us <= end_us]
    if not inside:
        return _scaled(words, start_us, end_us)
    first, last = inside[0], inside[-1] + 1
    room_before, room_after = words[first].start_us - start_us, end_us - words[last - 1].end_us
    if room_before < first * LEAST_WORD_US or room_after < (len(words) - last) * LEAST_WORD_US:
        return _scaled(words, start_us, end_us)
    return (
        *_scaled(words[:first], start_us, words[first].start_us),
        *words[first:last],
        *_scaled(words[last:], words[last - 1].end_us, end_us),
    )


def _scaled(words: Sequence[Word], start_us: int, end_us: int) -> tuple[Word, ...]:
    """Words moved and scaled as a whole, to begin and end with the interval."""
    if not words:
        return ()
    origin, length = words[0].start_us, max(1, words[-1].end_us - words[0].start_us)

    def moved(time_us: int) -> int:
        return start_us + min(max(time_us - origin, 0), length) * (end_us - start_us) // length

    return tuple(replace(w, start_us=moved(w.start_us), end_us=moved(w.end_us)) for w in words)


def place_to_split(words: Sequence[Word], at_us: int) -> int:
    """The place between two words, counted from 1, that lies nearest to a time: never inside a word.

    >>> place_to_split(spread(["a", "abc"], 0, 60), 55)
    1
    """
    return min(range(1, len(words)), key=lambda k: abs((words[k - 1].end_us + words[k].start_us) // 2 - at_us))


class Spellings:
    """Names and terms as they should be written, found by their first word."""

    def __init__(self, names: Iterable[str]) -> None:
        self._by_first: dict[str, list[tuple[int, list[str], list[str]]]] = {}
        for number, name in enumerate(names):
            parts = words_in(name)
            if parts and name != name.lower() and len(parts) <= _LONGEST_NAME:
                wanted = [part.casefold() for part in parts]
                self._by_first.setdefault(wanted[0], []).append((number, wanted, parts))

    def applied(self, words: Sequence[Word]) -> tuple[Word, ...]:
        """Words written as in the names, where one of one or more words was heard in other letters; of two that would
        write a word, the later.

        >>> text_of(Spellings(["Alder Quay"]).applied(spread(["across", "alder", "quay."], 0, 9)))
        'across Alder Quay.'
        """
        result = list(words)
        bare = [word.text.strip(_MARKS).casefold() for word in words]
        found = [
            (number, place, parts)
            for place, first in enumerate(bare)
            for number, wanted, parts in self._by_first.get(first, ())
            if bare[place : place + len(wanted)] == wanted
        ]
        for _, place, parts in sorted(found):
            for k, part in enumerate(parts, place):
                text = result[k].text
                result[k] = replace(result[k], text=text.replace(text.strip(_MARKS), part, 1))
        return tuple(result)
