"""What a person should know of a file that was decoded: what of it is used, what was converted, where its clock was
mended."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from zweistimme.media.align import ClockNote
from zweistimme.media.clock import StampClock
from zweistimme.media.probe import MediaInfo, TrackInfo
from zweistimme.messages import listed, msg, tr
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Figure, Finding, reason
from zweistimme.project.times import RATE, clock, samples_to_us

_NAMED_PLACES: Final = 5
_MENDED: Final = ("hole", "overlap", "jump", "drift")


@dataclass(slots=True)
class DecodeNotes:
    """What a person should know of a decoded file, and every place where its clock was mended."""

    notes: list[Finding] = field(default_factory=list)
    places: list[ClockNote] = field(default_factory=list)
    last_us: int = 0
    """Where the last packet of any track ends, on the programme's clock."""


def note_conversion(
    info: MediaInfo, track: TrackInfo, channels: str, notes: DecodeNotes, tracks: list[TrackInfo]
) -> None:
    """Say which sound is used, and what is done to it."""
    if len(tracks) > 1:
        every = [str(one.number) for one in tracks]
        numbers = listed(every)
        notes.notes.append(
            Finding("tracks-together", {"numbers": numbers, "how": " as left and right" if len(tracks) == 2 else ""})
        )
    elif len(info.sounds) > 1:
        language = f", {track.language}" if track.language else ""
        notes.notes.append(
            Finding(
                "track-used",
                {"tracks": len(info.sounds), "track": track.number, "codec": track.codec, "language": language},
            )
        )
    if track.rate != RATE:
        notes.notes.append(Finding("rate-converted", {"rate": track.rate, "to": RATE}))
    if channels:
        notes.notes.append(
            Finding("channels-used", {"channels": len(track.channels), "named": _named(track, channels)})
        )
    elif len(track.channels) > 2:
        notes.notes.append(Finding("mixed-down", {"channels": len(track.channels)}))


def _named(track: TrackInfo, channels: str) -> str:
    return tr("all but {channels}", channels=channels[1:]) if channels.startswith("-") else channels


def note_clock(mended: StampClock, notes: DecodeNotes) -> None:
    """Keep every place where stamps and sound did not agree, the first few by name."""
    for place, _ in mended.breaks[:_NAMED_PLACES]:
        notes.notes.append(Finding("clock-begins-anew", {"at_us": round(place * 1_000_000)}))
    notes.notes += [
        Finding("sound-begins-late", {"by_s": round(note.amount_us / 1e6, 3)})
        for note in notes.places
        if note.kind == "late"
    ]
    for kind in _MENDED:
        places = [note for note in notes.places if note.kind == kind]
        if not places:
            continue
        shown = ", ".join(f"{clock(note.at_us)} ({note.amount_us / 1e6:.3f} s)" for note in places[:_NAMED_PLACES])
        named: Figure = shown
        if len(places) > _NAMED_PLACES:
            named = reason(msg("{shown} and {n:,} more"), shown=shown, n=len(places) - _NAMED_PLACES)
        total_s = round(sum(note.amount_us for note in places) / 1e6, 3)
        figures: dict[str, Figure] = {"places": len(places), "total_s": total_s, "shown": named}
        notes.notes.append(Finding(f"sound-{kind}" if len(places) == 1 else f"sound-{kind}s", figures))


def note_length(info: MediaInfo, total: int, notes: DecodeNotes) -> None:
    """Say that a file ends before it says it does; MediaError where there was no sound at all."""
    if not total:
        raise MediaError("{path} has a sound track without any sound. Export it anew.", path=info.path)
    heard = samples_to_us(total)
    if info.duration_us - max(heard, notes.last_us) > 1_000_000:
        notes.notes.append(Finding("file-cut-off", {"says_us": info.duration_us, "ends_us": heard}))
