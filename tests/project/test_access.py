"""What edits are made of, against the same said plainly."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import project_with
from zweistimme.project.access import (
    changed_middle,
    find_segment,
    find_segments,
    in_order,
    new_segment_id,
    put_segments,
    without_keys,
)
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Segment, Take, TakeKind, Version
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.speaker_edits import add_somebody, unused_name

STARTS = st.lists(st.integers(0, 40), max_size=90)


def segments_at(starts: list[int]) -> tuple[Segment, ...]:
    made = (Segment(f"s{k:03d}", "p1", start, start + 1, "") for k, start in enumerate(starts))
    return in_order(made)


@given(STARTS, STARTS, STARTS, STARTS)
def test_the_changed_middle_is_as_short_as_can_be(
    head: list[int], was: list[int], now: list[int], tail: list[int]
) -> None:
    start, end = segments_at(head), segments_at(tail)
    old, new = segments_at(was), segments_at(now)
    before, after = (*start, *old, *end), (*start, *new, *end)
    first, last, other = changed_middle(before, after)
    assert before[:first] == after[:first]
    assert before[last:] == after[other:]
    assert len(before) - last == len(after) - other
    assert first <= min(last, other)
    if last > first and other > first:
        assert before[first] is not after[first]
        assert before[last - 1] is not after[other - 1]
    assert first >= len(start)
    assert len(before) - last >= len(end) or len(before) == len(after) == first


@given(STARTS, st.lists(st.tuples(st.integers(0, 120), st.integers(0, 40)), max_size=80), st.sets(st.integers(0, 90)))
def test_segments_are_put_where_they_belong(starts: list[int], moved: list[tuple[int, int]], away: set[int]) -> None:
    before = Project("x", "en-GB", segments=segments_at(starts))
    changed = {f"s{k:03d}": Segment(f"s{k:03d}", "p1", at, at + 5, "moved") for k, at in moved}
    gone = {f"s{k:03d}" for k in away} - changed.keys()
    after = put_segments(before, changed.values(), gone)
    wanted = [s for s in before.segments if s.id not in gone and s.id not in changed]
    assert after.segments == in_order([*wanted, *changed.values()])
    assert {id(s) for s in wanted} <= {id(s) for s in after.segments}, "what stays is the same object"


@given(STARTS, st.sets(st.integers(0, 95)))
def test_segments_are_found_in_order_or_named(starts: list[int], wanted: set[int]) -> None:
    project = Project("x", "en-GB", segments=segments_at(starts))
    ids = {f"s{k:03d}" for k in wanted}
    there = {s.id for s in project.segments}
    if ids <= there:
        assert find_segments(project, ids) == [s for s in project.segments if s.id in ids]
        assert [find_segment(project, key).id for key in sorted(ids)] == sorted(ids)
    else:
        with pytest.raises(EditError, match=min(ids - there)):
            find_segments(project, ids)
        with pytest.raises(EditError, match="There is no segment"):
            find_segment(project, min(ids - there))
    assert new_segment_id(project) not in there


def test_takes_of_several_segments_come_in_the_order_they_were_made() -> None:
    made = [Take(f"t{k}", f"s{k % 3}", TakeKind.SYNTHESIZED, "", f"clip{k}", 9, 0, 9, "") for k in range(9)]
    version = Version("de-DE", takes={take.id: take for take in made})
    assert [take.id for take in takes_of(version, ("s1",))] == ["t1", "t4", "t7"]
    assert [take.id for take in takes_of(version, {"s0", "s2"})] == ["t0", "t2", "t3", "t5", "t6", "t8"]
    assert takes_of(version, ()) == []


def test_keys_that_are_not_there_are_no_matter() -> None:
    mapping = {"a": 1, "b": 2}
    assert without_keys(mapping, ["b", "c"]) == {"a": 1}
    assert mapping == {"a": 1, "b": 2}, "a copy"


def test_names_never_run_out() -> None:
    project = replace(project_with([(0, 1, "One.")]), speakers={}, segments=())
    for _ in range(60):
        project = add_somebody(project)
    names = [one.name for one in project.speakers.values()]
    assert names[:2] == ["Speaker A", "Speaker B"]
    assert names[25:27] == ["Speaker Z", "Speaker 27"]
    assert len(set(names)) == 60
    assert unused_name(set(names) - {"Speaker C"}) == "Speaker C"
