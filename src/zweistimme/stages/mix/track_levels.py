"""How loud the original is: whole, person by person, and line by line.

Energies are K-weighted (BS.1770) and of tenths of a second. What lies under the speech is taken away: the bed where
there is one, else what is heard around it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.model import Project
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import SECOND_US
from zweistimme.sound.arrays import Floats, Ints
from zweistimme.sound.cores import together
from zweistimme.sound.loudness import EnergyMeter, gated_energy, integrated_lufs
from zweistimme.stages.work import Work, open_sound

_HOP_US: Final = SECOND_US // 10
_AROUND: Final = 30
"""Tenths of a second on either side of a segment in which its surroundings are heard."""
_LEAST_SPEECH_SHARE: Final = 0.1
_LEAST_TENTHS: Final = 3
SILENT_ENERGY: Final = 1e-10


@dataclass(frozen=True, slots=True)
class OriginalLevels:
    """Energies of speech as it is heard from two loudspeakers, by speaker and by segment; those that cannot be told
    from what lies under them are not there."""

    speakers: Mapping[str, float]
    lines: Mapping[str, float]


def track_energies(work: Work, track: SoundTrack) -> Floats:
    """Energies of a whole track as it is heard from two loudspeakers; kept in the cache."""
    kept = kept_energies(work.cache, track)
    if kept is not None:
        return kept
    with open_sound(work, track) as reader:
        energies = _energies_of(reader)
    written_array(_energies_file(work.cache, track), energies.astype(np.float32))
    return energies


def original_lufs(cache: Path, track: SoundTrack) -> float | None:
    """How loud a whole track is, if that is known."""
    kept = kept_energies(cache, track)
    return None if kept is None else integrated_lufs(kept)


def _energies_file(cache: Path, track: SoundTrack) -> Path:
    return cache / f"energies-{sound_key(track)}.npy"


def kept_energies(cache: Path, track: SoundTrack) -> Floats | None:
    """Energies of a track that were measured before."""
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


def original_levels(project: Project, original: Floats, bed: Floats | None) -> OriginalLevels:
    """How loud people and lines are in the original, without what lies under the speech. Places where two people talk
    at once count for nobody who has others."""
    spans = [(s.start_us // _HOP_US, max(s.end_us // _HOP_US, s.start_us // _HOP_US + 1)) for s in project.segments]
    at_once = _talking_at_once(spans, len(original))
    if bed is None:
        under = _surroundings(original, at_once)
    else:
        under = np.pad(bed[: len(original)], (0, max(0, len(original) - len(bed))))
    parts: dict[str, list[Floats]] = {}
    alone: dict[str, list[Floats]] = {}
    lines: dict[str, float] = {}
    for segment, (start, end) in zip(project.segments, spans, strict=True):
        speech = original[start:end] - under[start:end]
        # where what is under it is nearly all there is, the speech cannot be told from it
        clear = speech > _LEAST_SPEECH_SHARE * original[start:end]
        by_itself = speech[clear & (at_once[start:end] == 1)]
        parts.setdefault(segment.speaker_id, []).append(speech[clear])
        alone.setdefault(segment.speaker_id, []).append(by_itself)
        energy = gated_energy(by_itself) if len(by_itself) >= _LEAST_TENTHS else 0.0
        if energy > SILENT_ENERGY:
            lines[segment.id] = energy
    speakers = {}
    for speaker, pieces in parts.items():
        by_themselves = np.concatenate(alone[speaker])
        energy = gated_energy(by_themselves if len(by_themselves) >= _LEAST_TENTHS else np.concatenate(pieces))
        if energy > SILENT_ENERGY:
            speakers[speaker] = energy
    return OriginalLevels(speakers, lines)


def _talking_at_once(spans: list[tuple[int, int]], count: int) -> Ints:
    """How many people talk in each tenth of a second."""
    talking = np.zeros(count + 1, dtype=np.int64)
    for start, end in spans:
        talking[min(start, count)] += 1
        talking[min(end, count)] -= 1
    return np.cumsum(talking)[:-1]


def _surroundings(original: Floats, at_once: Ints) -> Floats:
    """What is heard under each tenth of a second: the middle of the silent ones near it, or nothing where there are
    none."""
    silent = np.flatnonzero(at_once == 0)
    if not len(silent):
        return np.zeros(len(original))
    places = np.arange(0, len(original), _AROUND // 2)
    first, last = (np.searchsorted(silent, places + side) for side in (-_AROUND, _AROUND))
    levels = np.array([np.median(original[silent[a:b]]) if b > a else 0.0 for a, b in zip(first, last, strict=True)])
    return np.interp(np.arange(len(original)), places, levels)
