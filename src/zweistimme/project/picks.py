"""Which sound of a file is used, as people write it: ``2``, ``5+6``, ``1:FC``, ``1:-FC``."""

from __future__ import annotations

import re
from typing import Final

from zweistimme.project.errors import EditError
from zweistimme.project.programme import Programme, SoundPick, SoundTrack

_FORM: Final = re.compile(r"(\d{1,3}(?:\+\d{1,3})*)(?::(-?[A-Z]{1,3}\d?(?:\+[A-Z]{1,3}\d?)*))?", re.ASCII)


def pick_text(pick: SoundPick) -> str:
    """A pick as it is written.

    >>> pick_text(SoundPick((1,), "-FC")), pick_text(SoundPick((5, 6)))
    ('1:-FC', '5+6')
    """
    tracks = "+".join(map(str, pick.tracks))
    return f"{tracks}:{pick.channels}" if pick.channels else tracks


def pick_from(text: str) -> SoundPick:
    """A pick read from how it is written.

    >>> pick_from("1:fc")
    SoundPick(tracks=(1,), channels='FC')
    """
    match = _FORM.fullmatch(text.strip().upper())
    if not match or "0" in (tracks := match.group(1).split("+")):
        raise EditError(
            "“{text}” names no sound of a file. Give the number of a sound track (2), the numbers of "
            "left and right (5+6), or a track with channels (1:FC, 1:-FC).",
            text=text,
        )
    return SoundPick(tuple(map(int, tracks)), match.group(2) or "")


def sound_key(track: SoundTrack) -> str:
    """A name for the sound itself: that of the file, and of what was picked where that is not its first track."""
    return (
        track.checksum if track.pick == SoundPick() else f"{track.checksum}-{pick_text(track.pick).replace(':', '_')}"
    )


def is_bed_the_rest(programme: Programme | None) -> bool:
    """Whether the bed is what the dialogue's own track has besides it, so that the dialogue has nothing of it."""
    if programme is None or programme.bed is None:
        return False
    sound, bed = programme.sound, programme.bed
    rest = bool(sound.pick.channels) and bed.pick.channels == f"-{sound.pick.channels}"
    return rest and sound.path == bed.path and sound.pick.tracks == bed.pick.tracks
