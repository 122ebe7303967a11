"""The plan: what it must never do, whatever it is given."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import project_with, work_on
from zweistimme.project import edits, line_edits
from zweistimme.project.model import Pin, Placement, Preference, Style
from zweistimme.project.progress import Step, progress
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.sentences import sentences_of
from zweistimme.sentences.catalogue import CATALOGUE
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.timemap import speech_map
from zweistimme.stages.fit import pin_and_plan
from zweistimme.stages.fit.chains import solve
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.pairs import near_pairs
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.plan_input import PlanInput, whole_lines
from zweistimme.stages.fit.render import fitted_clip, placed_samples
from zweistimme.stages.fit.slot import measured_length, slot_us
from zweistimme.stages.linear_programme import Rows, cheapest
from zweistimme.standin.voice import speak, voice_by_id
from zweistimme.store.document import Document

BALANCED = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)


def lines(seed: int, count: int, *, ratio: float = 1.12) -> PlanInput:
    """Random lines with some cross-talk and some pauses."""
    random = np.random.default_rng(seed)
    length = random.gamma(4, 0.7, count) + 0.4
    gap = np.where(random.random(count) < 0.12, -random.random(count) * 0.6, random.exponential(0.6, count))
    start = np.maximum.accumulate(1.0 + np.cumsum(np.append(0.0, (length + gap)[:-1])))
    speech = length * np.clip(random.normal(ratio, 0.25, count), 0.4, 2.5)
    free = np.full(count, np.nan)
    seen = random.random(count) < 0.6
    end = float(start[-1] + length[-1] + 3)
    return whole_lines(
        start,
        start + length,
        speech,
        speech * random.random(count) * 0.15,
        seen,
        random.integers(0, 3, count),
        free,
        free.copy(),
        end,
    )


def worst_clash(given_: PlanInput, start: np.ndarray, length: np.ndarray) -> float:
    first, second = near_pairs(given_.start, given_.end)
    overlap = np.minimum(given_.end[first], given_.end[second]) - given_.start[second]
    allowed = np.maximum(overlap, -BALANCED.least_gap)
    return float((start[first] + length[first] - start[second] - allowed).max(initial=-1.0))


@given(st.integers(0, 10_000), st.integers(1, 60), st.floats(0.5, 2.2))
@settings(max_examples=60)
def test_every_plan_keeps_its_promises(seed: int, count: int, ratio: float) -> None:
    given_ = lines(seed, count, ratio=ratio)
    plan = solve(given_, BALANCED)
    assert worst_clash(given_, plan.start, plan.length) < 1e-6
    cap = np.where(given_.on_screen, *BALANCED.lag_cap)
    assert np.all(np.abs(plan.start - given_.start) <= cap + 1e-6)
    assert np.all(np.diff(plan.start) >= -1e-6)
    assert np.all(plan.start >= -1e-9)
    assert np.all(plan.start + plan.length <= given_.programme_end + 1e-6)
    assert np.all(plan.length > 0.1)
    within = plan.overflow == 0
    assert np.all(plan.tempo[within] <= BALANCED.hard[1] + 1e-3)
    assert np.all(plan.tempo[within] >= BALANCED.hard[0] - 1e-3)
    assert np.all(plan.pause_cut <= given_.spare_pause + 1e-9)


def test_the_same_input_gives_the_same_plan() -> None:
    first, again = (solve(lines(5, 200), BALANCED) for _ in range(2))
    assert np.array_equal(first.start, again.start)
    assert np.array_equal(first.length, again.length)


def test_nobody_overlaps_the_line_after_next() -> None:
    """A long line under several short ones: each may be covered as much as in the original, no more."""
    start = np.array([0.0, 1.0, 2.0, 5.2])
    end = np.array([5.0, 1.8, 3.0, 6.0])
    free = np.full(4, np.nan)
    given_ = whole_lines(
        start,
        end,
        np.array([7.0, 1.5, 1.6, 1.0]),
        np.zeros(4),
        np.ones(4, bool),
        np.array([0, 1, 1, 1]),
        free,
        free.copy(),
        10.0,
    )
    plan = solve(given_, BALANCED)
    assert worst_clash(given_, plan.start, plan.length) < 1e-6
    assert plan.start[3] >= plan.start[0] + plan.length[0] + 0.08 - 1e-6


@given(st.integers(0, 500), st.data())
@settings(max_examples=25)
def test_what_a_hand_pinned_is_never_moved(seed: int, data: st.DataObject) -> None:
    given_ = lines(seed, 20)
    pinned = given_.pinned_start.copy()
    for place in data.draw(st.lists(st.integers(0, 19), max_size=5, unique=True)):
        pinned[place] = given_.start[place] + data.draw(st.floats(-1.0, 3.0))
    pinned = np.maximum(pinned, 0)
    plan = solve(replace(given_, pinned_start=pinned), BALANCED)
    hands = np.isfinite(pinned)
    assert np.allclose(plan.start[hands], pinned[hands], atol=1e-6)


def three_lines(pinned: float, speech: tuple[float, float, float] = (1.9, 1.9, 1.9)) -> PlanInput:
    """Three lines of two seconds one behind the other; the second pinned."""
    start = np.array([0.0, 2.0, 4.0])
    free = np.full(3, np.nan)
    pins = np.array([np.nan, pinned, np.nan])
    return whole_lines(
        start, start + 2, np.array(speech), np.zeros(3), np.ones(3, bool), np.arange(3), pins, free, 30.0
    )


@pytest.mark.parametrize("pinned", [0.0, 1.2, 4.2, 4.7, 6.5, 20.0])
@pytest.mark.parametrize("first", [1.9, 4.0])
def test_a_line_put_on_another_is_a_clash_and_nobody_is_crushed(pinned: float, first: float) -> None:
    given_ = three_lines(pinned, (first, 1.9, 1.9))
    plan = solve(given_, BALANCED)
    assert plan.start[1] == pytest.approx(pinned)
    assert np.all(plan.tempo <= BALANCED.hard[1] + 1e-3)
    for one, other in ((0, 1), (1, 2), (0, 2)):
        low, high = (one, other) if plan.start[one] <= plan.start[other] else (other, one)
        overlap = plan.start[low] + plan.length[low] - plan.start[high]
        if overlap > 1e-3 and plan.overflow[low] == 0:
            assert plan.clash[low] > 0
            assert plan.clash[high] > 0
    if pinned in (1.2, 4.2):
        assert plan.clash_with[1] in (0, 2)
    if pinned == 20.0 and first == 1.9:
        assert not plan.clash.any()
        assert worst_clash(replace(given_, start=given_.start[[0, 2]], end=given_.end[[0, 2]]),
                           plan.start[[0, 2]], plan.length[[0, 2]]) < 1e-6  # fmt: skip


@given(st.integers(0, 300), st.sampled_from(list(Style)), st.data())
@settings(max_examples=60)
def test_a_plan_exists_wherever_and_however_long_pins_are(seed: int, style: Style, data: st.DataObject) -> None:
    given_ = lines(seed, 8)
    pinned, length = given_.pinned_start.copy(), given_.pinned_length.copy()
    for place in data.draw(st.lists(st.integers(0, 7), min_size=1, max_size=8, unique=True)):
        pinned[place] = data.draw(st.floats(0, given_.programme_end))
        if data.draw(st.booleans()):
            length[place] = data.draw(st.sampled_from([0.1, 0.05, 0.4, 3.0, 20.0]))
    plan = solve(replace(given_, pinned_start=pinned, pinned_length=length), limits_for(style, Preference.BALANCED))
    by_hand = np.isfinite(pinned)
    assert np.allclose(plan.start[by_hand], pinned[by_hand], atol=1e-6)
    fixed = np.isfinite(length)
    assert np.allclose(plan.length[fixed], length[fixed], atol=1e-6)
    assert np.all(plan.length > 0.04)
    free = ~by_hand
    assert np.all(np.diff(plan.start[free]) >= -1e-6)
    assert np.all((plan.clash > 0) == (plan.clash_with >= 0))


def test_styles_and_preferences_change_the_numbers() -> None:
    given_ = lines(1, 60, ratio=1.35)
    plans = {p: solve(given_, limits_for(Style.PHRASE_SYNC, p)) for p in Preference}
    assert np.abs(plans[Preference.VOICE].tempo - 1).mean() < np.abs(plans[Preference.LIPS].tempo - 1).mean()
    late = {p: np.abs(plan.start - given_.start).mean() for p, plan in plans.items()}
    assert late[Preference.LIPS] < late[Preference.VOICE]
    tight = solve(given_, limits_for(Style.LIP_SYNC, Preference.BALANCED))
    assert np.abs(tight.start - given_.start).max() <= 0.8 + 1e-6


def test_voice_over_starts_later_and_ends_earlier() -> None:
    start = np.array([1.0, 8.0, 15.0])
    free = np.full(3, np.nan)
    given_ = whole_lines(
        start, start + 5, np.full(3, 3.8), np.zeros(3), np.ones(3, bool), np.zeros(3, int), free, free.copy(), 30.0
    )
    plan = solve(given_, limits_for(Style.VOICE_OVER, Preference.BALANCED))
    assert np.all((plan.start - start >= 0.4) & (plan.start - start <= 1.1))
    assert np.all(plan.start + plan.length <= start + 5)


def test_an_empty_version_has_an_empty_plan() -> None:
    nothing = np.empty(0)
    plan = solve(
        whole_lines(
            nothing, nothing, nothing, nothing, nothing.astype(bool), nothing.astype(int), nothing, nothing, 1.0
        ),
        BALANCED,
    )
    assert len(plan.start) == 0


def test_overflow_is_said_in_seconds_and_syllables(demo: Document) -> None:
    placements = demo.project.versions["de-DE"].placements
    over = [p for p in placements.values() if p.overflow_us]
    assert [demo.project.versions["de-DE"].lines[p.segment_id].text for p in over] == [
        "Jetzt musst du es mit aller Kraft und ganz vorsichtig anheben."
    ]
    assert "s too long whatever is done: take away about" in sentences_of(over[0].why)
    assert "syllable" in sentences_of(over[0].why)


def test_reasons_say_what_a_person_would(demo: Document) -> None:
    for version in demo.project.versions.values():
        for placement in version.placements.values():
            reason = sentences_of(placement.why)
            assert reason.endswith(".")
            assert any(word in reason for word in ("Starts", "Put here"))
            assert all(one.code in CATALOGUE for one in placement.why)


def test_taking_the_shorter_wording_makes_it_fit(demo: Document) -> None:
    from zweistimme.stages.pipeline import how_many, next_step, run_step

    tag = "de-DE"
    over = next(p for p in demo.project.versions[tag].placements.values() if p.overflow_us)
    shorter = demo.project.versions[tag].lines[over.segment_id].offers[0].text
    takes = len(demo.project.versions[tag].takes)
    demo.apply("Shorter", lambda p: line_edits.set_line_text(p, tag, over.segment_id, shorter))
    assert next_step(demo.project, tag) is Step.TAKES
    assert how_many(demo.project, tag, Step.TAKES) == 1
    run_step(work_on(demo), Step.TAKES, tag)
    assert len(demo.project.versions[tag].takes) == takes + 1
    assert next_step(demo.project, tag) is Step.FIT
    run_step(work_on(demo), Step.FIT, tag)
    assert not any(p.overflow_us for p in demo.project.versions[tag].placements.values())
    assert next_step(demo.project, tag) is Step.HANDOVER


def test_a_take_made_before_is_used_again(demo: Document) -> None:
    from zweistimme.stages.pipeline import run_step

    tag, segment_id = "de-DE", demo.project.segments[1].id
    before = demo.project.versions[tag].lines[segment_id]
    count = len(demo.project.versions[tag].takes)
    for text in ("Die Uhr muss es wissen.", before.text):
        demo.apply("Write", lambda p, t=text: line_edits.set_line_text(p, tag, segment_id, t))
        run_step(work_on(demo), Step.TAKES, tag)
    assert len(demo.project.versions[tag].takes) == count + 1
    assert demo.project.versions[tag].lines[segment_id].take_id == before.take_id


def test_fitted_clips_are_exact_to_the_sample(demo: Document) -> None:
    for version in demo.project.versions.values():
        for placement in version.placements.values():
            clip = fitted_clip(version.takes[placement.take_id], placement, demo.clips, demo.cache)
            start, length = placed_samples(placement)
            assert len(clip) == length
            assert abs(start / RATE * 1e6 - placement.start_us) <= 11
            assert np.isfinite(clip).all()


def test_the_slot_borrows_from_the_pauses_around_it() -> None:
    project = project_with([(1.0, 3.0, "One two three"), (3.1, 5.0, "Four"), (9.0, 10.0, "Five")])
    version = project.versions["de-DE"]
    first, second, _ = project.segments
    assert slot_us(project, version, first) < seconds_to_us(2.2)
    assert slot_us(project, version, second) == seconds_to_us(1.9 + 0.02 + 0.4)
    short = measured_length(project, version, second, "Vier")
    long = measured_length(project, version, second, "Vier und noch vieles andere mehr, das niemand sagen kann")
    assert short.share < 1 < long.share


def test_moving_a_placement_by_hand_keeps_it_through_a_new_plan(demo: Document) -> None:
    from zweistimme.stages.pipeline import run_step

    tag, segment_id = "es-ES", demo.project.segments[4].id
    placement: Placement = demo.project.versions[tag].placements[segment_id]
    pin = Pin(placement.start_us + 700_000)
    demo.apply("Pin", lambda p: pin_and_plan(p, tag, segment_id, pin))
    at_once = demo.project.versions[tag].placements
    assert progress(demo.project, demo.project.versions[tag])[Step.FIT].complete
    run_step(work_on(demo), Step.FIT, tag)
    after = demo.project.versions[tag].placements
    assert after[segment_id].start_us == pin.start_us
    assert after[segment_id].why[0].code == "by-hand-late"
    assert after == at_once  # what was planned at once is the whole's optimum, so that nothing was left to do
    demo.undo()
    assert demo.project.versions[tag].placements[segment_id] == placement


def test_a_take_put_on_its_neighbour_is_said_to_clash_and_moves_only_what_is_near(demo: Document) -> None:
    tag = "es-ES"
    before = demo.project.versions[tag].placements
    moved, other = demo.project.segments[4], demo.project.segments[5]
    pin = Pin(before[other.id].start_us + 100_000)
    project = pin_and_plan(demo.project, tag, moved.id, pin)
    placed = project.versions[tag].placements
    assert placed[moved.id].clash_us > 100_000
    named = {f.figures["name"] for p in placed.values() for f in p.why if f.code == "clashes"}
    assert named - {demo.project.speakers[moved.speaker_id].name}
    assert "at once with" in sentences_of(placed[moved.id].why)
    state = progress(project, project.versions[tag])[Step.FIT]
    assert (state.complete, state.clashes) == (True, sum(bool(p.clash_us) for p in placed.values()))
    assert all(p.tempo <= 1.5 + 1e-3 for p in placed.values())
    free = pin_and_plan(project, tag, moved.id, None).versions[tag].placements
    # who is late by how much may be shared otherwise between neighbours; in all it is as before
    starts = {segment.id: segment.start_us for segment in demo.project.segments}
    late_us = [sum(abs(p.start_us - starts[p.segment_id]) for p in placed.values()) for placed in (before, free)]
    assert abs(late_us[0] - late_us[1]) < 20_000
    for key, one in free.items():
        assert abs(one.start_us - before[key].start_us) < 200_000
        assert not one.clash_us


@pytest.mark.parametrize("style", list(Style))
def test_every_style_plans_the_demo(demo: Document, style: Style) -> None:
    from zweistimme.stages.pipeline import run_step

    demo.apply("Style", lambda p: edits.set_version_style(p, "es-ES", style, Preference.BALANCED))
    run_step(work_on(demo), Step.FIT, "es-ES")
    assert len(demo.project.versions["es-ES"].placements) == 18


@pytest.mark.parametrize("seed", range(6))
def test_styles_keep_what_they_promise(seed: int) -> None:
    free = lines(seed, 40)
    over = solve(free, limits_for(Style.VOICE_OVER, Preference.BALANCED))
    room = free.end - free.start
    sayable = (free.speech - free.spare_pause) / 1.5 < room - 0.75
    apart = np.append(free.start[1:] - free.end[:-1] > -0.01, True) & np.append(True, free.start[1:] >= free.end[:-1])
    inside = (over.start >= free.start - 1e-6) & (over.start + over.length <= free.end + 1e-6)
    assert inside[sayable & apart].all()
    lips, phrases = (
        solve(free, limits_for(style, Preference.BALANCED)) for style in (Style.LIP_SYNC, Style.PHRASE_SYNC)
    )
    for edge in ("start", "end"):
        off = [
            np.abs(plan.start - free.start if edge == "start" else plan.start + plan.length - free.end).mean()
            for plan in (lips, phrases)
        ]
        assert off[0] <= off[1] + 1e-9


def test_the_tempo_heard_is_the_tempo_planned() -> None:
    voice = voice_by_id("hale")
    assert voice is not None
    parts = [speak(text, "en-GB", voice).samples for text in ("The clock has to know that,", "before we do.")]
    heard = [part[(at := clip_speech(part, RATE)).start : at.end] for part in parts]
    pause = np.zeros(RATE // 2, np.float32)
    clip = np.concatenate((heard[0], pause, heard[1])).astype(np.float32)
    spot = (len(heard[0]), len(heard[0]) + len(pause))
    spoken = len(heard[0]) + len(heard[1]) + round(0.06 * RATE)
    for tempo in (0.85, 1.3):
        mapped = speech_map(clip, round(spoken / tempo + len(pause) - 0.06 * RATE), pauses=[spot])
        edges = mapped.to_result(np.array([0.0, spot[0], spot[1], len(clip)]))
        kept = edges[2] - edges[1]
        assert abs(kept - len(pause)) < 0.03 * RATE  # its two edges belong to the words
        assert (spoken - 0.06 * RATE) / (edges[1] + edges[3] - edges[2]) == pytest.approx(tempo, rel=0.02)


def test_parts_of_a_long_programme_are_planned_to_the_optimum_of_the_whole() -> None:
    many = lines(5, 400)
    whole = solve(many, BALANCED, least_lines=10_000)
    for least in (1, 20):
        parts = solve(many, BALANCED, least_lines=least)
        assert parts.cost == pytest.approx(whole.cost, rel=1e-9)


def test_a_line_too_long_for_the_silence_behind_it_is_planned_with_what_follows() -> None:
    """Parts are tied together where one line would run into the next part, whatever the silence between them."""
    start = np.array([1.0, 20.0, 22.5])
    free = np.full(3, np.nan)
    given_ = whole_lines(
        start, start + 2, np.array([40.0, 2.0, 2.0]), np.zeros(3), np.ones(3, bool), np.zeros(3, int), free, free, 90.0
    )
    parts, whole = solve(given_, BALANCED, least_lines=1), solve(given_, BALANCED, least_lines=100)
    assert parts.cost == pytest.approx(whole.cost)
    assert parts.start[0] + parts.length[0] <= parts.start[1] + 1e-6


def test_what_cannot_be_kept_is_said_in_words() -> None:
    rows = Rows()
    rows.add([(np.array([0]), 1.0)], np.array([-1.0]))
    answer = cheapest(np.ones(1), np.zeros(1), np.ones(1), rows)
    assert answer.values is None
    assert "nfeasible" in answer.status


def test_a_line_pinned_far_from_its_segment_is_planned_around_where_it_is(demo: Document) -> None:
    """Only the neighbourhood is looked at, and all that is pinned."""
    tag = "es-ES"
    far, near = demo.project.segments[2], demo.project.segments[15]
    project = pin_and_plan(demo.project, tag, far.id, Pin(near.start_us + 200_000))
    whole = {p.segment_id: p for p in planned(project, tag, taken_lines(project, tag))}
    placed = project.versions[tag].placements
    assert placed[far.id].clash_us > 0
    assert {key: p.start_us for key, p in placed.items()} == {key: p.start_us for key, p in whole.items()}
