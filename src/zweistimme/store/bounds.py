"""What the rows of a project may hold: one that somebody sent is read like any hostile file.

Only what would lead out of the folder or overflow is refused. What is merely odd, such as a pin before the programme in
an older project or a programme whose file does not say how long it is, is opened: nobody is shut out of their own work.
"""

from __future__ import annotations

import re
from typing import Any, Final

from zweistimme.project.model import Line, Manner, Placement, Segment, SoundTrack, Take

LONGEST_US: Final = 1_000_000_000_000
"""Eleven days; no programme lasts longer."""
_LONGEST_SAMPLES: Final = 48_000 * 86_400
_FASTEST: Final = 1e9
"""A line that was crushed to its pauses is said to be spoken at any tempo."""
_MOST_FACTOR, _MOST_DB = 100.0, 200.0
_CLIP: Final = re.compile("[0-9a-f]{64}")
_CHANNELS: Final = re.compile(r"-?[A-Za-z0-9+]*")
_CHECKSUM: Final = re.compile("[0-9a-z-]{1,80}")


def problem_of(value: Any) -> str:
    """What is wrong with a row's object, in a few words; empty where nothing is."""
    if isinstance(value, Segment):
        inside = 0 <= value.start_us < value.end_us <= LONGEST_US
        return "" if inside and all(abs(w.start_us) <= LONGEST_US for w in value.words) else "its times are no times"
    if isinstance(value, Line):
        if not _speakable(value.manner):
            return "nobody could speak so"
        return "" if value.pin is None or abs(value.pin.start_us) <= LONGEST_US else "its pin is nowhere"
    if not all(map(_speakable, getattr(value, "manners", {}).values())):
        return "nobody could speak so"
    if isinstance(value, Placement):
        inside = abs(value.start_us) <= LONGEST_US and 0 <= value.length_us <= LONGEST_US
        return "" if inside and 0 <= value.tempo <= _FASTEST else "its times are no times"
    if isinstance(value, Take):
        order = 0 <= value.speech_start_samples <= value.speech_end_samples <= value.length_samples
        if not order or value.length_samples > _LONGEST_SAMPLES:
            return "its length is no length"
        return "" if _CLIP.fullmatch(value.clip) else "its clip has no name of a clip"
    programme = getattr(value, "programme", None)
    tracks = (programme.sound, programme.bed) if programme is not None else ()
    return next(filter(None, map(_problem_of_track, filter(None, tracks))), "")


def _speakable(manner: Manner) -> bool:
    return 0 < manner.rate <= _MOST_FACTOR and 0 < manner.pitch <= _MOST_FACTOR and abs(manner.volume_db) <= _MOST_DB


def _problem_of_track(track: SoundTrack) -> str:
    if not _CHECKSUM.fullmatch(track.checksum) or not _CHANNELS.fullmatch(track.pick.channels):
        return "its sound has no checksum"
    return "" if 0 <= track.duration_us <= LONGEST_US else "its sound has no length"
