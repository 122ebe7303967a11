"""Two passes: how loud a mix would be; then every wanted file at its loudness, true peak held, all of them at once and
measured as they are written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from math import isfinite, log10
from pathlib import Path
from typing import Final

from zweistimme.media.encode import written_sounds
from zweistimme.project.access import find_version
from zweistimme.project.findings import Finding
from zweistimme.project.sound_delivery import LoudnessOf, Part, SoundPreset
from zweistimme.project.times import RATE, clock, samples_to_us
from zweistimme.sound.k_weighting import HOP_SAMPLES
from zweistimme.sound.loudness import Loudness, gated_energy
from zweistimme.stages.file_names import slug
from zweistimme.stages.mix.gain import HOUSE, keep_gains, presets_for
from zweistimme.stages.mix.measure import MixMeasure, measured_mix
from zweistimme.stages.mix.opening import MixLanes, opened_mix
from zweistimme.stages.mix.outputs import Output, Wanted, measured_again
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.mix.wanted_files import house_files, preset_files
from zweistimme.stages.work import Report, Work

_CLOSE_ENOUGH_LU: Final = 0.1
_SAID_LU: Final = 0.5
_PASSES: Final = 3
Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class MixFiles:
    """What was written, and how it measured while it was written: on the very values that stand in the files."""

    mix: Path
    voice: Path
    loudness: Loudness
    voice_loudness: Loudness


def write_mix(work: Work, tag: str, mix_path: Path, voice_path: Path) -> MixFiles:
    """Write the mix and the voice stem of a version as 48 kHz, 24-bit WAV."""
    wanted = house_files(work.project, find_version(work.project, tag), mix_path, voice_path)
    loudness = write_sounds(work, tag, wanted)
    return MixFiles(mix_path, voice_path, loudness[mix_path], loudness[voice_path])


def name_with_span(name: str, span: Span | None) -> str:
    """The name of files of a stretch: never that of the whole, or of another stretch."""
    if span is None:
        return name
    digits = 0 if all(at % RATE == 0 for at in span) else 3
    return f"{name}." + "-".join(clock(samples_to_us(at), digits).replace(":", ".") for at in span)


def write_stretch(work: Work, tag: str, folder: Path, span: Span | None) -> dict[Path, Loudness]:
    """Write a *span* of samples of a version, or all of it, in the house mix and all of its presets, into *folder*."""
    project, version = work.project, find_version(work.project, tag)
    name = slug(project.title)
    name = name_with_span(name, span)
    wanted = house_files(project, version, *(folder / f"{name}.{tag}.{kind}.wav" for kind in ("mix", "voice")))
    wanted += preset_files(project, version, folder, name, span[0] if span else 0)
    return write_sounds(work, tag, wanted, span)


def write_sounds(work: Work, tag: str, wanted: Sequence[Wanted], span: Span | None = None) -> dict[Path, Loudness]:
    """Write sound files of a version, several presets in one pass; how loud each is, by its path. Of a *span* of
    samples alone, as loud as it is within the whole."""
    presets = {one.preset_name: one.preset for one in wanted}
    with ExitStack() as stack:
        lanes, takes = opened_mix(work, tag, stack)
        layouts = tuple(dict.fromkeys(preset.channels for preset in presets.values()))
        blocks = ((block.dub, block.sides) for block in lanes.blocks(work.part(0.3, 0.55)))
        measure = measured_mix(blocks, layouts)
        _say_what_is_drowned(work, tag, measure, takes)
        gains_db = {name: measure.gain_db(preset) for name, preset in presets.items()}
        found: dict[Path, Loudness] = {}
        for attempt in range(_PASSES):
            found = written_lanes(lanes, wanted, gains_db, span, work.part(0.55, 1.0))
            missed = {} if span else _missed(wanted, measure, gains_db, found)
            if not missed or attempt == _PASSES - 1:
                break
            gains_db |= missed
    known = {name: gain_db for name, gain_db in gains_db.items() if presets[name] == _own(work, tag).get(name)}
    if HOUSE in known:
        keep_gains(work.cache, work.project, tag, known)
    if not span:
        _say_what_was_missed(work, tag, wanted, found)
    return found


def _own(work: Work, tag: str) -> dict[str, SoundPreset]:
    return presets_for(work.project, find_version(work.project, tag))


def written_lanes(
    lanes: MixLanes, wanted: Sequence[Wanted], gains_db: Mapping[str, float], span: Span | None, report: Report
) -> dict[Path, Loudness]:
    """One writing pass over everything; how loud each file is, by its path."""
    length = span[1] - span[0] if span else lanes.length
    people = tuple(dict.fromkeys(one.person for one in wanted if one.person))
    with written_sounds([(one.path, one.form) for one in wanted], length) as writers:
        outputs = [Output(one, writer, gains_db[one.preset_name]) for one, writer in zip(wanted, writers, strict=True)]
        for block in lanes.blocks(report, span, people):
            for output in outputs:
                output.feed(block)
        loudness = {output.wanted.path: output.finish() for output in outputs}
    return {one.path: measured_again(one, loudness[one.path]) for one in wanted}


def _missed(
    wanted: Sequence[Wanted], measure: MixMeasure, gains_db: Mapping[str, float], found: Mapping[Path, Loudness]
) -> dict[str, float]:
    """Better gains of presets whose mix did not come out as loud as wanted, though it could."""
    better = {}
    for one in wanted:
        preset, gain_db = one.preset, gains_db[one.preset_name]
        if one.part is not Part.MIX or preset.loudness_of is LoudnessOf.DIALOGUE:
            continue
        miss = preset.loudness_lufs - found[one.path].integrated_lufs
        most = measure.layouts[preset.channels].most_gain_db(preset.true_peak_dbtp)
        if isfinite(miss) and abs(miss) > _CLOSE_ENOUGH_LU and not (gain_db >= most and miss > 0):
            better[one.preset_name] = min(gain_db + miss, most)
    return better


def _say_what_was_missed(work: Work, tag: str, wanted: Sequence[Wanted], found: Mapping[Path, Loudness]) -> None:
    for one in wanted:
        preset, loudness = one.preset, found[one.path]
        if one.part is not Part.MIX or not isfinite(loudness.integrated_lufs):
            continue
        figures: dict[str, str | float] = {
            "version": tag,
            "loudness_lufs": loudness.integrated_lufs,
            "wanted_lufs": preset.loudness_lufs,
            "peak_dbtp": preset.true_peak_dbtp,
        }
        miss = preset.loudness_lufs - loudness.integrated_lufs
        if preset.loudness_of is LoudnessOf.PROGRAMME and abs(miss) > _SAID_LU:
            work.say(Finding("loudness-not-reached", figures))
        if preset.most_range_lu is not None and loudness.range_lu > preset.most_range_lu:
            wide: dict[str, str | float] = {"version": tag, "preset": one.preset_name, "range_lu": loudness.range_lu}
            work.say(Finding("range-too-wide", wide | {"most_lu": preset.most_range_lu}))


def _say_what_is_drowned(work: Work, tag: str, measure: MixMeasure, takes: list[PlacedTake]) -> None:
    """Say which lines are softer than what lies under them, as they may be where the original was."""
    drowned = []
    for item in takes:
        hops = slice(item.start // HOP_SAMPLES, -(-(item.start + item.length) // HOP_SAMPLES))
        # heard from both sides, one channel has twice its energy
        dub, below = 2 * gated_energy(measure.dub[hops]), measure.sides[hops]
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
