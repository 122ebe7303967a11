"""What a Broadcast Wave file says of itself: the bext chunk, version 2, with loudness (EBU Tech 3285, 2011)."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from math import isfinite
from typing import Final

from zweistimme.sound.loudness import Loudness

_UNKNOWN: Final = 0x7FFF
_VERSION: Final = 2
_FORM: Final = "<256s32s32s10s8sQH64s5h180x"


@dataclass(frozen=True, slots=True)
class BroadcastNote:
    """What is written: *date* as 2026-11-29, *time* as 18:30:00, the first sample's count since midnight, and how
    loud the sound is, once that is known."""

    description: str
    originator: str
    reference: str
    date: str
    time: str
    since_midnight_samples: int = 0
    loudness: Loudness | None = None
    history: str = ""

    def content(self) -> bytes:
        """The content of the chunk. Text is ASCII there: what is not becomes a question mark."""
        texts = [text.encode("ascii", "replace") for text in (self.description, self.originator, self.reference)]
        when = [text.encode("ascii", "replace") for text in (self.date, self.time)]
        head = struct.pack(_FORM, *texts, *when, self.since_midnight_samples, _VERSION, b"", *_figures(self.loudness))
        return head + self.history.encode("ascii", "replace")


def _figures(loudness: Loudness | None) -> tuple[int, ...]:
    """Loudness, range, true peak, loudest moment and short term, in hundredths."""
    if loudness is None:
        return (_UNKNOWN,) * 5
    figures = (
        loudness.integrated_lufs,
        loudness.range_lu,
        loudness.true_peak_dbtp,
        loudness.momentary_lufs,
        loudness.short_term_lufs,
    )
    return tuple(round(100 * one) if isfinite(one) and abs(one) < 327 else _UNKNOWN for one in figures)
