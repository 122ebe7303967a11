"""The programme of a project: its picture, and which sound of which file is used. Frozen data, as in ``model.py``."""

from __future__ import annotations

from dataclasses import dataclass, replace

from zweistimme.project.findings import Finding


@dataclass(frozen=True, slots=True)
class SoundPick:
    """Which sound of a file is used. *tracks* counts its sound tracks from 1; of several, each one channel, two are
    left and right, more are heard on both sides. *channels* names some of a track's channels (``FC``, ``FL+FR``), or
    with a ``-`` in front all but those; empty: all of them, mixed down."""

    tracks: tuple[int, ...] = (1,)
    channels: str = ""


@dataclass(frozen=True, slots=True)
class SoundTrack:
    """Sound the project uses: the file it is in, what that held when it was brought in, and what of it was picked.

    *checksum* is the SHA-256 of the file; projects made before files were read whole have a shorter one of its ends.
    """

    path: str
    size_bytes: int
    checksum: str
    duration_us: int
    rate: int
    channels: int
    pick: SoundPick = SoundPick()


@dataclass(frozen=True, slots=True)
class Picture:
    """The picture of a programme as it is shown: upright, in square pixels. *rotation* is by how many degrees the
    coded picture is turned clockwise for that."""

    width: int
    height: int
    rate_numerator: int
    rate_denominator: int
    rotation: int = 0
    interlaced: bool = False


@dataclass(frozen=True, slots=True)
class Programme:
    """The source video or sound file. *timecode* is that of its first picture (SMPTE ST 12-1; a semicolon before
    the frames means drop-frame), if the file has one."""

    sound: SoundTrack
    picture: Picture | None = None
    bed: SoundTrack | None = None
    notes: tuple[Finding, ...] = ()
    timecode: str = ""
    cuts_us: tuple[int, ...] | None = None
    """When each shot of the picture but the first begins; None where nobody has looked."""


def facts_kept(known: Programme, wanted: Programme) -> Programme:
    """The programme as *wanted*, with what is *known* by now of the same files: where they lie, their checksums, their
    clock, notes and cuts."""
    if not _same_file(known.sound, wanted.sound):
        return wanted
    sound = _facts_of(known.sound, wanted.sound)
    bed = wanted.bed
    if known.bed is not None and bed is not None and _same_file(known.bed, bed):
        bed = _facts_of(known.bed, bed)
    return replace(wanted, sound=sound, bed=bed, notes=known.notes, timecode=known.timecode, cuts_us=known.cuts_us)


def _same_file(one: SoundTrack, other: SoundTrack) -> bool:
    return one.size_bytes == other.size_bytes and (one.checksum == other.checksum or one.path == other.path)


def _facts_of(known: SoundTrack, wanted: SoundTrack) -> SoundTrack:
    return replace(wanted, path=known.path, checksum=known.checksum)
