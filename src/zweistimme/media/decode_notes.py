"""What a person should know of a file that was decoded: what of it is used, what was converted, where its clock was
mended."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from zweistimme.media.align import ClockNote
from zweistimme.media.clock import StampClock
from zweistimme.media.probe import MediaInfo, TrackInfo
from zweistimme.project.errors import MediaError
from zweistimme.project.times import RATE, clock, samples_to_us

_NAMED_PLACES: Final = 5


@dataclass(slots=True)
class DecodeNotes:
    """What a person should know of a decoded file: sentences, and every place where its clock was mended."""

    notes: list[str] = field(default_factory=list)
    places: list[ClockNote] = field(default_factory=list)


def note_conversion(
    info: MediaInfo, track: TrackInfo, channels: str, notes: DecodeNotes, tracks: list[TrackInfo]
) -> None:
    """Say which sound is used, and what is done to it."""
    if len(tracks) > 1:
        every = [str(one.number) for one in tracks]
        numbers = f"{', '.join(every[:-1])} and {every[-1]}"
        notes.notes.append(
            f"Sound tracks {numbers} are put together{' as left and right' if len(tracks) == 2 else ''}."
        )
    elif len(info.sounds) > 1:
        language = f", {track.language}" if track.language else ""
        notes.notes.append(
            f"Of its {len(info.sounds)} sound tracks, number {track.number} ({track.codec}{language}) is used."
        )
    if track.rate != RATE:
        notes.notes.append(f"Sound at {track.rate:,} Hz is converted to {RATE:,} Hz.")
    if channels:
        notes.notes.append(f"Of its {len(track.channels)} channels, {_named(track, channels)} is used.")
    elif len(track.channels) > 2:
        notes.notes.append(f"{len(track.channels)} channels are mixed down to stereo (ITU-R BS.775).")


def _named(track: TrackInfo, channels: str) -> str:
    return f"all but {channels[1:]}" if channels.startswith("-") else channels


def note_clock(mended: StampClock, notes: DecodeNotes) -> None:
    """Say every place where stamps and sound did not agree, the first few by name."""
    for place, _ in mended.breaks[:_NAMED_PLACES]:
        where = clock(round(place * 1_000_000))
        notes.notes.append(f"The file's clock begins anew at {where}; what follows is put right behind.")
    late = [note for note in notes.places if note.kind == "late"]
    notes.notes += [
        f"The sound begins {note.amount_us / 1e6:.2f} s after the file's clock; that is kept." for note in late
    ]
    for kind, one, many, done in (
        ("hole", "a hole", "holes", "kept as silence"),
        ("overlap", "an overlap", "overlaps", "what was there twice is left out"),
        ("jump", "a jump of its clock", "jumps of its clock", "not followed, since no recording has such a hole"),
        ("drift", "a drift against the clock", "drifts against the clock", "evened out"),
    ):
        places = [note for note in notes.places if note.kind == kind]
        if not places:
            continue
        shown = ", ".join(f"{clock(note.at_us)} ({note.amount_us / 1e6:.3f} s)" for note in places[:_NAMED_PLACES])
        more = f" and {len(places) - _NAMED_PLACES:,} more" if len(places) > _NAMED_PLACES else ""
        total = sum(note.amount_us for note in places) / 1e6
        head = (
            f"The sound has {one}"
            if len(places) == 1
            else f"The sound has {len(places):,} {many}, {total:.2f} s in all"
        )
        notes.notes.append(f"{head}, at {shown}{more}; {done}.")


def note_length(info: MediaInfo, total: int, notes: DecodeNotes) -> None:
    """Say that a file ends before it says it does; MediaError where there was no sound at all."""
    if not total:
        raise MediaError(f"{info.path} has a sound track without any sound. Export it anew.")
    heard = samples_to_us(total)
    if info.picture is None and info.duration_us - heard > 1_000_000:
        notes.notes.append(
            f"The file is cut off: it says it lasts {clock(info.duration_us)}, but its sound ends at {clock(heard)}."
        )
