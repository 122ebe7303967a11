"""The manifest: every file handed over, as measured from the file itself. Described in docs/formats.md."""

from __future__ import annotations

import hashlib
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Final

import msgspec

from zweistimme import __version__
from zweistimme.formats.captions import read_captions
from zweistimme.media.atomic import written_text
from zweistimme.media.decode import SoundReader
from zweistimme.media.probe import file_checksum, opened, probe
from zweistimme.project.times import RATE
from zweistimme.sound.loudness import Loudness, LoudnessMeter
from zweistimme.stages.caption import CaptionRules, statistics

MANIFEST: Final = "manifest.json"
FORMAT: Final = "zweistimme-manifest"
VERSION: Final = 1


@dataclass(frozen=True, slots=True)
class Entry:
    """One file; *measured* depends on its kind."""

    name: str
    kind: str
    language: str
    size_bytes: int
    sha256: str
    measured: dict[str, Any]


def measured_sound(path: Path) -> Loudness:
    """Loudness and true peak of a written sound file."""
    with SoundReader(path) as reader:
        meter = LoudnessMeter(reader.channels)
        for block in reader.blocks():
            meter.feed(block)
    return meter.result()


def sound_entry(path: Path, kind: str, tag: str) -> Entry:
    """A sound file."""
    loudness = measured_sound(path)
    figures = {
        "duration_s": loudness.duration_samples / RATE,
        "sample_rate": RATE,
        "loudness_lufs": _figure(loudness.integrated_lufs),
        "loudness_range_lu": _figure(loudness.range_lu),
        "true_peak_dbtp": _figure(loudness.true_peak_dbtp),
    }
    return _entry(path, kind, tag, figures)


def caption_entry(path: Path, tag: str, rules: CaptionRules) -> Entry:
    """A caption file."""
    return _entry(path, "captions", tag, asdict(statistics(read_captions(path, whole=True).cues, rules)))


def video_entry(path: Path, source: Path, tag: str) -> Entry:
    """The video, with its tracks and whether its picture is the source's, packet by packet."""
    info = probe(path)
    figures = {
        "duration_s": info.duration_us / 1_000_000,
        "tracks": [asdict(track) for track in info.tracks],
        "picture_sha256": picture_checksum(path),
        "picture_untouched": picture_checksum(path) == picture_checksum(source),
    }
    return _entry(path, "video", tag, figures)


def picture_checksum(path: Path) -> str:
    """SHA-256 over the coded pictures of a file, in order, whatever container they lie in."""
    digest = hashlib.sha256()
    with opened(path) as container:
        for packet in container.demux(container.streams.video[0]):
            digest.update(bytes(packet))
    return digest.hexdigest()


def _entry(path: Path, kind: str, tag: str, figures: dict[str, Any]) -> Entry:
    return Entry(path.name, kind, tag, path.stat().st_size, file_checksum(path), figures)


def _figure(value: float) -> float | None:
    return round(value, 2) if abs(value) < 1e6 else None


def write_manifest(folder: Path, title: str, source_tag: str, entries: list[Entry], said: list[str]) -> Path:
    """Write the manifest, last of all files."""
    content = {
        "format": FORMAT,
        "version": VERSION,
        "made_with": f"Zweistimme {__version__}",
        "title": title,
        "source_language": source_tag,
        "files": [asdict(entry) for entry in entries],
        "notes": said,
    }
    path = folder / MANIFEST
    written_text(path, msgspec.json.format(msgspec.json.encode(content), indent=2).decode() + "\n")
    return path
