"""The fitted clip: a take trimmed, stretched along its time map to its placement, exact to the sample."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.project.errors import StoreError
from zweistimme.project.facts import fingerprint
from zweistimme.project.model import Placement, Project, Take
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono
from zweistimme.sound.stretch import stretch
from zweistimme.sound.timemap import TimeMap, speech_map
from zweistimme.store.clips import ClipStore

_EDGE = 240
"""A fade of 5 ms where silence was trimmed."""


def placed_samples(placement: Placement) -> tuple[int, int]:
    """First sample of a placement and its length in samples; both ends are rounded, so that neither drifts."""
    start = us_to_samples(placement.start_us)
    return start, us_to_samples(placement.start_us + placement.length_us) - start


def placement_map(take: Take, speech: Mono, placement: Placement) -> TimeMap:
    """The time map of a placement, from placed time to the take's trimmed speech."""
    first = take.speech_start_samples
    pauses = [(a - first, b - first) for a, b in take.pauses_samples]
    cut = us_to_samples(abs(placement.pauses_cut_us)) * (1 if placement.pauses_cut_us > 0 else -1)
    return speech_map(speech, placed_samples(placement)[1], pauses=pauses, pauses_cut=cut)


def trimmed(take: Take, clips: ClipStore) -> Mono:
    """The take's speech without its outer silence; a StoreError names the line whose clip cannot be read."""
    try:
        clip = clips.get(take.clip)
    except StoreError as error:
        raise StoreError(
            "{label} of segment {segment_id}: {why}", label=take.label, segment_id=take.segment_id, why=error
        ) from error
    return clip[take.speech_start_samples : take.speech_end_samples]


def fitted_key(take: Take, placement: Placement) -> str:
    """What a fitted clip is known by: all that its sound comes from."""
    return fingerprint(
        "fitted",
        4,
        take.clip,
        take.speech_start_samples,
        take.speech_end_samples,
        placed_samples(placement)[1],
        placement.pauses_cut_us,
        take.pauses_samples,
    )


def _fitted_file(cache: Path, take: Take, placement: Placement) -> Path:
    return cache / "fitted" / f"{fitted_key(take, placement)}.npy"


def prune_fitted(cache: Path, project: Project) -> None:
    """Remove fitted clips that no placement of any version has any more: each length a line once had left one."""
    used = {
        _fitted_file(cache, version.takes[placement.take_id], placement)
        for version in project.versions.values()
        for placement in version.placements.values()
        if placement.take_id in version.takes
    }
    for file in (cache / "fitted").glob("*.npy"):
        if file not in used:
            file.unlink(missing_ok=True)


def fitted_clip(take: Take, placement: Placement, clips: ClipStore, cache: Path) -> Mono:
    """The sound of a placement, shape ``(n,)`` at 48 kHz; made once and kept in *cache*."""
    length = placed_samples(placement)[1]
    file = _fitted_file(cache, take, placement)
    kept = kept_array(file, np.float32)
    if kept is not None and kept.shape == (length,):
        return kept
    speech = trimmed(take, clips)
    fitted = stretch(speech, length, time_map=placement_map(take, speech, placement))
    edge = min(_EDGE, length // 4)
    if edge:
        fade = np.linspace(0, 1, edge, dtype=np.float32)
        fitted[:edge] *= fade
        fitted[-edge:] *= fade[::-1]
    written_array(file, fitted)
    return fitted
