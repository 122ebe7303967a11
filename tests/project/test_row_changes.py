"""Rows that know by what they differ: never less than what does, whatever edits made them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweistimme.project.model import Take, TakeKind, Version
from zweistimme.project.row_changes import Rows, changed_keys, with_rows
from zweistimme.project.segment_takes import forget_takes, takes_of

KEYS = st.sampled_from("abcdefgh")
STEPS = st.lists(st.tuples(st.dictionaries(KEYS, st.integers(0, 3), max_size=3), st.sets(KEYS, max_size=2)), max_size=6)


@given(st.dictionaries(KEYS, st.integers(0, 3)), STEPS, st.booleans())
def test_what_differs_is_always_among_what_is_said_to(
    begun: dict[str, int], steps: list[tuple[dict[str, int], set[str]]], all_kept: bool
) -> None:
    first = last = Rows(begun)
    states = [first]
    for put, gone in steps:
        expected = {key: value for key, value in last.items() if key not in gone or key in put} | put
        last = with_rows(last, put, gone)
        assert last == expected
        if all_kept:  # else as where an edit is made in several steps, of which nobody keeps those between
            states.append(last)
    keys = changed_keys(first, last)
    assert keys is not None or len(steps) > 1
    if keys is not None:
        assert {key for key in {*first, *last} if first.get(key) != last.get(key)} <= set(keys)
        assert len(keys) == len(set(keys))


def test_two_steps_of_one_edit_are_known_though_nobody_keeps_the_first() -> None:
    before = Rows({str(k): k for k in range(10)})
    after = with_rows(with_rows(before, {"3": 0}), {"new": 1}, ["7"])
    assert changed_keys(before, after) == ("3", "new", "7")
    assert changed_keys(before, with_rows(before, {"1": 2}, ["1", "9", "9"])) == ("1", "9")
    empty = Rows[int]({})
    assert changed_keys(empty, with_rows(with_rows(empty, {"a": 1}), {"b": 2})) == ("a", "b")
    assert changed_keys(after, before) is None
    assert changed_keys(before, Rows(after)) is None
    assert changed_keys({"a": 1}, with_rows({"a": 1}, {"b": 2})) is None


def test_where_much_differs_nothing_is_known() -> None:
    before = Rows({str(k): k for k in range(1_000)})
    assert changed_keys(before, with_rows(before, {str(k): -1 for k in range(500)})) is None


def test_rows_are_not_changed_once_they_are_made() -> None:
    rows = Rows({"a": 1})
    for change in (
        lambda: rows.__setitem__("a", 2),
        lambda: rows.__delitem__("a"),
        lambda: rows.update(a=2),
        lambda: rows.pop("a"),
        rows.popitem,
        rows.clear,
        lambda: rows.setdefault("b", 1),
        lambda: rows.__ior__({"b": 1}),
    ):
        with pytest.raises(TypeError, match="not changed"):
            change()
    assert rows == {"a": 1}


def _take(key: str, segment_id: str) -> Take:
    return Take(key, segment_id, TakeKind.SYNTHESIZED, "", key, 9, 0, 9, "")


@given(
    st.lists(st.tuples(st.sampled_from("pqr"), st.sampled_from("abcdef"), st.booleans()), max_size=12), st.booleans()
)
def test_the_takes_of_segments_are_those_that_a_look_through_all_finds(
    edits: list[tuple[str, str, bool]], elsewhere: bool
) -> None:
    forget_takes()
    takes = Rows({key: _take(key, "p") for key in "abc"})
    for segment_id, key, gone in edits:
        takes = with_rows(takes, {} if gone else {key: _take(key, segment_id)}, [key] if gone else [])
        if elsewhere:  # another project with the same languages
            takes_of(Version("de-DE", takes={"x": _take("x", "p")}), ("p",))
        for asked in ({"p"}, {"q", "r"}, {"p", "q", "r"}):
            found = takes_of(Version("de-DE", takes=takes), asked)
            wanted = [take for take in takes.values() if take.segment_id in asked]
            assert sorted(found, key=lambda take: take.id) == sorted(wanted, key=lambda take: take.id)
