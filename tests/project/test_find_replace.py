"""Find and replace."""

from __future__ import annotations

import pytest

from helpers import project_with
from zweistimme.project.errors import EditError
from zweistimme.project.facts import line_is_stale
from zweistimme.project.find_replace import ORIGINAL, Search, found, replace_found
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.transcript import set_segment_text

ROWS = [(0, 2, "The clock has a clockmaker."), (3, 4, "CLOCK!"), (5, 6, "No hour here.")]


def test_what_is_found_is_shown_before_it_is_replaced() -> None:
    project = set_line_text(project_with(ROWS), "de-DE", "s1", "Die clock.")
    hits = found(project, Search("clock", "bell", places=(ORIGINAL, "de-DE")))
    assert [(h.tag, h.segment_id, h.after) for h in hits] == [
        ("", "s1", "The bell has a bellmaker."),
        ("de-DE", "s1", "Die bell."),
        ("", "s2", "bell!"),
    ]
    assert [hits[0].before[a:b] for a, b in hits[0].spans] == ["clock", "clock"]


def test_case_and_whole_words_narrow_the_search() -> None:
    project = project_with(ROWS)
    assert [h.after for h in found(project, Search("clock", "x", same_case=True, whole_words=True))] == [
        "The x has a clockmaker."
    ]
    assert found(project, Search("  ")) == []
    assert [h.segment_id for h in found(project, Search("no   hour"))] == ["s3"]
    assert found(project, Search("c.ock")) == []


def test_replacing_keeps_times_and_makes_stale_only_what_it_touched() -> None:
    project = project_with(ROWS)
    hits = found(project, Search("clock", r"\1 bell", whole_words=True))
    after = replace_found(project, hits[:1])
    assert after.segments[0].text == r"The \1 bell has a clockmaker."
    assert after.segments[0].words[-1] == project.segments[0].words[-1]
    assert after.segments[1] is project.segments[1]
    lines = after.versions["de-DE"].lines
    assert [line_is_stale(s, lines[s.id]) for s in after.segments] == [True, False, False]


def test_a_text_that_has_changed_since_is_left_alone() -> None:
    project = project_with(ROWS)
    hits = found(project, Search("clock", "bell"))
    moved = set_segment_text(project, "s2", "Clock, clock!")
    with pytest.raises(EditError, match="changed since"):
        replace_found(moved, hits)
