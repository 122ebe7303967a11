"""The fitted clip: a take trimmed, stretched along its time map to its placement, exact to the sample."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.project.errors import StoreError
from zweistimme.project.facts import fingerprint
from zweistimme.project.model import Placement, Project, Take
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.stretch import stretch_all
from zweistimme.sound.timemap import TimeMap, speech_map
from zweistimme.store.clips import ClipStore

_EDGE = 240
"""A fade of 5 ms where silence was trimmed."""


def placed_samples(placement: Placement) -> tuple[int, int]:
    """First sample of a placement and its length in samples; both ends are rounded, so that neither drifts."""
    start = us_to_samples(placement.start_us)
    return start, us_to_samples(placement.start_us + placement.length_us) - start


def placement_map(take: Take, speech: Mono, placement: Placement) -> TimeMap:
    """The time map of a placement, from placed time to the take's trimmed speech: of the whole, or of phrase after
    phrase with what lies between them."""
    first, total = take.speech_start_samples, placed_samples(placement)[1]
    pauses = [(a - first, b - first) for a, b in take.pauses_samples]
    if not placement.phrases:
        return speech_map(speech, total, pauses=pauses, pauses_cut=_signed_samples(placement.pauses_cut_us))
    result: list[Floats] = [np.zeros(1)]
    source: list[Floats] = [np.zeros(1)]
    origin = us_to_samples(placement.start_us)
    for number, one in enumerate(placement.phrases):
        a, b = one.take_start_samples - first, one.take_end_samples - first
        start = us_to_samples(one.start_us) - origin
        end = us_to_samples(one.start_us + one.length_us) - origin
        end = total if number == len(placement.phrases) - 1 else end
        inside = [(max(p, a) - a, min(q, b) - a) for p, q in pauses if a < p and q < b]
        cut = _signed_samples(one.pauses_cut_us)
        part = speech_map(speech[a:b], max(1, end - start), pauses=inside, pauses_cut=cut)
        result.append(part.result + start)
        source.append(part.source + a)
    knots, places = np.concatenate(result[1:]), np.concatenate(source[1:])
    rising = np.concatenate(([True], (np.diff(knots) > 0) & (np.diff(places) > 0)))
    return TimeMap(knots[rising], places[rising])


def _signed_samples(time_us: int) -> int:
    return us_to_samples(abs(time_us)) * (1 if time_us > 0 else -1)


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
        *(
            (
                one.start_us - placement.start_us,
                one.length_us,
                one.take_start_samples,
                one.take_end_samples,
                one.pauses_cut_us,
            )
            for one in placement.phrases
        ),
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
    return fitted_clips([(take, placement)], clips, cache)[0]


def fitted_clips(placed: Sequence[tuple[Take, Placement]], clips: ClipStore, cache: Path) -> list[Mono]:
    """The sounds of several placements; those that are not there yet are made together, which is quicker."""
    files = [_fitted_file(cache, *item) for item in placed]
    found = [_kept(file, item[1]) for file, item in zip(files, placed, strict=True)]
    missing = [number for number, sound in enumerate(found) if sound is None]
    speech = [trimmed(placed[number][0], clips) for number in missing]
    wanted = [
        (sound[None], placed_samples(placed[number][1])[1], placement_map(placed[number][0], sound, placed[number][1]))
        for number, sound in zip(missing, speech, strict=True)
    ]
    for number, sound in zip(missing, stretch_all(wanted), strict=True):
        found[number] = fitted = _faded(sound[0])
        written_array(files[number], fitted)
    return [sound for sound in found if sound is not None]


def _kept(file: Path, placement: Placement) -> Mono | None:
    kept = kept_array(file, np.float32)
    return kept if kept is not None and kept.shape == (placed_samples(placement)[1],) else None


def _faded(fitted: Mono) -> Mono:
    """A sound with its trimmed edges faded."""
    edge = min(_EDGE, len(fitted) // 4)
    if edge:
        fade = np.linspace(0, 1, edge, dtype=np.float32)
        fitted[:edge] *= fade
        fitted[-edge:] *= fade[::-1]
    return fitted
