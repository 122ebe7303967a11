"""The manifest: every file handed over, as measured from the file itself. Described in docs/formats.md."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Final

import msgspec

from zweistimme import __version__
from zweistimme.formats.captions import read_captions
from zweistimme.media.atomic import written_text
from zweistimme.media.coded_picture import picture_checksum
from zweistimme.media.probe import TrackInfo, file_checksum, probe
from zweistimme.project.findings import Finding
from zweistimme.project.sound_delivery import Part
from zweistimme.project.times import RATE
from zweistimme.sentences import sentence_of
from zweistimme.sound.loudness import Loudness
from zweistimme.stages.caption import CaptionRules, statistics
from zweistimme.stages.mix.outputs import Wanted

MANIFEST: Final = "manifest.json"
FORMAT: Final = "zweistimme-manifest"
VERSION: Final = 3


@dataclass(frozen=True, slots=True)
class Entry:
    """One file; *measured* depends on its kind."""

    name: str
    kind: str
    language: str
    size_bytes: int
    sha256: str
    measured: dict[str, Any]


_KINDS: Final = {
    Part.MIX: "mix",
    Part.DUB: "voice stem",
    Part.BENEATH: "music and effects",
    Part.ROOM: "room",
    Part.PEOPLE: "person",
}


def sound_entry(wanted: Wanted, tag: str, loudness: Loudness) -> Entry:
    """A sound file, with the *loudness* that was measured on its very values."""
    figures = {
        "duration_s": loudness.duration_samples / RATE,
        "sample_rate": wanted.form.rate,
        "channels": wanted.layout.value,
        "form": wanted.form.form.value,
        "preset": wanted.preset_name,
        "loudness_lufs": _figure(loudness.integrated_lufs),
        "loudness_range_lu": _figure(loudness.range_lu),
        "true_peak_dbtp": _figure(loudness.true_peak_dbtp),
        "momentary_max_lufs": _figure(loudness.momentary_lufs),
        "short_term_max_lufs": _figure(loudness.short_term_lufs),
    }
    return _entry(wanted.path, _KINDS[wanted.part], tag, figures)


def caption_entry(path: Path, tag: str, rules: CaptionRules) -> Entry:
    """A caption file."""
    return _entry(path, "captions", tag, asdict(statistics(read_captions(path, whole=True).cues, rules)))


def video_entry(path: Path, coded_picture: str, tag: str) -> Entry:
    """The video, with its tracks and whether its picture is the source's, of which *coded_picture* is the checksum."""
    info = probe(path)
    there = picture_checksum(path)
    figures = {
        "duration_s": info.duration_us / 1_000_000,
        "tracks": [_track(track) for track in info.tracks],
        "chapters": len(info.chapters),
        "timecode": info.timecode,
        "picture_sha256": there,
        "picture_untouched": there == coded_picture,
    }
    return _entry(path, "video", tag, figures)


def listening_entry(path: Path, tag: str) -> Entry:
    """A programme of sound alone, as listeners get it."""
    info = probe(path)
    figures = {
        "duration_s": info.duration_us / 1_000_000,
        "tracks": [_track(track) for track in info.tracks],
        "chapters": len(info.chapters),
    }
    return _entry(path, "sound programme", tag, figures)


def _track(track: TrackInfo) -> dict[str, str]:
    return {"kind": track.kind, "codec": track.codec, "language": track.language, "title": track.title}


def _entry(path: Path, kind: str, tag: str, figures: dict[str, Any]) -> Entry:
    return Entry(path.name, kind, tag, path.stat().st_size, file_checksum(path), figures)


def _figure(value: float) -> float | None:
    return round(value, 2) if abs(value) < 1e6 else None


def write_manifest(folder: Path, title: str, source_tag: str, entries: list[Entry], said: Sequence[Finding]) -> Path:
    """Write the manifest, last of all files."""
    content = {
        "format": FORMAT,
        "version": VERSION,
        "made_with": f"Zweistimme {__version__}",
        "title": title,
        "source_language": source_tag,
        "files": [asdict(entry) for entry in entries],
        "notes": [{"sentence": sentence_of(one), "code": one.code, "figures": one.figures} for one in said],
    }
    path = folder / MANIFEST
    written_text(path, msgspec.json.format(msgspec.json.encode(content), indent=2).decode() + "\n")
    return path
