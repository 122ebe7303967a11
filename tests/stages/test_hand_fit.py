"""What a hand says of a fit is kept, what it moves is planned with it, and what would help is told truly."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from helpers import project_with
from zweistimme.project.edits import put_placements, set_placements
from zweistimme.project.errors import EditError
from zweistimme.project.facts import placement_is_stale
from zweistimme.project.fit_edits import free_pins, pin_word, set_hand, set_limits
from zweistimme.project.fit_limits import limits_problem_of_fit
from zweistimme.project.hand_fit import FitAs, HandFit, WordPin, hand_fit_problem
from zweistimme.project.line_edits import put_line_as
from zweistimme.project.model import Pin, Placement, Preference, Project, Style, Take, TakeKind, Word
from zweistimme.project.placed_time import behind_end_us, does_not_fit, edges_of, placed_us
from zweistimme.project.times import RATE, SECOND_US, samples_to_us
from zweistimme.project.wordings import Offer
from zweistimme.stages.fit.alternatives import Kind, alternatives
from zweistimme.stages.fit.binding import binders, shorter_by_s
from zweistimme.stages.fit.by_hand import change_and_plan, pin_and_plan
from zweistimme.stages.fit.explained import explained
from zweistimme.stages.fit.limits import limits_for, limits_of
from zweistimme.stages.fit.placements import plan_input, planned, taken_lines
from zweistimme.stages.fit.remedies import Help, remedies, standing_of
from zweistimme.stages.fit.summary import fit_summary, trial_summary
from zweistimme.stages.fit.ways import by_line

TAG = "de-DE"


def fitted(rows: list[tuple[float, float, str]], takes: list[float], **first: object) -> Project:
    """Lines with takes whose words come at even times, planned; *first* are fields of the first line."""
    project = project_with(rows, takes=takes)
    version = project.versions[TAG]
    spoken = {
        key: replace(take, words=words(take.length_samples), speech_end_samples=take.length_samples)
        for key, take in version.takes.items()
    }
    project = replace(project, versions={TAG: replace(version, takes=spoken)})
    for name, value in first.items():
        project = put_line_as(project, TAG, "s1", **{name: value})
    return set_placements(project, TAG, planned(project, TAG, taken_lines(project, TAG)))


def words(length_samples: int, count: int = 5) -> tuple[Word, ...]:
    edges = np.linspace(0, samples_to_us(length_samples), count + 1).astype(int).tolist()
    return tuple(Word(f"w{k}", edges[k], edges[k + 1]) for k in range(count))


def placed(project: Project, key: str = "s1") -> Placement:
    return project.versions[TAG].placements[key]


def word_at(project: Project, number: int, key: str = "s1") -> int:
    version = project.versions[TAG]
    take = version.takes[version.lines[key].take_id or ""]
    return placed_us(placed(project, key), take, take.words[number].start_us)


def hold(project: Project, number: int, at_us: int | None, key: str = "s1") -> Project:
    return change_and_plan(project, TAG, key, lambda p: pin_word(p, TAG, key, number, at_us))


ROWS = [(1.0, 4.0, "One two three four five."), (4.5, 6.5, "Six seven."), (20.0, 22.0, "Far away.")]


@pytest.mark.parametrize("by_us", [-300_000, 0, 250_000, 600_000])
def test_a_word_is_heard_when_it_is_held_whatever_comes_before(by_us: int) -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    at = word_at(project, 3) + by_us
    held = hold(project, 3, at)
    assert word_at(held, 3) == pytest.approx(at, abs=2_000)
    one = placed(held)
    assert len(one.phrases) == 2
    assert one.phrases[0].start_us + one.phrases[0].length_us <= one.phrases[1].start_us + 1
    assert one.phrases[0].take_end_samples == one.phrases[1].take_start_samples
    assert placed(held, "s3") is placed(project, "s3"), "what is far away is not touched"
    assert not placement_is_stale(held, held.versions[TAG], held.segments[0])
    freed = hold(held, 3, None)
    assert (placed(freed).start_us, placed(freed).length_us) == (placed(project).start_us, placed(project).length_us)


def test_several_words_are_held_in_their_order() -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    first, last = word_at(project, 1) + 100_000, word_at(project, 4) + 200_000
    held = hold(hold(project, 4, last), 1, first)
    assert word_at(held, 1) == pytest.approx(first, abs=2_000)
    assert word_at(held, 4) == pytest.approx(last, abs=2_000)
    assert len(placed(held).phrases) == 3
    crossed = hold(held, 2, last + 100_000)
    assert [pin.word for pin in crossed.versions[TAG].lines["s1"].word_pins] == [1, 2], "it frees what it passes"
    freed = free_pins(crossed, TAG, ["s1", "s2"])
    assert not freed.versions[TAG].lines["s1"].word_pins
    assert free_pins(freed, TAG, ["s1"]) is freed


def test_a_word_and_the_line_are_held_together() -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    pinned = pin_and_plan(project, TAG, "s1", Pin(1_400_000))
    held = hold(pinned, 3, 3_500_000)
    assert placed(held).start_us == 1_400_000
    assert word_at(held, 3) == pytest.approx(3_500_000, abs=2_000)
    assert placed(held).phrases[0].start_us == 1_400_000


def test_what_cannot_be_held_is_said() -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    with pytest.raises(EditError, match="This take has 5 words"):
        pin_word(project, TAG, "s1", 9, 1_000_000)
    with pytest.raises(EditError, match="outside the programme"):
        pin_word(project, TAG, "s1", 1, -5)
    with pytest.raises(EditError, match="tempo"):
        set_hand(project, TAG, ["s1"], tempo=9.0)
    assert hand_fit_problem(HandFit(fade_in_us=-1))
    assert hand_fit_problem(HandFit(gain_db=90.0))
    assert hand_fit_problem(HandFit(pauses=9.0))
    assert hand_fit_problem(HandFit(start_slack_us=-1))
    assert not hand_fit_problem(HandFit())


@pytest.mark.parametrize("tempo", [0.85, 1.0, 1.25])
def test_a_tempo_by_hand_is_kept(tempo: float) -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0], hand=HandFit(tempo=tempo))
    assert placed(project).tempo == pytest.approx(tempo, abs=0.005)
    assert placed(project).length_us == pytest.approx(3 * SECOND_US / tempo, abs=2_000)


def test_pauses_by_hand_are_kept() -> None:
    pause = ((60_000, 60_000 + RATE // 2),)
    plain = fitted(ROWS, [3.0, 2.0, 2.0])
    version = plain.versions[TAG]
    take = replace(version.takes["t0"], pauses_samples=pause)
    plain = replace(plain, versions={TAG: replace(version, takes={**version.takes, "t0": take})})
    for share, wanted in ((0.0, 0.44), (1.0, 0.0), (2.0, -0.44)):
        project = change_and_plan(plain, TAG, "s1", lambda p, share=share: set_hand(p, TAG, ["s1"], pauses=share))
        assert placed(project).pauses_cut_us / SECOND_US == pytest.approx(wanted, abs=0.01)


def test_slack_and_what_a_line_is_fitted_as_change_where_it_stands() -> None:
    rows = [(1.0, 2.0, "One two three four five."), (3.6, 5.0, "Six seven.")]
    tight = fitted(rows, [2.2, 1.4])
    version = tight.versions[TAG]
    assert placed(tight).tempo >= 1.149
    said: dict[str, object]
    for said in ({"end_slack_us": 900_000}, {"fit_as": FitAs.OFF_SCREEN}):
        loose = change_and_plan(tight, TAG, "s1", lambda p, said=said: set_hand(p, TAG, ["s1"], **said))
        assert placed(loose).tempo < placed(tight).tempo
        assert not placement_is_stale(loose, loose.versions[TAG], loose.segments[0])
    over = fitted(ROWS, [2.0, 2.0, 2.0], hand=HandFit(fit_as=FitAs.VOICE_OVER))
    assert placed(over).start_us == pytest.approx(1_700_000, abs=200_000)
    stale = set_hand(tight, TAG, ["s1"], tempo=1.3)
    assert placement_is_stale(stale, stale.versions[TAG], stale.segments[0])
    loud = set_hand(tight, TAG, ["s1"], gain_db=3.0, fade_in_us=100_000)
    assert not placement_is_stale(loud, loud.versions[TAG], loud.segments[0]), "how it is heard is not where it stands"
    assert version.lines["s1"].hand == HandFit()


def test_limits_of_ones_own_are_planned_to() -> None:
    project = fitted([(1.0, 2.0, "One two."), (2.2, 4.0, "Six.")], [1.5, 1.7])
    version = project.versions[TAG]
    gentle = replace(limits_of(version), comfort=(0.98, 1.02), tempo_price=(2.0, 80.0, 200.0))
    other = set_limits(project, TAG, gentle)
    assert placement_is_stale(other, other.versions[TAG], other.segments[0])
    placements = planned(other, TAG, taken_lines(other, TAG))
    assert placements[0].tempo < placed(project).tempo
    assert trial_summary(project, TAG, gentle).tempo[0] == pytest.approx(placements[0].tempo)
    assert set_limits(other, TAG, None).versions[TAG].limits is None
    with pytest.raises(EditError, match="Tempos lie around 1"):
        set_limits(project, TAG, replace(gentle, comfort=(1.2, 1.1)))
    assert limits_problem_of_fit(replace(gentle, lag_cap=(90.0, 1.0)))
    assert limits_problem_of_fit(replace(gentle, start_price=(999.0, 1.0)))
    assert limits_problem_of_fit(replace(gentle, least_gap=float("nan")))
    for style in Style:
        for preference in Preference:
            assert not limits_problem_of_fit(limits_for(style, preference)), (style, preference)


def test_alternatives_are_what_the_plan_would_do_and_where_it_was() -> None:
    project = fitted([(1.0, 2.0, "One two."), (2.2, 4.0, "Six.")], [1.6, 1.8])
    plan = placed(project)
    moved = pin_and_plan(project, TAG, "s1", Pin(1_700_000))
    found = {one.kind: one for one in alternatives(moved, TAG, "s1")}
    assert found[Kind.PLANNED].start_us == plan.start_us
    assert found[Kind.BEFORE].start_us == 1_700_000
    if Kind.LIPS in found and Kind.VOICE in found:
        assert found[Kind.LIPS].tempo >= found[Kind.VOICE].tempo


def test_who_binds_a_line_and_by_how_much_is_what_removing_them_shows() -> None:
    rows = [(1.0, 2.0, "One."), (2.05, 3.0, "Two."), (3.4, 5.0, "Three."), (30.0, 31.0, "Far.")]
    project = fitted(rows, [1.6, 0.9, 1.5, 1.0])
    given = plan_input(project, taken_lines(project, TAG))
    limits = limits_of(project.versions[TAG])
    (one, *rest) = binders(given, limits, 1)
    assert (one.unit, one.before) == (0, True)
    without = fitted(rows[1:], [0.9, 1.5, 1.0])
    assert one.by_s == pytest.approx(
        (placed(project, "s2").start_us - placed(without, "s1").start_us) / SECOND_US, abs=0.02
    )
    assert all(binder.unit != 3 for binder in rest)
    assert binders(given, limits, 3) == []


def test_how_much_shorter_is_found_by_bisection() -> None:
    project = fitted([(1.0, 2.0, "One."), (2.2, 4.0, "Two.")], [2.4, 1.8])
    given, limits = plan_input(project, taken_lines(project, TAG)), limits_of(project.versions[TAG])
    less = shorter_by_s(given, limits, 0, lambda plan, k: bool(plan.tempo[k] <= 1.15 + 1e-6))
    assert less is not None
    at = replace(given, speech=given.speech - np.array([less, 0.0]))
    near = replace(given, speech=given.speech - np.array([less - 0.08, 0.0]))
    assert shorter_by_s(at, limits, 0, lambda plan, k: bool(plan.tempo[k] <= 1.15 + 1e-6)) in (
        0.0,
        pytest.approx(0, abs=0.03),
    )
    still = shorter_by_s(near, limits, 0, lambda plan, k: bool(plan.tempo[k] <= 1.15 + 1e-6))
    assert still is not None
    assert still > 0
    assert shorter_by_s(given, limits, 0, lambda _plan, _k: False) is None


def troubled() -> Project:
    project = fitted([(1.0, 2.0, "One."), (2.2, 4.0, "Two."), (9.0, 10.0, "Three.")], [2.9, 1.8, 1.0])
    return put_line_as(project, TAG, "s1", text="Zeile eins ist viel zu lang", offers=(Offer("Kurz"),))


def test_remedies_do_what_they_promise() -> None:
    project = troubled()
    version = project.versions[TAG]
    other = replace(version.takes["t0"], id="t9", label="take 2", length_samples=RATE, speech_end_samples=RATE)
    project = replace(project, versions={TAG: replace(version, takes={**version.takes, "t9": other})})
    found = remedies(project, TAG, "s1")
    kinds = [one.help for one in found]
    assert {Help.OTHER_TAKE, Help.SHORTER, Help.OFF_SCREEN} <= set(kinds)
    before = standing_of(project, TAG, project.segments[0], placed(project))
    for one in found:
        assert one.after.trouble < before.trouble
        if one.help is Help.SHORTER:  # its take is to be spoken yet
            continue
        after = change_and_plan(project, TAG, "s1", one.edit)
        standing = standing_of(after, TAG, after.segments[0], placed(after))
        assert standing == one.after, one.help
    assert [one.after.trouble for one in found] == sorted(one.after.trouble for one in found) or any(
        one.others < 0 for one in found
    )
    assert remedies(project, TAG, "s3") == []


def test_a_pin_in_the_way_is_freed_by_a_remedy() -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    pinned = pin_and_plan(project, TAG, "s1", Pin(3_000_000))
    best = remedies(pinned, TAG, "s1")[0]
    assert best.help is Help.FREE
    freed = change_and_plan(pinned, TAG, "s1", best.edit)
    assert placed(freed).start_us == placed(project).start_us


def test_a_line_is_looked_into() -> None:
    project = troubled()
    found = explained(project, TAG, "s1")
    codes = [one.code for one in found.findings]
    assert "well-if-shorter" in codes
    assert "bound-by-the-one-behind" in codes
    assert found.remedies
    well = explained(project, TAG, "s3")
    assert (well.findings, well.remedies) == ((), ())


def test_a_whole_fit_in_figures() -> None:
    project = troubled()
    found = fit_summary(project, TAG)
    assert found.segment_ids == ("s1", "s2", "s3")
    assert found.worst()[0] == 0
    whole, figures = found.figures(), found.figures(found.of_speaker("p1"))
    assert whole == figures
    assert whole.lines == 3
    assert 0 < whole.comfort < 1
    assert found.figures(np.zeros(0, dtype=np.int64)).lines == 0


def test_lines_keep_to_their_shots_unless_they_must_not() -> None:
    rows = [(1.0, 2.0, "One."), (8.0, 9.0, "Two.")]
    free = fitted(rows, [1.45, 1.0])
    end = placed(free).start_us + placed(free).length_us
    assert end > 2_150_000

    def with_cut(*cuts: int) -> Project:
        assert free.programme is not None
        cut = replace(free, programme=replace(free.programme, cuts_us=cuts))
        return put_placements(cut, TAG, planned(cut, TAG, taken_lines(cut, TAG)))

    kept = with_cut(2_050_000)
    assert placed(kept).start_us + placed(kept).length_us < end - 20_000
    assert placed(kept).start_us + placed(kept).length_us <= 2_050_000 + 121_000 or placed(kept).tempo > 1.29
    crossed = with_cut(1_500_000)
    assert placed(crossed).length_us == placed(free).length_us, "the original crosses it too"
    assert placed(with_cut(60_000_000)).length_us == placed(free).length_us


def test_a_moment_of_a_take_is_heard_phrase_by_phrase() -> None:
    take = Take("t", "s", TakeKind.SYNTHESIZED, "", "", 96_000, 0, 96_000, "")
    whole = Placement("s", "t", 1_000_000, 4_000_000, 0.5, (), "")
    assert [placed_us(whole, take, at) for at in (0, 1_000_000, 2_000_000)] == [1_000_000, 3_000_000, 5_000_000]
    assert edges_of(whole, take) == [(0, 1_000_000), (2_000_000, 5_000_000)]


def test_a_line_as_a_whole_is_what_the_plan_had_before_phrases() -> None:
    project = fitted(ROWS, [3.0, 2.0, 2.0])
    one = by_line(project, TAG, "s1")
    assert one is not None
    assert not one.phrases
    held = hold(project, 3, 3_000_000)
    assert held.versions[TAG].lines["s1"].word_pins == (WordPin(3, 3_000_000, ("w2", "w3", "w4")),)


def test_a_line_made_long_by_hand_is_heard_at_once_with_nobody_unsaid() -> None:
    """The originals do not overlap; so neither may the takes, however slow a hand makes one of them."""
    rows = [(0.5, 2.5, "One two three four five."), (3.0, 5.0, "Six seven eight nine ten.")]
    project = fitted(rows, [2.0, 2.0])
    slow = change_and_plan(project, TAG, "s1", lambda now: put_line_as(now, TAG, "s1", pin=Pin(500_000, 4_000_000)))
    first, second = placed(slow), placed(slow, "s2")
    assert first.length_us == 4_000_000
    over_us = first.start_us + first.length_us - second.start_us
    assert over_us > 500_000
    assert first.clash_us == pytest.approx(over_us, abs=150_000)
    assert "clashes" in [one.code for one in first.why]
    assert does_not_fit(first)


def test_words_behind_the_end_of_the_programme_are_said() -> None:
    project = fitted([(0.5, 2.5, "One two three four five."), (3.0, 5.0, "Six.")], [2.0, 0.9])
    assert project.programme is not None
    end_us = project.programme.sound.duration_us
    pin = Pin(end_us - 270_000)
    after = change_and_plan(project, TAG, "s2", lambda now: put_line_as(now, TAG, "s2", pin=pin))
    last = placed(after, "s2")
    behind = behind_end_us(last, project.programme)
    assert behind > 100_000
    (said,) = [one for one in last.why if one.code == "behind-end"]
    assert said.figures["by_s"] == pytest.approx(behind / SECOND_US, abs=0.01)
    assert does_not_fit(last)
    assert not does_not_fit(placed(project, "s2"))
