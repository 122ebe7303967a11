"""Hands in any order, on any lines: there is always a plan, phrases stay in their order, and reasons are found."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import combinations
from math import isfinite

import numpy as np
import pytest

from helpers import project_with
from zweistimme.project.edits import pin_line, set_placements
from zweistimme.project.errors import EditError
from zweistimme.project.fit_edits import free_pins, pin_word, set_hand, set_phrase
from zweistimme.project.hand_fit import FitAs, PhraseHand
from zweistimme.project.model import Pin, Placement, Preference, Project, Segment, Style, Take, Word
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.stages.fit.alternatives import alternatives
from zweistimme.stages.fit.by_hand import change_and_plan
from zweistimme.stages.fit.explained import explained
from zweistimme.stages.fit.placements import planned, taken_lines

TAG = "de-DE"
Edit = Callable[[Project], Project]


def any_project(dice: random.Random) -> Project:
    """Lines of any length that may overlap, some with a pause; takes that fit badly; cuts anywhere."""
    rows, at = [], 0.5
    for _ in range(dice.randint(1, 8)):
        length = dice.uniform(0.3, 6)
        words = " ".join(f"w{dice.choice(['', ',', '.'])}" for _ in range(dice.randint(1, 9)))
        rows.append((at, at + length, words))
        at += max(0.05, length + dice.uniform(-0.6, 1.5))
    project = project_with(rows, takes=[max(0.2, (b - a) * dice.uniform(0.5, 1.8)) for a, b, _ in rows])
    version = project.versions[TAG]
    takes = {key: any_take(take, dice) for key, take in version.takes.items()}
    version = replace(version, takes=takes, style=dice.choice(list(Style)), preference=dice.choice(list(Preference)))
    assert project.programme is not None
    cuts = tuple(sorted(dice.randint(0, 30_000_000) for _ in range(dice.randint(0, 12))))
    programme = replace(project.programme, cuts_us=cuts)
    segments = tuple(with_pause(one, dice) for one in project.segments)
    return replace(project, segments=segments, versions={TAG: version}, programme=programme)


def with_pause(segment: Segment, dice: random.Random) -> Segment:
    words = list(segment.words)
    if len(words) > 2:
        k = dice.randrange(1, len(words))
        start = min(words[k].end_us - 10_000, words[k].start_us + dice.randint(0, 900_000))
        words[k] = replace(words[k], start_us=max(words[k].start_us, start))
    return replace(segment, words=tuple(words), on_screen=dice.random() < 0.75)


def any_take(take: Take, dice: random.Random) -> Take:
    count, length = dice.randint(0, 8), take.length_samples
    edges = np.linspace(0, samples_to_us(length), count + 1).astype(int).tolist()
    words = tuple(Word(f"x{dice.randint(0, 3)}", edges[k], edges[k + 1]) for k in range(count))
    pauses = ()
    if length > RATE and dice.random() < 0.7:
        start = dice.randint(RATE // 4, length - RATE // 2)
        pauses = ((start, min(length - RATE // 8, start + dice.randint(2_400, RATE))),)
    return replace(take, words=words, pauses_samples=pauses)


def any_hand(project: Project, key: str, dice: random.Random) -> Edit:
    """Something that a hand may do to a line."""
    take = project.versions[TAG].takes[project.versions[TAG].lines[key].take_id or ""]
    assert project.programme is not None
    at, word = dice.randint(0, project.programme.sound.duration_us - 1), dice.randint(0, max(0, len(take.words) - 1))
    phrase = PhraseHand(word, dice.choice([None, 0.6, 1.4]), dice.choice([None, 0, 600_000]))
    said = {
        "tempo": dice.choice([None, 0.5, 1.3, 2.4]), "pauses": dice.choice([None, 0.0, 1.0, 2.5]),
        "start_slack_us": dice.randint(0, 2_000_000), "end_slack_us": dice.randint(0, 2_000_000),
        "fit_as": dice.choice(list(FitAs)),
    }  # fmt: skip
    here: dict[str, object] = {"tag": TAG, "segment_id": key}
    return dice.choice(
        [
            partial(pin_line, **here, pin=Pin(at)),
            partial(pin_line, **here, pin=Pin(at, dice.randint(100_000, 8_000_000))),
            partial(pin_line, **here, pin=None),
            partial(pin_word, **here, word=word, start_us=at),
            partial(set_phrase, **here, hand=phrase),
            partial(set_hand, tag=TAG, segment_ids=[key], **said),
            partial(free_pins, tag=TAG, segment_ids=[key]),
        ]
    )


def all_stand(project: Project) -> None:
    for placed in project.versions[TAG].placements.values():
        assert isfinite(placed.tempo)
        assert placed.tempo > 0
        assert placed.length_us > 0
        ends = placed.start_us
        for phrase in placed.phrases:
            assert phrase.start_us >= ends
            assert phrase.length_us > 0
            ends = phrase.start_us + phrase.length_us
        assert not placed.phrases or ends == placed.start_us + placed.length_us
        behind_us = placed.start_us + placed.length_us - sound_of(project).duration_us
        assert behind_us <= 1_000 or "behind-end" in [one.code for one in placed.why]
    nothing_is_heard_at_once_unsaid(project)


def sound_of(project: Project) -> SoundTrack:
    assert project.programme is not None
    return project.programme.sound


def heard_spans(placed: Placement) -> list[tuple[int, int]]:
    return [(one.start_us, one.start_us + one.length_us) for one in placed.phrases or (placed,)]


def nothing_is_heard_at_once_unsaid(project: Project) -> None:
    """Takes overlap by no more than their originals, or it is said of one of them."""
    placements = project.versions[TAG].placements
    for one, other in combinations(project.segments, 2):
        first, second = placements[one.id], placements[other.id]
        by_us = max(min(b, d) - max(a, c) for a, b in heard_spans(first) for c, d in heard_spans(second))
        source_us = min(one.end_us, other.end_us) - max(one.start_us, other.start_us)
        assert by_us <= max(source_us, 0) + 2_000 or first.clash_us or second.clash_us


@pytest.mark.parametrize("seed", range(40))
def test_whatever_hands_do_there_is_a_plan(seed: int) -> None:
    dice = random.Random(seed)
    project = any_project(dice)
    project = set_placements(project, TAG, planned(project, TAG, taken_lines(project, TAG)))
    all_stand(project)
    for _ in range(6):
        key = dice.choice(project.segments).id
        edit = any_hand(project, key, dice)
        try:
            project = change_and_plan(project, TAG, key, edit)
        except EditError:  # a hand cannot do that here, and is told so
            continue
        all_stand(project)
        explained(project, TAG, key)
        alternatives(project, TAG, key)


def test_a_line_and_its_words_cannot_be_held_against_each_other() -> None:
    project = project_with([(1.0, 5.0, "One two three four.")], takes=[4.0])
    version = project.versions[TAG]
    words = tuple(Word(f"w{k}", k * 1_000_000, (k + 1) * 1_000_000) for k in range(4))
    project = replace(
        project, versions={TAG: replace(version, takes={"t0": replace(version.takes["t0"], words=words)})}
    )

    def held(one: Project) -> tuple[Pin | None, list[int]]:
        line = one.versions[TAG].lines["s1"]
        return line.pin, [pin.word for pin in line.word_pins]

    for word, at_us in ((1, 2_000_000), (3, 4_500_000)):
        project = pin_word(project, TAG, "s1", word, at_us)
    assert held(pin_line(project, TAG, "s1", Pin(1_500_000))) == (Pin(1_500_000), [1, 3])
    later = pin_line(project, TAG, "s1", Pin(3_000_000))
    assert held(later) == (Pin(3_000_000), [3]), "what was to be heard before it starts is let go"
    assert held(pin_line(project, TAG, "s1", Pin(1_500_000, 3_000_000)))[1] == [], "it has a length of its own"
    assert held(pin_word(later, TAG, "s1", 1, 3_500_000)) == (Pin(3_000_000), [1, 3])
    assert held(pin_word(later, TAG, "s1", 1, 2_500_000)) == (None, [1, 3]), "the word is held, so the line gives way"
    assert held(pin_word(later, TAG, "s1", 0, 2_900_000)) == (None, [0, 3])
    long = pin_line(project, TAG, "s1", Pin(1_500_000, 3_000_000))
    assert held(pin_word(long, TAG, "s1", 2, 2_500_000)) == (Pin(1_500_000), [2])
