"""A new transcript in place of one that is there."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from helpers import project_with
from zweistimme.project.facts import line_is_stale
from zweistimme.project.model import Segment, Speaker
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.speaker_edits import add_speaker

TAG = "de-DE"
ROWS = [(1.0, 3.0, "The sea is high."), (4.0, 5.0, "Is it?"), (6.0, 8.0, "It is.")]


def given_rows(*rows: tuple[float, float, str], who: str = "p1") -> list[Segment]:
    return [Segment(f"s{k:04d}", who, round(a * 1e6), round(b * 1e6), text) for k, (a, b, text) in enumerate(rows, 1)]


def test_what_lies_where_something_lay_keeps_its_line_and_everything_else_is_new() -> None:
    project = project_with(ROWS, takes=[2, 1, 2])
    new = given_rows((0.1, 0.8, "Listen."), (1.1, 3.1, "The sea is high."), (6.0, 8.1, "It was."), (9, 10, "Good."))
    after = replace_transcript(project, [Speaker("p1", "Ada")], new)
    assert [s.id for s in after.segments] == ["s0004", "s1", "s3", "s0005"]
    version = after.versions[TAG]
    assert set(version.lines) == {"s1", "s3"}
    assert {t.segment_id for t in version.takes.values()} == {"s1", "s3"}
    stale = {s.id: line_is_stale(s, version.lines[s.id]) for s in after.segments if s.id in version.lines}
    assert stale == {"s1": False, "s3": True}


def test_a_speaker_with_a_known_name_is_that_person_and_nobody_takes_anothers_voice() -> None:
    project = add_speaker(project_with(ROWS), "Ben")
    new = [replace(s, speaker_id="p2" if s.text == "Is it?" else "p1") for s in given_rows(*ROWS)]
    after = replace_transcript(project, [Speaker("p1", "Cleo"), Speaker("p2", "Ada")], new)
    names = [after.speakers[s.speaker_id].name for s in after.segments]
    assert names == ["Cleo", "Ada", "Cleo"]
    assert after.speakers["p1"].name == "Ada"
    assert after.versions[TAG].cast == {"p1": "alva"}, "Cleo has no voice yet"


@given(st.lists(st.tuples(st.integers(0, 90), st.integers(1, 30)), max_size=8))
def test_ids_are_never_given_twice(spans: list[tuple[int, int]]) -> None:
    project = project_with(ROWS)
    new = [Segment(f"s{k}", "p1", a * 100_000, (a + d) * 100_000, "x") for k, (a, d) in enumerate(spans)]
    after = replace_transcript(project, [Speaker("p1", "Ada")], new)
    assert len({s.id for s in after.segments}) == len(new)
    kept = {s.id for s in after.segments} & {"s1", "s2", "s3"}
    assert set(after.versions[TAG].lines) == kept
