"""What a damaged or hostile project says of a hand is refused, not acted on."""

from __future__ import annotations

import pytest

from zweistimme.project.hand_fit import HandFit, PhraseHand, WordPin
from zweistimme.project.model import Line
from zweistimme.store.bounds import problem_of


@pytest.mark.parametrize(
    "line",
    [
        Line("s1", "", "", word_pins=(WordPin(-1, 0),)),
        Line("s1", "", "", word_pins=(WordPin(0, 0, ("only one",)),)),
        Line("s1", "", "", word_pins=(WordPin(0, 10**30),)),
        Line("s1", "", "", hand=HandFit(phrases=(PhraseHand(0, said=("a", "b")),))),
        Line("s1", "", "", hand=HandFit(phrases=(PhraseHand(-3),))),
        Line("s1", "", "", hand=HandFit(tempo=99.0)),
    ],
)
def test_a_hand_that_none_could_lay_is_refused(line: Line) -> None:
    assert problem_of(Line)(line)


def test_what_hands_lay_is_taken() -> None:
    said = ("die", "Glocke", "")
    line = Line("s1", "", "", word_pins=(WordPin(1, 5, said),), hand=HandFit(phrases=(PhraseHand(1, 1.2, said=said),)))
    assert not problem_of(Line)(line)
