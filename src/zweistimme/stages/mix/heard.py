"""A version as it is heard at the desk: the very lanes of its mix, apart, readable at any place.

Stems of five channels: the dub; what lies under it, left and right; the original as it was, left and right. With the
gain that brings the mix to its loudness; the original is brought there too, so that before and after are as loud.
Added and limited, dub and what is under it are the mix that is handed over.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Project
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Sound, amplitude
from zweistimme.stages.mix.gain import keep_gain, known_gain, mix_fingerprint
from zweistimme.stages.mix.lanes import DubLane, UnderLane, is_rest, placed_takes, under_lane
from zweistimme.stages.mix.levels import GAIN_DIGITS, known_gains, measured_tracks, original_lufs
from zweistimme.stages.mix.measure import measured_mix
from zweistimme.stages.mix.opening import opened_mix
from zweistimme.stages.work import Work, working_file
from zweistimme.store.clips import ClipStore

LANES: Final[Mapping[str, slice]] = {"Original": slice(3, 5), "Bed": slice(1, 3), "Dub": slice(0, 1)}
"""Which channels of the stems a lane is."""
CHANNELS: Final = 5
_MOST_ORIGINAL_DB: Final = 20.0


@dataclass(frozen=True, slots=True)
class HeardMix:
    """The lanes of one version. *levels_known* says whether all takes were measured, *gain_fits* whether the gain is
    the one this mix was measured to need; otherwise they are guessed for now."""

    lanes: Mapping[str, Callable[[int, int], Sound]]
    length: int
    ceiling_dbtp: float
    levels_known: bool = True
    gain_fits: bool = True
    readers: tuple[SoundReader, ...] = ()

    def read(self, start: int, count: int) -> Sound:
        """Stems of *count* samples from *start*, shape ``(5, count)``; silence beyond the end."""
        stems = np.zeros((CHANNELS, count), dtype=np.float32)
        there = max(0, min(count, self.length - start))
        if there:
            for name, read in self.lanes.items():
                with suppress(ZweistimmeError):  # a clip is gone, and its line says so
                    stems[LANES[name], :there] = read(start, there)
        return stems

    def close(self) -> None:
        """Close the files."""
        for reader in self.readers:
            reader.close()


def heard_mix(project: Project, tag: str, clips: ClipStore, cache: Path) -> HeardMix:
    """Open what is there of a version to be heard, as loud as it was measured last; nothing is measured here."""
    programme, version = project.programme, project.versions.get(tag)
    readers: list[SoundReader] = []

    def opened(track: SoundTrack) -> SoundReader:
        readers.append(SoundReader(working_file(cache, track)))
        return readers[-1]

    lanes: dict[str, Callable[[int, int], Sound]] = {}
    levels_known = gain_fits = True
    as_original_db = _original_gain_db(project, cache)
    takes = placed_takes(project, version) if version else []
    there = programme is not None and working_file(cache, programme.sound).is_file()
    if programme is not None and there:
        rest = UnderLane(opened(programme.bed), None, 0.0) if programme.bed and _has_rest(project, cache) else None
        original = UnderLane(opened(programme.sound), None, 0.0, rest)
        lanes["Original"] = partial(_louder, original.read, as_original_db)
    if version is not None and takes:
        gains, levels_known = known_gains(project, tag, takes, cache)
        known = known_gain(cache, tag)
        # takes are as loud as people were in the original, so their mix is nearly as loud as it
        gain_db = round(known.gain_db, GAIN_DIGITS) if known else as_original_db
        gain_fits = known is not None and known.mix == mix_fingerprint(project, tag)
        dub = DubLane(takes, clips, cache, gains)
        lanes["Dub"] = partial(_louder, lambda start, count: dub.read(start, count)[None], gain_db)
        if programme is not None and there and (programme.bed is None or _has_bed(project, cache)):
            lanes["Bed"] = partial(_louder, under_lane(project, version, takes, opened).read, gain_db)
    elif programme is not None and programme.bed is not None and _has_bed(project, cache):
        lanes["Bed"] = partial(_louder, UnderLane(opened(programme.bed), None, project.mix.bed_db).read, as_original_db)
    ends = [us_to_samples(programme.sound.duration_us)] if programme else [item.start + item.length for item in takes]
    length = max(ends, default=0)
    return HeardMix(lanes, length, project.mix.true_peak_dbtp, levels_known, gain_fits, tuple(readers))


def measure_heard(work: Work, tag: str, *, whole: bool = True) -> None:
    """Measure how loud the takes of a version are, and, if wanted, the *whole* mix; kept for ``heard_mix``."""
    settings = work.project.mix
    measured_tracks(work)
    with ExitStack() as stack:
        lanes, _ = opened_mix(work, tag, stack)
        if whole:
            measure = measured_mix(lanes.blocks(work.part(0.2, 1.0)))
            gain_db = measure.gain_db(settings.loudness_lufs, settings.true_peak_dbtp)
            keep_gain(work.cache, work.project, tag, gain_db)


def _louder(read: Callable[[int, int], Sound], gain_db: float, start: int, count: int) -> Sound:
    sound = read(start, count)
    return sound if gain_db == 0.0 else sound * np.float32(amplitude(gain_db))


def _original_gain_db(project: Project, cache: Path) -> float:
    """As loud as the mix will be, where it is known how loud it is."""
    lufs = original_lufs(cache, project.programme.sound) if project.programme else None
    if lufs is None or not np.isfinite(lufs):
        return 0.0
    return min(project.mix.loudness_lufs - lufs, _MOST_ORIGINAL_DB)


def _has_bed(project: Project, cache: Path) -> bool:
    programme = project.programme
    return programme is not None and programme.bed is not None and working_file(cache, programme.bed).is_file()


def _has_rest(project: Project, cache: Path) -> bool:
    return is_rest(project) and _has_bed(project, cache)
