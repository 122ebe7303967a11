"""Two passes: how loud the mix would be; then the mix and the voice stem at their loudness, true peak held, both
written and measured as they are written."""

from __future__ import annotations

from contextlib import ExitStack
from dataclasses import dataclass
from math import isfinite, log10
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.encode import WavWriter, written_wavs
from zweistimme.project.findings import Finding
from zweistimme.project.times import clock
from zweistimme.sound.arrays import Sound, amplitude
from zweistimme.sound.k_weighting import HOP_SAMPLES
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import Loudness, LoudnessMeter, gated_energy
from zweistimme.stages.mix.gain import keep_gain
from zweistimme.stages.mix.lanes import PlacedTake
from zweistimme.stages.mix.levels import GAIN_DIGITS
from zweistimme.stages.mix.measure import MixMeasure, measured_mix
from zweistimme.stages.mix.opening import MixLanes, opened_mix
from zweistimme.stages.work import Report, Work

_CLOSE_ENOUGH_LU: Final = 0.1
_PASSES: Final = 3


@dataclass(frozen=True, slots=True)
class MixFiles:
    """What was written, and how it measured while it was written: on the very values that stand in the files."""

    mix: Path
    voice: Path
    loudness: Loudness
    voice_loudness: Loudness


def write_mix(work: Work, tag: str, mix_path: Path, voice_path: Path) -> MixFiles:
    """Write the mix and the voice stem of a version as 48 kHz, 24-bit WAV."""
    settings = work.project.mix
    wanted, ceiling = settings.loudness_lufs, settings.true_peak_dbtp
    with ExitStack() as stack:
        lanes, takes = opened_mix(work, tag, stack)
        measure = measured_mix(lanes.blocks(work.part(0.2, 0.5)))
        _say_what_is_drowned(work, tag, measure, takes)
        gain_db, most = measure.gain_db(wanted, ceiling), measure.most_gain_db(ceiling)
        for attempt in range(_PASSES):
            files = _written(lanes, gain_db, ceiling, (mix_path, voice_path), work.part(0.5, 1.0))
            miss = wanted - files.loudness.integrated_lufs
            close = not isfinite(miss) or abs(miss) <= _CLOSE_ENOUGH_LU or (gain_db >= most and miss > 0)
            if close or attempt == _PASSES - 1:
                break
            gain_db = min(gain_db + miss, most)
    keep_gain(work.cache, work.project, tag, gain_db)
    if isfinite(miss) and abs(miss) > 0.5:
        work.say(
            Finding(
                "loudness-not-reached",
                {
                    "version": tag,
                    "loudness_lufs": files.loudness.integrated_lufs,
                    "wanted_lufs": wanted,
                    "peak_dbtp": ceiling,
                },
            )
        )
    return files


def _written(lanes: MixLanes, gain_db: float, ceiling: float, paths: tuple[Path, Path], report: Report) -> MixFiles:
    """One writing pass: the mix, and the dub alone, as loud as it is in the mix."""
    gain = np.float32(amplitude(round(gain_db, GAIN_DIGITS)))
    with written_wavs(paths, (2, 1), lanes.length) as (mix, voice):
        outputs = _Output(mix, 2, ceiling), _Output(voice, 1, ceiling)
        for dub, under in lanes.blocks(report):
            outputs[0].feed((under + dub[None, :]) * gain)
            outputs[1].feed(dub[None, :] * gain)
        loudness, voice_loudness = (output.finish() for output in outputs)
    return MixFiles(*paths, loudness, voice_loudness)


class _Output:
    """A file on its way: limited, written, and measured as it stands in the file."""

    def __init__(self, writer: WavWriter, channels: int, ceiling: float) -> None:
        self._writer, self._limiter, self._meter = writer, TruePeakLimiter(channels, ceiling), LoudnessMeter(channels)

    def feed(self, sound: Sound) -> None:
        self._take(self._limiter.feed(sound))

    def finish(self) -> Loudness:
        self._take(self._limiter.finish())
        return self._meter.result()

    def _take(self, ready: Sound) -> None:
        self._meter.feed(self._writer.write(ready))


def _say_what_is_drowned(work: Work, tag: str, measure: MixMeasure, takes: list[PlacedTake]) -> None:
    """Say which lines are softer than what lies under them, as they may be where the original was."""
    drowned = []
    for item in takes:
        hops = slice(item.start // HOP_SAMPLES, -(-(item.start + item.length) // HOP_SAMPLES))
        # heard from both sides, one channel has twice its energy
        dub, below = 2 * gated_energy(measure.dub[hops]), measure.under[hops]
        under = float(below.mean()) if len(below) else 0.0
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
