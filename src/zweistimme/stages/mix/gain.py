"""The gains by which a version's mix is as loud as wanted: kept from one measuring to the next, so that what is heard
at the desk is as loud as what will be handed over."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import msgspec

from zweistimme.project.facts import mix_of
from zweistimme.project.hand_fit import AS_PLANNED
from zweistimme.project.model import Project, Version
from zweistimme.project.picks import sound_key
from zweistimme.project.sound_delivery import SoundPreset, presets_of
from zweistimme.stages.mix.kept import keep_figures, kept_figures
from zweistimme.stages.mix.placed import placed_takes

HOUSE: Final = ""
"""The name of what the mix settings say themselves: the mix that the video has."""


@dataclass(frozen=True, slots=True)
class KnownGains:
    """Gains in dB that were measured, by preset, and the fingerprint of the mix they were measured of."""

    mix: str
    gains_db: Mapping[str, float]


def house_preset(project: Project, version: Version) -> SoundPreset:
    """What the mix settings of a version say, as a preset."""
    mix = mix_of(project, version)
    return SoundPreset(mix.loudness_lufs, mix.true_peak_dbtp)


def presets_for(project: Project, version: Version) -> dict[str, SoundPreset]:
    """All forms in which a version's sound is handed over, by name; the one that the video has is first."""
    known = presets_of(project.presets)
    chosen = {name: known[name] for name in version.presets if name in known}
    return {HOUSE: house_preset(project, version), **chosen}


def keep_gains(cache: Path, project: Project, tag: str, gains_db: Mapping[str, float]) -> None:
    """Keep the gains that a version's mix needs as it is now."""
    keep_figures(_file(cache, tag), KnownGains(mix_fingerprint(project, tag), gains_db))


def known_gains(cache: Path, tag: str) -> KnownGains | None:
    """What was measured last of a version."""
    return kept_figures(_file(cache, tag), KnownGains)


def mix_fingerprint(project: Project, tag: str) -> str:
    """All that a version's loudness comes from."""
    version, programme = project.versions[tag], project.programme
    tracks = [sound_key(track) for track in (programme.sound, programme.bed) if track] if programme else []
    placed = [
        (
            item.take.clip,
            item.start,
            item.length,
            item.placement.pauses_cut_us,
            item.placement.segment_id,
            item.placement.phrases,
        )
        for item in placed_takes(project, version)
    ]
    louder = [
        (key, line.manner.volume_db, line.hand)
        for key, line in version.lines.items()
        if line.manner.volume_db or line.hand != AS_PLANNED
    ]
    louder += [(key, manner.volume_db, AS_PLANNED) for key, manner in version.manners.items() if manner.volume_db]
    spoken = [(s.start_us, s.end_us, s.speaker_id, s.on_screen, s.place) for s in project.segments]
    forms = presets_for(project, version)
    parts = (2, tracks, mix_of(project, version), version.style, placed, spoken, louder, forms)
    return hashlib.sha256(msgspec.msgpack.encode(parts)).hexdigest()[:16]


def _file(cache: Path, tag: str) -> Path:
    return cache / f"mix-gains-{tag}.msgpack"
