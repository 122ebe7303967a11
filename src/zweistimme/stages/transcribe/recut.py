"""Cutting a long stretch anew: run by run, so that nothing waits for it and it can be stopped."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from zweistimme.project.access import find_segments
from zweistimme.project.reshape import let_go_by_merging, recut, recut_count, speech_runs
from zweistimme.project.segmentation import CutLimits
from zweistimme.stages.work import Work


def recut_stretch(work: Work, segment_ids: Sequence[str], limits: CutLimits) -> None:
    """Cut a stretch into segments anew; runs that would stay as they are are left alone."""
    runs = speech_runs(find_segments(work.project, segment_ids))
    for number, run in enumerate(runs):
        ids = [segment.id for segment in run]
        if recut_count(work.project, ids, limits)[1]:
            for lost in let_go_by_merging(work.project, recut(work.project, ids, limits)):
                work.say(lost)
            work.deliver("Cut anew", partial(recut, segment_ids=ids, limits=limits))
        work.report((number + 1) / len(runs))
