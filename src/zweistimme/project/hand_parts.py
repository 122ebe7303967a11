"""What hands say of a line when its segment is split, or joined with others: words and phrases stay with what they are
said of, and what is said of an end stays with that end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import accumulate

from zweistimme.project.hand_fit import HandFit, WordPin
from zweistimme.project.held_words import phrase_hands_in, pins_in, waiting_hands, waiting_pins
from zweistimme.project.model import Line, Take
from zweistimme.project.writing import spoken_text, words_in


def split_hands(line: Line, take: Take | None, place: int) -> tuple[Line, Line]:
    """A line twice, with what hands say of the words of its take before *place*, and of those from there on."""
    pins, hands = line.word_pins, line.hand.phrases
    if take is not None:
        pins = (*pins_in(line, take), *waiting_pins(line, take))
        hands = (*phrase_hands_in(line, take), *waiting_hands(line, take))
    first = replace(line.hand, phrases=tuple(one for one in hands if one.word < place), fade_out_us=0, end_slack_us=0)
    behind = tuple(replace(one, word=one.word - place) for one in hands if one.word >= place)
    second = replace(line.hand, phrases=behind, fade_in_us=0, start_slack_us=0)
    return (
        replace(line, hand=first, word_pins=tuple(pin for pin in pins if pin.word < place)),
        replace(
            line,
            hand=second,
            word_pins=tuple(replace(pin, word=pin.word - place) for pin in pins if pin.word >= place),
        ),
    )


def joined_hands(lines: Sequence[Line], counts: Sequence[int]) -> Line:
    """The first of some lines with what hands say of all their words; *counts* are those of the takes of each. Where a
    later line was pinned, its first word is held."""
    starts = [0, *accumulate(counts)]
    pins = tuple(
        replace(pin, word=pin.word + start)
        for line, start in zip(lines, starts, strict=False)
        for pin in (*(_pin_as_held(line) if line is not lines[0] else ()), *line.word_pins)
    )
    hands = tuple(
        replace(one, word=one.word + start)
        for line, start in zip(lines, starts, strict=False)
        for one in line.hand.phrases
    )
    first, last = lines[0].hand, lines[-1].hand
    hand: HandFit = replace(first, phrases=hands, fade_out_us=last.fade_out_us, end_slack_us=last.end_slack_us)
    return replace(lines[0], hand=hand, word_pins=pins)


def _pin_as_held(line: Line) -> tuple[WordPin, ...]:
    """The pin of a line as one of its first word."""
    words = words_in(spoken_text(line.text))
    if line.pin is None or not words or any(pin.word == 0 for pin in line.word_pins):
        return ()
    return (WordPin(0, line.pin.start_us, ("", words[0], words[1] if len(words) > 1 else "")),)
