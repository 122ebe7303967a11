"""Find the cuts of a programme's picture, once."""

from __future__ import annotations

from functools import partial

from zweistimme.media.picture_cuts import picture_cuts
from zweistimme.project.edits import set_cuts
from zweistimme.project.errors import MediaError, StoreError
from zweistimme.project.findings import Finding
from zweistimme.stages.work import Work, source_of


def find_cuts(work: Work) -> tuple[int, ...]:
    """When each shot but the first begins; kept with the programme. Nothing where there is no picture, or its file is
    not there, which is said."""
    programme = work.project.programme
    if programme is None or programme.picture is None:
        return ()
    if programme.cuts_us is not None:
        return programme.cuts_us
    try:
        source = source_of(work, programme.sound)
        found = tuple(picture_cuts(source, work.report))
    except (MediaError, StoreError) as error:
        work.say(Finding("no-cuts", {"why": error.finding}))
        return ()
    work.note(partial(set_cuts, cuts_us=found))
    return found
