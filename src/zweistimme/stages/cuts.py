"""Find the cuts of a programme's picture, once; where that was cut short, from there on."""

from __future__ import annotations

from functools import partial
from math import inf
from pathlib import Path

import numpy as np

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.media.picture_cuts import CutsSoFar, picture_cuts
from zweistimme.project.edits import set_cuts
from zweistimme.project.errors import MediaError, StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import Programme
from zweistimme.project.times import SECOND_US
from zweistimme.stages.work import Work, source_of


def cuts_wanted(programme: Programme | None) -> bool:
    """Whether a programme has a picture, and nobody has looked for its cuts."""
    return programme is not None and programme.picture is not None and programme.cuts_us is None


def find_cuts(work: Work) -> None:
    """When each shot but the first begins is kept with the programme. Nothing is where there is no picture; that its
    file is not there is said."""
    programme = work.project.programme
    if programme is None or not cuts_wanted(programme):
        return
    kept = work.cache / f"cuts-{sound_key(programme.sound)}.npy"
    try:
        source = source_of(work, programme.sound)
        length_s = programme.sound.duration_us / SECOND_US
        found = picture_cuts(source, work.report, _begun(kept), partial(_keep, kept), length_s)
        _keep(kept, CutsSoFar(inf, tuple(at_us / SECOND_US for at_us in found)))
    except (MediaError, StoreError) as error:
        work.say(Finding("no-cuts", {"why": error.finding}))
        return
    work.note(partial(set_cuts, sound=programme.sound, cuts_us=tuple(found)))


def _begun(kept: Path) -> CutsSoFar:
    values = kept_array(kept, np.float64)
    return CutsSoFar() if values is None or not values.size else CutsSoFar(float(values[0]), tuple(values[1:].tolist()))


def _keep(kept: Path, so_far: CutsSoFar) -> None:
    written_array(kept, np.array([so_far.until_s, *so_far.cuts_s]))
