"""Edits of how lines are fitted: words held to moments, what a hand says of a line, a version's own limits."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from zweistimme.project.access import find_line, find_version, put_line, put_version
from zweistimme.project.errors import EditError
from zweistimme.project.fit_limits import Limits, limits_problem_of_fit
from zweistimme.project.hand_fit import PhraseHand, WordPin, hand_fit_problem
from zweistimme.project.held_words import phrase_hands_in, pins_in, said_at, waiting_hands, waiting_pins
from zweistimme.project.model import Pin, Project, Take
from zweistimme.project.row_changes import with_rows


def pin_word(project: Project, tag: str, segment_id: str, word: int, start_us: int | None) -> Project:
    """Hold a word of a line's take to a moment, or no more (None). Words stay in their order: one that is put before an
    earlier word's moment, or behind a later one's, frees that; and so does one that is put before the line's own start,
    or a first word, with the line. What is held word by word is as long as its words take. Pins of words that this
    take does not say are kept."""
    line = find_line(project, tag, segment_id)
    version = find_version(project, tag)
    take = version.takes.get(line.take_id) if line.take_id else None
    take = _with_word(take, word)
    before = pins_in(line, take)
    kept = [pin for pin in before if pin.word != word]
    if start_us is not None:
        end_us = project.programme.sound.duration_us if project.programme else None
        if start_us < 0 or (end_us is not None and start_us >= end_us):
            raise EditError("A word cannot be held outside the programme.")
        kept = [pin for pin in kept if (pin.word < word) == (pin.start_us < start_us)]
        kept.append(WordPin(word, start_us, said_at(take.words, word)))
    if set(kept) == set(before):
        return project
    pins = tuple(sorted((*kept, *waiting_pins(line, take)), key=lambda pin: pin.word))
    pin = line.pin
    if pin is not None and start_us is not None:
        pin = Pin(pin.start_us) if word and pin.start_us < start_us else None
    return put_line(project, tag, replace(line, word_pins=pins, pin=pin))


def free_pins(project: Project, tag: str, segment_ids: Iterable[str]) -> Project:
    """Leave these lines to the plan again: where they start, how long they are, and all of their words."""
    version = find_version(project, tag)
    changed = {}
    for segment_id in segment_ids:
        line = version.lines.get(segment_id)
        if line is not None and (line.pin is not None or line.word_pins):
            changed[segment_id] = replace(line, pin=None, word_pins=())
    return put_version(project, replace(version, lines=with_rows(version.lines, changed))) if changed else project


def set_hand(project: Project, tag: str, segment_ids: Iterable[str], **said: Any) -> Project:
    """Say by hand how lines are fitted and heard, by fields of ``HandFit``; each line keeps what is not said here."""
    version = find_version(project, tag)
    changed = {}
    for key in segment_ids:
        line = find_line(project, tag, key)
        hand = replace(line.hand, **said)
        if problem := hand_fit_problem(hand):
            raise EditError(problem)
        if hand != line.hand:
            changed[key] = replace(line, hand=hand)
    return put_version(project, replace(version, lines=with_rows(version.lines, changed))) if changed else project


def set_phrase(project: Project, tag: str, segment_id: str, hand: PhraseHand) -> Project:
    """Say by hand how one phrase of a line is fitted and heard; nothing any more where *hand* has nothing but its
    word. What is said of phrases that this take does not say is kept."""
    line = find_line(project, tag, segment_id)
    version = find_version(project, tag)
    take = version.takes.get(line.take_id) if line.take_id else None
    take = _with_word(take, hand.word)
    hand = replace(hand, said=said_at(take.words, hand.word))
    others = [one for one in phrase_hands_in(line, take) if one.word != hand.word]
    said = [*others, hand] if hand != PhraseHand(hand.word, said=hand.said) else others
    phrases = tuple(sorted((*said, *waiting_hands(line, take)), key=lambda one: one.word))
    return set_hand(project, tag, [segment_id], phrases=phrases)


def set_limits(project: Project, tag: str, limits: Limits | None) -> Project:
    """Have a version planned to limits of its own, or to those of its style again (None)."""
    if limits is not None and (problem := limits_problem_of_fit(limits)):
        raise EditError(problem)
    version = find_version(project, tag)
    return project if version.limits == limits else put_version(project, replace(version, limits=limits))


def _with_word(take: Take | None, word: int) -> Take:
    """A take of which it is known where this word of it begins."""
    if take is None or not take.words:
        raise EditError("It is not known where the words of this take begin, so that none can be held.")
    if not 0 <= word < len(take.words):
        raise EditError("This take has {count} words.", count=len(take.words))
    return take
