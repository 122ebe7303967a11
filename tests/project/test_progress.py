"""How far each step is, worked out anew only where something changed: the same as from the beginning."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import project_with
from zweistimme.project import progress as module
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.delivery_edits import set_mix
from zweistimme.project.edits import add_version, set_version_style
from zweistimme.project.errors import EditError
from zweistimme.project.line_edits import put_translation, set_line_text
from zweistimme.project.mix_settings import MixSettings
from zweistimme.project.model import Preference, Project, Style
from zweistimme.project.progress import Mark, Step, marks_of, progress
from zweistimme.project.reshape import merge_segments, split_segment
from zweistimme.project.speaker_edits import assign_speaker
from zweistimme.project.transcript import delete_segments, insert_segment, nudge, set_segment_text

ROWS = [(2.0 * k, 2.0 * k + 1.5, f"It turns at last, {k}.") for k in range(6)]
TAG = "de-DE"
Edit = Callable[[Project], Project]


def edits_of(project: Project, kind: int, place: int) -> Edit:
    """One of many edits, at one of the segments there are."""
    here = project.segments[place % len(project.segments)]
    following = project.segments[(place + 1) % len(project.segments)]
    return (
        partial(set_segment_text, segment_id=here.id, text="Good." if place % 2 else ""),
        partial(split_segment, segment_id=here.id, at_us=(here.start_us + here.end_us) // 2),
        partial(merge_segments, segment_ids=[here.id, following.id]),
        partial(delete_segments, segment_ids=[here.id] if len(project.segments) > 2 else []),
        partial(nudge, segment_ids=[here.id], end_us=10_000),
        partial(set_line_text, tag=TAG, segment_id=here.id, text=f"Zeile {place}"),
        partial(
            put_translation,
            tag=TAG,
            segment_id=here.id,
            wordings=["Anders."],
            source=here,
            instead_of=project.versions[TAG].lines.get(here.id),
        ),
        partial(cast_voice, tag=TAG, speaker_id="p1", voice="brandt" if place % 2 else None),
        partial(set_version_style, tag=TAG, style=Style.LIP_SYNC, preference=Preference.LIPS),
        partial(assign_speaker, segment_ids=[here.id], speaker_id="p1"),
        partial(insert_segment, start_us=13_000_000, end_us=13_500_000, speaker_id="p1"),
        partial(set_mix, mix=MixSettings(-16.0)),
    )[kind]


@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 9)), min_size=1, max_size=12))
@settings(max_examples=60)
def test_what_is_worked_out_piecemeal_is_what_is_worked_out_at_once(steps: list[tuple[int, int]]) -> None:
    project = add_version(project_with(ROWS, takes=[1.5] * len(ROWS)), "es-ES")
    for kind, place in steps:
        try:
            project = edits_of(project, kind, place)(project)
        except EditError:
            continue
        version = project.versions[TAG]
        piecemeal, marks = progress(project, version), list(marks_of(project, version))
        module._standings.clear()
        module._known.clear()
        assert progress(project, version) == piecemeal
        assert list(marks_of(project, version)) == marks


def test_marks_say_what_is_to_be_done() -> None:
    project = project_with(ROWS[:3], takes=[1.5] * 3)
    project = set_segment_text(project, "s1", "Something else.")
    project = set_line_text(project, TAG, "s2", "Von Hand.")
    project = set_segment_text(project, "s2", "Changed again.")
    project = set_segment_text(project, "s3", "")
    marks = [mark for _, mark in marks_of(project, project.versions[TAG])]
    assert marks[0] & Mark.LINE_STALE
    assert marks[0] & Mark.TO_TRANSLATE
    assert marks[1] & Mark.LINE_STALE
    assert not marks[1] & Mark.TO_TRANSLATE, "a stale line written by hand is left to the hand"
    assert marks[1] & Mark.TO_VOICE
    assert marks[2] == 0
    state = progress(project, project.versions[TAG])
    assert (state[Step.TRANSCRIPT].done, state[Step.TRANSCRIPT].first_open) == (2, "s3")
    assert (state[Step.TRANSLATION].stale, state[Step.TRANSLATION].first_open) == (2, "s1")
