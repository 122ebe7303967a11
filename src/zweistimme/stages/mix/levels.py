"""How loud each line of the dub is: as its speaker is in the original, whatever level its take came in.

Energies are K-weighted (BS.1770) and of tenths of a second. What lies under the speech is taken away: the bed where
there is one, else what is heard around it. Takes of one speaker are brought to one level; a whisper stays softer, and
what is left of their differences is bounded.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from math import log10
from pathlib import Path
from typing import Final

import msgspec
import numpy as np

from zweistimme.media.atomic import kept_array, written_array, written_bytes
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.sound.arrays import Floats, Mono, amplitude
from zweistimme.sound.cores import cores, together
from zweistimme.sound.loudness import EnergyMeter, gated_energy, integrated_lufs
from zweistimme.sound.pitch import pitch_track
from zweistimme.stages.fit.render import fitted_clips, fitted_key
from zweistimme.stages.mix.lanes import PlacedTake, is_rest
from zweistimme.stages.work import Work, open_sound

_HOP_US: Final = SECOND_US // 10
_AROUND: Final = 30
"""Tenths of a second on either side of a segment in which its surroundings are heard."""
_LEAST_SPEECH_SHARE: Final = 0.1
_KEPT_DB: Final = (-4.0, 3.0)
_WHISPER_DB: Final = -10.0
_VOICED_SHARE: Final = 0.08
_VOICED_HOP_S: Final = 0.04
_PITCH_RATE: Final = 16_000
_AT_ONCE: Final = 16
"""Takes that are fitted and measured in one go."""
_SILENT_ENERGY: Final = 1e-10
_MOST_GAIN_DB: Final = 45.0
GAIN_DIGITS: Final = 3
"""Gains are whole thousandths of a decibel, so that what is rounded otherwise on another machine moves no sample."""


@dataclass(frozen=True, slots=True)
class TakeLevel:
    """How loud a take is by itself, as energy of one channel, and whether anything in it is voiced."""

    energy: float
    voiced: bool


def track_energies(work: Work, track: SoundTrack) -> Floats:
    """Energies of a whole track as it is heard from two loudspeakers; kept in the cache."""
    kept = _kept_energies(work.cache, track)
    if kept is not None:
        return kept
    with open_sound(work, track) as reader:
        energies = _energies_of(reader)
    written_array(_energies_file(work.cache, track), energies.astype(np.float32))
    return energies


def original_lufs(cache: Path, track: SoundTrack) -> float | None:
    """How loud a whole track is, if that is known."""
    kept = _kept_energies(cache, track)
    return None if kept is None else integrated_lufs(kept)


def _energies_file(cache: Path, track: SoundTrack) -> Path:
    return cache / f"energies-{sound_key(track)}.npy"


def _kept_energies(cache: Path, track: SoundTrack) -> Floats | None:
    kept = kept_array(_energies_file(cache, track), np.float32)
    return None if kept is None else kept.astype(np.float64)


def measured_tracks(work: Work) -> None:
    """Make sure that the working copies of the programme and its energies are there, before several versions at once
    want them."""
    programme = work.project.programme
    tracks = [track for track in (programme.sound, programme.bed) if track] if programme else []
    for track in tracks:
        open_sound(work, track).close()
    together([partial(track_energies, work, track) for track in tracks])


def _energies_of(reader: SoundReader) -> Floats:
    meter = EnergyMeter(reader.channels)
    for block in reader.blocks():
        meter.feed(block)
    # one channel is heard from both sides
    return meter.energies() * (2.0 if reader.channels == 1 else 1.0)


def speaker_energies(project: Project, original: Floats, bed: Floats | None) -> dict[str, float]:
    """How loud each speaker is in the original, without what lies under the speech. Places where two people talk at
    once count for nobody who has others."""
    spans = [(s.start_us // _HOP_US, max(s.end_us // _HOP_US, s.start_us // _HOP_US + 1)) for s in project.segments]
    talking = np.zeros(len(original) + 1, dtype=np.int64)
    for start, end in spans:
        talking[min(start, len(original))] += 1
        talking[min(end, len(original))] -= 1
    at_once = np.cumsum(talking)[:-1]
    if bed is None:
        under = _surroundings(original, at_once)
    else:
        under = np.pad(bed[: len(original)], (0, max(0, len(original) - len(bed))))
    parts: dict[str, list[Floats]] = {}
    alone: dict[str, list[Floats]] = {}
    for segment, (start, end) in zip(project.segments, spans, strict=True):
        speech = original[start:end] - under[start:end]
        # where what is under it is nearly all there is, the speech cannot be told from it
        clear = speech > _LEAST_SPEECH_SHARE * original[start:end]
        parts.setdefault(segment.speaker_id, []).append(speech[clear])
        alone.setdefault(segment.speaker_id, []).append(speech[clear & (at_once[start:end] == 1)])
    result = {}
    for speaker, pieces in parts.items():
        by_themselves = np.concatenate(alone[speaker])
        energy = gated_energy(by_themselves if len(by_themselves) >= 3 else np.concatenate(pieces))
        if energy > _SILENT_ENERGY:
            result[speaker] = energy
    return result


def _surroundings(original: Floats, at_once: np.ndarray[tuple[int], np.dtype[np.int64]]) -> Floats:
    """What is heard under each tenth of a second: the middle of the silent ones near it, or nothing where there are
    none."""
    silent = np.flatnonzero(at_once == 0)
    if not len(silent):
        return np.zeros(len(original))
    places = np.arange(0, len(original), _AROUND // 2)
    first, last = (np.searchsorted(silent, places + side) for side in (-_AROUND, _AROUND))
    levels = np.array([np.median(original[silent[a:b]]) if b > a else 0.0 for a, b in zip(first, last, strict=True)])
    return np.interp(np.arange(len(original)), places, levels)


def take_level(samples: Mono) -> TakeLevel:
    """The level of a take's speech, and whether it is voiced (a whisper is not)."""
    import soxr

    meter = EnergyMeter(1)
    meter.feed(samples[None, :])
    low = soxr.resample(samples, RATE, _PITCH_RATE, "QQ").astype(np.float32)
    track = pitch_track(low, _PITCH_RATE, hop_seconds=_VOICED_HOP_S)
    voiced = len(track) > 0 and bool(np.isfinite(track).mean() >= _VOICED_SHARE)
    return TakeLevel(gated_energy(meter.energies()), voiced)


def line_gains(
    project: Project, takes: Sequence[PlacedTake], levels: Mapping[str, TakeLevel], speakers: Mapping[str, float]
) -> dict[str, float]:
    """What each placed take is multiplied with, by its segment. A speaker nobody could measure is as loud as the others
    are in the middle; a silent take is left alone."""
    owners = {segment.id: segment.speaker_id for segment in project.segments}
    usual = float(np.median(list(speakers.values()))) if speakers else 0.0
    by_speaker: dict[str, list[PlacedTake]] = {}
    for item in takes:
        if levels[item.placement.segment_id].energy > _SILENT_ENERGY:
            by_speaker.setdefault(owners[item.placement.segment_id], []).append(item)
    gains: dict[str, float] = {item.placement.segment_id: 1.0 for item in takes}
    for speaker, own in by_speaker.items():
        wanted = speakers.get(speaker, usual)
        if wanted <= 0:
            continue
        middle = float(np.median([10 * log10(levels[item.placement.segment_id].energy) for item in own]))
        for item in own:
            level = levels[item.placement.segment_id]
            apart = 10 * log10(level.energy) - middle
            kept = min(max(apart, _KEPT_DB[0] if level.voiced else _WHISPER_DB), _KEPT_DB[1])
            # heard from both sides, one channel has twice its energy
            gain_db = 10 * log10(wanted / 2) + kept - 10 * log10(level.energy)
            gains[item.placement.segment_id] = amplitude(round(min(gain_db, _MOST_GAIN_DB), GAIN_DIGITS))
    return gains


def measured_gains(work: Work, tag: str, takes: Sequence[PlacedTake]) -> dict[str, float]:
    """The gains of all placed takes of a version."""
    programme = work.project.programme
    if programme is None:
        return {item.placement.segment_id: 1.0 for item in takes}
    original = track_energies(work, programme.sound)
    bed = track_energies(work, programme.bed) if programme.bed and not is_rest(work.project) else None
    speakers = speaker_energies(work.project, original, bed)
    levels = _levels(work, tag, takes)
    silent = [item for item in takes if levels[item.placement.segment_id].energy <= _SILENT_ENERGY]
    if silent:
        work.say(Finding("takes-silent", {"takes": len(silent), "version": tag}))
    return line_gains(work.project, takes, levels, speakers)


def known_gains(project: Project, tag: str, takes: Sequence[PlacedTake], cache: Path) -> tuple[dict[str, float], bool]:
    """The gains of all placed takes as far as they can be told without listening, and whether that is all of them. A
    take that was not measured yet counts as being as loud as the others are in the middle."""
    programme = project.programme
    original = _kept_energies(cache, programme.sound) if programme else None
    if programme is None or original is None:
        return {item.placement.segment_id: 1.0 for item in takes}, False
    bed = _kept_energies(cache, programme.bed) if programme.bed and not is_rest(project) else None
    kept = _kept_levels(_levels_file(cache, tag))
    found = {item.placement.segment_id: kept.get(fitted_key(item.take, item.placement)) for item in takes}
    measured = [level.energy for level in found.values() if level is not None and level.energy > _SILENT_ENERGY]
    if not measured:
        return {item.placement.segment_id: 1.0 for item in takes}, not takes
    usual = TakeLevel(float(np.median(measured)), voiced=True)
    levels = {segment_id: level or usual for segment_id, level in found.items()}
    gains = line_gains(project, takes, levels, speaker_energies(project, original, bed))
    return gains, all(found.values())


def _levels_file(cache: Path, tag: str) -> Path:
    return cache / f"take-levels-{tag}.msgpack"


def _kept_levels(file: Path) -> dict[str, TakeLevel]:
    try:
        return msgspec.msgpack.decode(file.read_bytes(), type=dict[str, TakeLevel])
    except (OSError, ValueError):
        return {}


def _levels(work: Work, tag: str, takes: Sequence[PlacedTake]) -> dict[str, TakeLevel]:
    """The level of each placed take, by its segment; kept in the cache, since most takes are what they were."""
    file = _levels_file(work.cache, tag)
    known = _kept_levels(file)
    keys = [fitted_key(item.take, item.placement) for item in takes]
    missing = [number for number, key in enumerate(keys) if key not in known]
    groups = [missing[first : first + _AT_ONCE] for first in range(0, len(missing), _AT_ONCE)]
    found = {key: known[key] for key in keys if key in known}

    def measure(group: list[int]) -> list[TakeLevel]:
        placed = [(takes[number].take, takes[number].placement) for number in group]
        return [take_level(sound) for sound in fitted_clips(placed, work.clips, work.cache)]

    for first in range(0, len(groups), cores()):
        some = groups[first : first + cores()]
        work.report(first / len(groups))
        for group, levels in zip(some, together([partial(measure, group) for group in some]), strict=True):
            found |= {keys[number]: level for number, level in zip(group, levels, strict=True)}
    if found != known:
        written_bytes(file, msgspec.msgpack.encode(found))
    return {item.placement.segment_id: found[key] for item, key in zip(takes, keys, strict=True)}
