"""A version as it is heard at the desk: the very lanes of its mix, apart, readable at any place.

Stems of six channels, two to a lane: the dub with its room; what lies under it; the original as it was. With the gain
that brings the mix to its loudness; the original is brought there too, so that before and after are as loud.
Added and limited, dub and what is under it are the mix that is handed over, in the preset that is heard.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Project, Version
from zweistimme.project.picks import is_bed_the_rest
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.sound_delivery import Channels, SoundPreset
from zweistimme.project.times import us_to_samples
from zweistimme.sound.arrays import Mono, Sound, amplitude
from zweistimme.stages.mix.beneath import UnderLane, known_tone, under_lane, wants_tone
from zweistimme.stages.mix.gain import HOUSE, keep_gains, known_gains, mix_fingerprint, presets_for
from zweistimme.stages.mix.lanes import DubLane
from zweistimme.stages.mix.measure import measured_mix
from zweistimme.stages.mix.mix_picture import PictureMeter, keep_picture
from zweistimme.stages.mix.opening import MixBlock, opened_mix
from zweistimme.stages.mix.placed import PlacedTake, placed_takes
from zweistimme.stages.mix.sitting import GAIN_DIGITS, known_sitting
from zweistimme.stages.mix.track_levels import measured_tracks, original_lufs
from zweistimme.stages.work import Work, working_file
from zweistimme.store.clips import ClipStore

LANES: Final[Mapping[str, slice]] = {"Original": slice(4, 6), "Bed": slice(2, 4), "Dub": slice(0, 2)}
"""Which channels of the stems a lane is."""
CHANNELS: Final = 6
_MOST_ORIGINAL_DB: Final = 20.0


@dataclass(frozen=True, slots=True)
class Listening:
    """How a version is listened to: in which preset, which people of the dub (None: all), whether with its room, and
    whether its voices are treated or as they were spoken."""

    preset: str = HOUSE
    people: frozenset[str] | None = None
    room: bool = True
    treated: bool = True


AS_HANDED_OVER: Final = Listening()


@dataclass(frozen=True, slots=True)
class HeardMix:
    """The lanes of one version. *levels_known* says whether all takes were measured, *gain_fits* whether the gain is
    the one this mix was measured to need; otherwise they are guessed for now. *mono*: both sides are heard alike."""

    lanes: Mapping[str, Callable[[int, int], Sound]]
    length: int
    ceiling_dbtp: float
    levels_known: bool = True
    gain_fits: bool = True
    readers: tuple[SoundReader, ...] = ()
    mono: bool = False

    def read(self, start: int, count: int) -> Sound:
        """Stems of *count* samples from *start*, shape ``(6, count)``; silence beyond the end."""
        stems = np.zeros((CHANNELS, count), dtype=np.float32)
        there = max(0, min(count, self.length - start))
        if there:
            for name, read in self.lanes.items():
                with suppress(ZweistimmeError):  # a clip is gone, and its line says so
                    stems[LANES[name], :there] = read(start, there)
        if self.mono:
            for channels in LANES.values():
                stems[channels] = stems[channels].mean(axis=0)
        return stems

    def close(self) -> None:
        """Close the files."""
        for reader in self.readers:
            reader.close()


def heard_mix(
    project: Project, tag: str, clips: ClipStore, cache: Path, listening: Listening = AS_HANDED_OVER
) -> HeardMix:
    """Open what is there of a version to be heard, as loud as it was measured last; nothing is measured here."""
    programme, version = project.programme, project.versions.get(tag)
    readers: list[SoundReader] = []

    def opened(track: SoundTrack) -> SoundReader:
        readers.append(SoundReader(working_file(cache, track)))
        return readers[-1]

    preset = _preset(project, version, listening)
    lanes: dict[str, Callable[[int, int], Sound]] = {}
    levels_known = gain_fits = True
    as_original_db = _original_gain_db(project, cache, preset)
    takes = placed_takes(project, version) if version else []
    there = programme is not None and working_file(cache, programme.sound).is_file()
    has_bed = _has_bed(programme, cache)
    if programme is not None and there:
        bed = programme.bed if has_bed and is_bed_the_rest(programme) else None
        original = UnderLane(opened(programme.sound), None, 0.0, UnderLane(opened(bed), None, 0.0) if bed else None)
        lanes["Original"] = partial(_louder, original.read, as_original_db)
    if version is not None and takes:
        gain_db, gain_fits = _gain_db(project, tag, cache, listening, as_original_db)
        sitting = known_sitting(project, tag, takes, cache, untreated=not listening.treated)
        levels_known = sitting.complete or not listening.treated
        dub = DubLane(takes, sitting, clips, cache)
        lanes["Dub"] = partial(_louder, partial(_dub, dub, listening), gain_db)
        if programme is not None and there and (programme.bed is None or has_bed):
            under, tone_known = _under(project, version, takes, opened, cache)
            levels_known = levels_known and tone_known
            lanes["Bed"] = partial(_louder, under.read, gain_db)
    elif programme is not None and programme.bed is not None and has_bed:
        lanes["Bed"] = partial(_louder, UnderLane(opened(programme.bed), None, project.mix.bed_db).read, as_original_db)
    ends = [us_to_samples(programme.sound.duration_us)] if programme else [item.start + item.length for item in takes]
    mono = preset.channels is Channels.MONO
    return HeardMix(lanes, max(ends, default=0), preset.true_peak_dbtp, levels_known, gain_fits, tuple(readers), mono)


def _dub(dub: DubLane, listening: Listening, start: int, count: int) -> Sound:
    voices = dub.read(start, count, listening.people)
    both = np.stack((voices, voices))
    return both + dub.room(start, count, listening.people) if listening.room else both


def _under(
    project: Project,
    version: Version,
    takes: list[PlacedTake],
    opened: Callable[[SoundTrack], SoundReader],
    cache: Path,
) -> tuple[UnderLane, bool]:
    """What lies under the dub, and whether all of it is known."""
    if not wants_tone(project, version):
        return under_lane(project, version, takes, opened), True
    tone, known = known_tone(project, cache)
    return under_lane(project, version, takes, opened, tone), known


def _preset(project: Project, version: Version | None, listening: Listening) -> SoundPreset:
    if version is None:
        return SoundPreset(project.mix.loudness_lufs, project.mix.true_peak_dbtp)
    known = presets_for(project, version)
    return known.get(listening.preset, known[HOUSE])


def _gain_db(
    project: Project, tag: str, cache: Path, listening: Listening, as_original_db: float
) -> tuple[float, bool]:
    """The gain of a version's mix as far as it is known, and whether it is that of this mix. Takes are as loud as
    people were in the original, so their mix is nearly as loud as it."""
    known = known_gains(cache, tag)
    gain_db = known.gains_db.get(listening.preset) if known else None
    fits = known is not None and gain_db is not None and known.mix == mix_fingerprint(project, tag)
    return (as_original_db if gain_db is None else round(gain_db, GAIN_DIGITS)), fits


def measure_heard(work: Work, tag: str, *, whole: bool = True) -> None:
    """Measure how the takes of a version sit, and, if wanted, how loud the *whole* mix is in each of its presets; kept
    for ``heard_mix``."""
    measured_tracks(work)
    with ExitStack() as stack:
        lanes, _ = opened_mix(work, tag, stack)
        if whole:
            presets = presets_for(work.project, work.project.versions[tag])
            layouts = {Channels.STEREO, *(preset.channels for preset in presets.values())}
            meter = PictureMeter()
            measure = measured_mix(_heard_by(meter, lanes.blocks(work.part(0.3, 1.0))), tuple(layouts))
            gains_db = {name: measure.gain_db(preset) for name, preset in presets.items()}
            keep_gains(work.cache, work.project, tag, gains_db)
            keep_picture(work.cache, work.project, tag, meter.result(measure, gains_db))


def _heard_by(meter: PictureMeter, blocks: Iterator[MixBlock]) -> Iterator[tuple[Mono, Sound]]:
    for block in blocks:
        meter.feed(block)
        yield block.dub, block.sides


def _louder(read: Callable[[int, int], Sound], gain_db: float, start: int, count: int) -> Sound:
    sound = read(start, count)
    return sound if gain_db == 0.0 else sound * np.float32(amplitude(gain_db))


def _original_gain_db(project: Project, cache: Path, preset: SoundPreset) -> float:
    """As loud as the mix will be, where it is known how loud it is."""
    lufs = original_lufs(cache, project.programme.sound) if project.programme else None
    if lufs is None or not np.isfinite(lufs):
        return 0.0
    return min(preset.loudness_lufs - lufs, _MOST_ORIGINAL_DB)


def _has_bed(programme: Programme | None, cache: Path) -> bool:
    return programme is not None and programme.bed is not None and working_file(cache, programme.bed).is_file()
