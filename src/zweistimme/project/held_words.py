"""Which word of a take a hand meant, when the take that is heard says something else than the one it was laid on.

A hand is kept with its word and the words around it, so that what is held follows its word through other wordings and
other takes, waits where that is not said any more, and holds again once it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final, TypeVar

from zweistimme.project.hand_fit import PhraseHand, WordPin
from zweistimme.project.model import Line, Take, Word
from zweistimme.project.writing.stems import bare_words

_BOTH: Final = 2
Hand = TypeVar("Hand", WordPin, PhraseHand)


def said_at(words: Sequence[Word], number: int) -> tuple[str, str, str]:
    """The word with this number, between the one before it and the one behind it; empty beyond the ends."""
    before, one, behind = (words[k].text if 0 <= k < len(words) else "" for k in (number - 1, number, number + 1))
    return before, one, behind


def pins_in(line: Line, take: Take) -> tuple[WordPin, ...]:
    """The words of a line that are held, by their numbers in this take, in order; without those that it does not say,
    or says in another order than they are held in."""
    return tuple(pin for _, pin in _pins(line, take))


def phrase_hands_in(line: Line, take: Take) -> tuple[PhraseHand, ...]:
    """What is said of phrases of a line, by the numbers of their words in this take, in order; without those that it
    does not say."""
    return tuple(hand for _, hand in _found(line.hand.phrases, take.words))


def waiting_pins(line: Line, take: Take) -> tuple[WordPin, ...]:
    """Those of a line's pins that hold nothing in this take, as they are kept."""
    holding = {place for place, _ in _pins(line, take)}
    return tuple(pin for place, pin in enumerate(line.word_pins) if place not in holding)


def waiting_hands(line: Line, take: Take) -> tuple[PhraseHand, ...]:
    """What is said of phrases that begin with no word of this take, as it is kept."""
    there = {place for place, _ in _found(line.hand.phrases, take.words)}
    return tuple(hand for place, hand in enumerate(line.hand.phrases) if place not in there)


def waiting_words(line: Line, take: Take) -> tuple[str, ...]:
    """The words of which a hand says something that this take does not say, each once: by their numbers, from 1, where
    no more is known of them."""
    waiting: list[WordPin | PhraseHand] = [*waiting_pins(line, take), *waiting_hands(line, take)]
    return tuple(dict.fromkeys(one.said[1] if one.said else str(one.word + 1) for one in waiting))


def _pins(line: Line, take: Take) -> list[tuple[int, WordPin]]:
    found: list[tuple[int, WordPin]] = []
    for place, pin in _found(line.word_pins, take.words):
        if not found or found[-1][1].start_us < pin.start_us:
            found.append((place, pin))
    return found


def _found(hands: Sequence[Hand], words: Sequence[Word]) -> list[tuple[int, Hand]]:
    """Those of some hands whose words are said, each with its place among them, by the word; one for a word."""
    by_word: dict[int, tuple[int, Hand]] = {}
    bare = [_bare(word.text) for word in words] if any(one.said for one in hands) else []
    for place, one in enumerate(hands):
        number = _number_now(one, bare) if one.said else one.word if one.word < len(words) else None
        if number is not None and number not in by_word:
            by_word[number] = place, one if number == one.word else replace(one, word=number)
    return [by_word[number] for number in sorted(by_word)]


def _number_now(hand: WordPin | PhraseHand, bare: Sequence[str]) -> int | None:
    """The number of the word that a hand means: the one that stands among the same words, or else the nearest; where it
    is not said, one that stands in its place, between the same two words."""
    before, said, behind = map(_bare, hand.said)
    around = ["", *bare, ""]
    alike = [
        (word == said, (around[k] == before) + (around[k + 2] == behind), -abs(k - hand.word), k)
        for k, word in enumerate(bare)
    ]
    best = max((one for one in alike if one[0] or (one[1] == _BOTH and before + behind)), default=None)
    return None if best is None else best[3]


def _bare(word: str) -> str:
    return "".join(part for part, _, _ in bare_words(word)) or word
