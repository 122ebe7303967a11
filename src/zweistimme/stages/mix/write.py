"""Two passes: how loud the mix would be; then the mix at its loudness, its true peak held, written and measured."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass, replace
from math import isfinite, log10
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.encode import write_wav
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Style
from zweistimme.project.times import clock, us_to_samples
from zweistimme.sound.arrays import Sound, amplitude
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import EnergyMeter, Loudness, LoudnessMeter, gated_energy
from zweistimme.stages.mix.lanes import DubLane, PlacedTake, UnderLane, blocks_of, placed_takes, under_curve
from zweistimme.stages.mix.levels import is_rest, measured_gains
from zweistimme.stages.work import Report, Work, open_sound

_CLOSE_ENOUGH_LU: Final = 0.1
_PASSES: Final = 4
_MOST_LIMITING_DB: Final = 8.0
"""How far a mix may be pushed beyond its true peak into the limiter; more would be heard."""


@dataclass(frozen=True, slots=True)
class MixFiles:
    """What was written, and how it measured while it was written."""

    mix: Path
    voice: Path
    loudness: Loudness


@dataclass(frozen=True, slots=True)
class _Lanes:
    dub: DubLane
    under: UnderLane
    length: int


def write_mix(work: Work, tag: str, mix_path: Path, voice_path: Path) -> MixFiles:
    """Write the mix and the voice stem of a version as 48 kHz, 24-bit WAV."""
    settings = work.project.mix
    with ExitStack() as stack:
        lanes = _opened(work, tag, stack)
        before = _measured(lanes, work.part(0.2, 0.4))
        wanted = settings.loudness_lufs - before.integrated_lufs if isfinite(before.integrated_lufs) else 0.0
        most = settings.true_peak_dbtp - before.true_peak_dbtp + _MOST_LIMITING_DB
        gain_db = min(wanted, most)
        for attempt in range(_PASSES):
            meter = LoudnessMeter(2)
            blocks = _finished(lanes, gain_db, settings.true_peak_dbtp, meter, work.part(0.4, 0.85))
            write_wav(mix_path, blocks, 2, lanes.length)
            loudness = meter.result()
            miss = settings.loudness_lufs - loudness.integrated_lufs
            if not isfinite(miss) or abs(miss) <= _CLOSE_ENOUGH_LU or attempt == _PASSES - 1:
                break
            if gain_db >= most and miss > 0:
                break
            gain_db = min(gain_db + miss, most)
        write_wav(voice_path, _stem(lanes, gain_db, settings.true_peak_dbtp, work.part(0.85, 1.0)), 1, lanes.length)
    if isfinite(miss) and abs(miss) > 0.5:
        work.say(
            Finding(
                "loudness-not-reached",
                {
                    "version": tag,
                    "loudness_lufs": loudness.integrated_lufs,
                    "wanted_lufs": settings.loudness_lufs,
                    "peak_dbtp": settings.true_peak_dbtp,
                },
            )
        )
    return MixFiles(mix_path, voice_path, loudness)


def _opened(work: Work, tag: str, stack: ExitStack) -> _Lanes:
    project, version = work.project, find_version(work.project, tag)
    programme = project.programme
    if programme is None:
        raise MediaError("There is no programme to mix for. Bring one in first.")
    takes = placed_takes(project, version)
    if not takes:
        raise EngineError("{tag} has no placements to mix yet. Fit it first.", tag=tag)
    original = stack.enter_context(open_sound(work, programme.sound))
    length = us_to_samples(programme.sound.duration_us)
    use_bed = programme.bed is not None and version.style is not Style.VOICE_OVER
    source = stack.enter_context(open_sound(work, programme.bed)) if use_bed and programme.bed else original
    curve = under_curve(project, version, takes, is_bed=use_bed)
    rest = None
    if not use_bed and programme.bed is not None and is_rest(project):
        rest = UnderLane(stack.enter_context(open_sound(work, programme.bed)), None, project.mix.bed_db)
    under = UnderLane(source, curve, project.mix.bed_db if use_bed else 0.0, rest)
    gains = measured_gains(replace(work, report=work.part(0.0, 0.2)), tag, takes)
    lanes = _Lanes(DubLane(takes, work.clips, work.cache, gains), under, length)
    _say_what_is_drowned(work, tag, lanes, takes)
    return lanes


def _say_what_is_drowned(work: Work, tag: str, lanes: _Lanes, takes: list[PlacedTake]) -> None:
    """Say which lines are softer than what lies under them, as they may be where the original was."""
    drowned = []
    for item in takes:
        meters = EnergyMeter(1), EnergyMeter(2)
        meters[0].feed(lanes.dub.read(item.start, item.length)[None, :])
        meters[1].feed(lanes.under.read(item.start, item.length))
        dub, under = 2 * gated_energy(meters[0].energies()), float(np.mean(meters[1].energies()))
        if 0 < dub < under:
            drowned.append((item, 10 * log10(under / dub)))
    if drowned:
        places = ", ".join(f"{clock(item.placement.start_us)} ({db:.0f} dB)" for item, db in drowned[:3])
        work.say(
            Finding(
                "lines-drowned",
                {"lines": len(drowned), "version": tag, "places": places, "more": " …" if len(drowned) > 3 else ""},
            )
        )


def _mixed(lanes: _Lanes) -> Iterator[Sound]:
    for start, count in blocks_of(lanes.length):
        voice = lanes.dub.read(start, count)
        yield lanes.under.read(start, count) + voice[None, :]


def _measured(lanes: _Lanes, report: Report) -> Loudness:
    meter = LoudnessMeter(2)
    done = 0
    for block in _mixed(lanes):
        meter.feed(block)
        done += block.shape[1]
        report(done / lanes.length)
    return meter.result()


def _finished(lanes: _Lanes, gain_db: float, ceiling: float, meter: LoudnessMeter, report: Report) -> Iterator[Sound]:
    gain = np.float32(amplitude(gain_db))
    limiter = TruePeakLimiter(2, ceiling)
    done = 0
    for block in _mixed(lanes):
        ready = limiter.feed(block * gain)
        meter.feed(ready)
        done += block.shape[1]
        report(done / lanes.length)
        yield ready
    last = limiter.finish()
    meter.feed(last)
    yield last


def _stem(lanes: _Lanes, gain_db: float, ceiling: float, report: Report) -> Iterator[Sound]:
    """The dub alone, as loud as it is in the mix."""
    gain = np.float32(amplitude(gain_db))
    limiter = TruePeakLimiter(1, ceiling)
    for start, count in blocks_of(lanes.length):
        yield limiter.feed(lanes.dub.read(start, count)[None, :] * gain)
        report((start + count) / lanes.length)
    yield limiter.finish()
