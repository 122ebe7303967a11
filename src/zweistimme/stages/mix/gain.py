"""The gain by which a version's mix is as loud as wanted: kept from one measuring to the next, so that what is heard at
the desk is as loud as what will be handed over."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

import msgspec

from zweistimme.media.atomic import written_bytes
from zweistimme.project.model import Project
from zweistimme.project.picks import sound_key
from zweistimme.stages.mix.lanes import placed_takes


@dataclass(frozen=True, slots=True)
class KnownGain:
    """A gain that was measured, and the fingerprint of the mix it was measured of."""

    mix: str
    gain_db: float


def keep_gain(cache: Path, project: Project, tag: str, gain_db: float) -> None:
    """Keep the gain that a version's mix needs as it is now."""
    written_bytes(_file(cache, tag), msgspec.msgpack.encode(KnownGain(mix_fingerprint(project, tag), gain_db)))


def known_gain(cache: Path, tag: str) -> KnownGain | None:
    """What was measured last of a version."""
    try:
        return msgspec.msgpack.decode(_file(cache, tag).read_bytes(), type=KnownGain)
    except (OSError, ValueError):
        return None


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
    spoken = [(segment.start_us, segment.end_us, segment.speaker_id) for segment in project.segments]
    parts = (1, tracks, project.mix, version.style, placed, spoken)
    return hashlib.sha256(msgspec.msgpack.encode(parts)).hexdigest()[:16]


def _file(cache: Path, tag: str) -> Path:
    return cache / f"mix-gain-{tag}.msgpack"
