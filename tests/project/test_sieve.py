"""Which lines are looked at."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project import edits, line_edits
from zweistimme.project.model import Project, Speaker
from zweistimme.project.sieve import ALL, ANY_REMARK, Sieve, Standing, kept_by
from zweistimme.project.wordings import LineState

TAG = "fr-FR"


@pytest.fixture
def project() -> Project:
    rows = [(2.0 * k, 2.0 * k + 1.5, f"Line {k}.") for k in range(6)]
    made = edits.add_version(project_with(rows), TAG)
    people = {**made.speakers, "p2": Speaker("p2", "Tom")}
    segments = (*made.segments[:4], *(replace(s, speaker_id="p2") for s in made.segments[4:]))
    made = replace(made, speakers=people, segments=segments)
    for number, state in (
        (1, LineState.TRANSLATED),
        (2, LineState.REVIEWED),
        (3, LineState.FINAL),
        (4, LineState.INITIAL),
    ):
        key = f"s{number}"
        made = line_edits.set_line_text(made, TAG, key, f"Ligne {number}, l’Écluse.")
        made = line_edits.settle(made, TAG, [key], state)
    made = line_edits.set_locked(made, TAG, ["s4"], locked=True)
    return line_edits.set_note(made, TAG, "s2", "Ida", "Is this right?", "")


@pytest.mark.parametrize(("sieve", "wanted"), [
    (Sieve(Standing.MISSING), "s5 s6"), (Sieve(Standing.UNSETTLED), "s4 s5 s6"), (Sieve(Standing.TRANSLATED), "s1"),
    (Sieve(Standing.REVIEWED), "s2"), (Sieve(Standing.FINAL), "s3"), (Sieve(Standing.LOCKED), "s4"),
    (Sieve(Standing.NOTED), "s2"), (Sieve(speaker_id="p2"), "s5 s6"), (Sieve(text="écluse"), "s1 s2 s3 s4"),
    (Sieve(text="RIGHT?"), "s2"), (Sieve(text="line 4"), "s5"), (Sieve(remark=ANY_REMARK), "s1 s3"),
    (Sieve(remark="quotes-open"), "s3"), (Sieve(Standing.UNSETTLED, "p2", "", "line 5"), "s6"),
    (Sieve(Standing.STALE), ""),
])  # fmt: skip
def test_a_sieve_keeps_what_is_all_it_asks_for(project: Project, sieve: Sieve, wanted: str) -> None:
    noticed = {"s1": ["end-missing"], "s3": ["quotes-open", "end-missing"]}
    assert kept_by(sieve, project, TAG, noticed) == frozenset(wanted.split())


def test_what_asks_nothing_keeps_everything_and_a_changed_original_is_found(project: Project) -> None:
    assert kept_by(ALL, project, TAG, {}) is None
    changed = replace(project, segments=(replace(project.segments[0], text="Another."), *project.segments[1:]))
    assert kept_by(Sieve(Standing.STALE), changed, TAG, {}) == {"s1"}
    assert kept_by(Sieve(speaker_id="p2"), replace(project, versions={}), "", {}) == {"s5", "s6"}
