"""Choosing what fits: the same as trying everything, the fullest that can be placed, and nothing of a person's."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from helpers import project_with
from zweistimme.project import access, line_edits, transcript
from zweistimme.project.model import Maker, Pin, Preference, Project, Style
from zweistimme.project.wordings import LineState, Offer, Origin, OriginKind
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.wording_choice import Chosen, Lines, chosen_wordings
from zweistimme.stages.translate.choosing import choices_that_fit, choose

LIMITS = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)
TAG = "de-DE"
LONG = "Das ist eine wirklich außerordentlich lange und umständliche Antwort auf eine kurze Frage."
MIDDLE = "Das ist eine lange Antwort darauf."
SHORT = "Ja, schon."


def lines(starts: list[float], ends: list[float], spoken: list[list[float]], pinned: tuple[int, ...] = ()) -> Lines:
    pins = [k in pinned for k in range(len(starts))]
    return Lines(np.array(starts), np.array(ends), [True] * len(starts), spoken, pins)


@pytest.mark.parametrize("seed", range(12))
def test_it_is_as_cheap_as_trying_every_choice(seed: int) -> None:
    dice = np.random.default_rng(seed)
    starts = np.cumsum(dice.uniform(1.2, 2.6, 5))
    ends = starts + dice.uniform(0.6, 1.4, 5)
    spoken = [list(dice.uniform(0.5, 2.4, int(dice.integers(1, 4)))) for _ in range(5)]
    given = lines(list(starts), list(ends), spoken)
    best = chosen_wordings(given, LIMITS)
    tried: list[Chosen] = []
    for numbers in product(*[range(len(several)) for several in spoken]):
        alone = [[several[n]] for several, n in zip(spoken, numbers, strict=True)]
        one = chosen_wordings(replace(given, spoken=alone), LIMITS)
        lost = sum(
            2.0 * (max(several) - several[n]) + 0.02 * (n > 0) for several, n in zip(spoken, numbers, strict=True)
        )
        tried.append(replace(one, cost=one.cost + lost))
    assert best.cost == pytest.approx(min(one.cost for one in tried), abs=1e-9)


def test_the_fullest_that_can_be_placed_well_is_taken() -> None:
    roomy = chosen_wordings(lines([1.0], [4.0], [[3.0, 1.5]]), LIMITS)
    assert roomy.wording.tolist() == [0]
    tight = chosen_wordings(lines([1.0, 2.2], [2.0, 3.2], [[2.4, 1.1, 0.9], [2.4, 1.1, 0.9]]), LIMITS)
    assert tight.wording.tolist() == [1, 1]
    assert (tight.tempo < 1.16).all()
    assert chosen_wordings(lines([], [], []), LIMITS).wording.tolist() == []


def test_lines_may_lag_into_a_pause_and_not_into_each_other() -> None:
    alone = chosen_wordings(lines([1.0], [2.0], [[1.35, 0.9]]), LIMITS)
    assert alone.wording.tolist() == [0], "there is room behind it"
    held = chosen_wordings(lines([1.0, 2.05], [2.0, 3.0], [[1.6, 0.9], [1.0]], pinned=(1,)), LIMITS)
    assert held.wording[0] == 1


@pytest.fixture
def project() -> Project:
    made = project_with([(1.0, 2.5, "One."), (3.0, 4.5, "Two."), (5.0, 6.5, "Three.")])
    for key in ("s1", "s2", "s3"):
        segment = next(one for one in made.segments if one.id == key)
        made = line_edits.put_translation(
            made, TAG, key, [LONG, MIDDLE, SHORT], source=segment,
            instead_of=made.versions[TAG].lines[key], maker=Maker("quay"),
        )  # fmt: skip
    return made


def test_a_version_is_worded_so_that_it_fits(project: Project) -> None:
    found = choices_that_fit(project, TAG)
    assert [choice.number for choice in found.choices] == [1, 2, 3]
    assert all(choice.after_tempo < choice.before_tempo for choice in found.choices)
    assert found.comfort_after > found.comfort_before
    after = choose(project, TAG, found.choices)
    line = after.versions[TAG].lines["s1"]
    assert line.text in (MIDDLE, SHORT)
    assert (line.state, line.maker, line.origin) == (
        LineState.INITIAL,
        Maker("quay"),
        Origin(OriginKind.ENGINE, "quay"),
    )
    assert LONG in [offer.text for offer in line.offers]
    assert choices_that_fit(after, TAG).choices == ()


def test_what_a_person_settled_and_what_is_stale_stays(project: Project) -> None:
    settled = line_edits.set_states(project, TAG, ["s1"], LineState.TRANSLATED)
    settled = line_edits.set_locked(settled, TAG, ["s2"], True)
    settled = transcript.set_segment_text(settled, "s3", "Three, then.")
    assert choices_that_fit(settled, TAG).choices == ()
    found = choices_that_fit(project, TAG).choices
    assert choose(settled, TAG, found).versions[TAG].lines["s1"].text == LONG, "settled while one looked"


def test_what_is_merely_alike_is_no_wording_of_the_line(project: Project) -> None:
    line = project.versions[TAG].lines["s1"]
    alike = (Offer(SHORT, Origin(OriginKind.MEMORY, "Tide", 87)),)
    fuzzy = access.put_line(project, TAG, replace(line, offers=alike))
    assert "s1" not in [choice.segment_id for choice in choices_that_fit(fuzzy, TAG).choices]
    same = (Offer(SHORT, Origin(OriginKind.MEMORY, "Tide", 100)),)
    exact = access.put_line(project, TAG, replace(line, offers=same))
    assert "s1" in [choice.segment_id for choice in choices_that_fit(exact, TAG).choices]


def test_pins_are_kept_to(project: Project) -> None:
    line = project.versions[TAG].lines["s1"]
    pinned = access.put_line(project, TAG, replace(line, pin=Pin(1_000_000, 9_000_000)))
    assert "s1" not in [choice.segment_id for choice in choices_that_fit(pinned, TAG).choices], "it has time enough"
