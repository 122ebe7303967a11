"""What each file of a mix has of its lanes, and how it is written: at its gain, its true peak held, measured."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.encode import SoundFormat, SoundWriter
from zweistimme.media.file_loudness import file_loudness
from zweistimme.project.sound_delivery import Channels, Part, SoundPreset
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Sound, amplitude
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import Loudness, LoudnessMeter
from zweistimme.stages.mix.measure import LAYOUTS
from zweistimme.stages.mix.opening import MixBlock
from zweistimme.stages.mix.sitting import GAIN_DIGITS

_OTHER_RATE_DB: Final = 0.2
_CODED_DB: Final = 1.0
"""What may lie further over the peak once a file is read again: at another rate, and out of a coded form."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """A file that is wanted: of which preset, with which part of the mix (of which *person*, where it is one), in which
    form; *channels* where they are not the preset's."""

    path: Path
    preset_name: str
    preset: SoundPreset
    part: Part
    form: SoundFormat
    person: str = ""
    channels: Channels | None = None

    @property
    def layout(self) -> Channels:
        """Its channels."""
        return self.channels or self.preset.channels


class Output:
    """A file on its way: mixed, limited, written, and measured as it stands in the file."""

    def __init__(self, wanted: Wanted, writer: SoundWriter, gain_db: float) -> None:
        self.wanted, self._writer = wanted, writer
        self._gain = np.float32(amplitude(round(gain_db, GAIN_DIGITS)))
        self._matrix = LAYOUTS[wanted.layout]
        self._exact = wanted.form.form.is_exact and wanted.form.rate == RATE
        lower_db = 0.0 if self._exact else _OTHER_RATE_DB if wanted.form.form.is_exact else _CODED_DB
        self._limiter = TruePeakLimiter(len(self._matrix), wanted.preset.true_peak_dbtp - lower_db)
        self._meter = LoudnessMeter(len(self._matrix))

    def feed(self, block: MixBlock) -> None:
        """The next stretch."""
        self._take(self._limiter.feed(self._matrix @ self._lanes(block) * self._gain))

    def finish(self) -> Loudness:
        """Write what is left; how loud it is."""
        self._take(self._limiter.finish())
        loudness = self._meter.result()
        self._writer.finish(loudness)
        return loudness

    def _take(self, ready: Sound) -> None:
        self._meter.feed(self._writer.write(ready))

    def _lanes(self, block: MixBlock) -> Sound:
        """The dub and both sides, as far as they are in this file; shape ``(3, n)``."""
        part, nothing = self.wanted.part, np.zeros_like(block.dub)
        if part is Part.MIX:
            return np.stack((block.dub, *block.sides))
        if part is Part.DUB:
            return np.stack((block.dub, nothing, nothing))
        if part is Part.PEOPLE:
            return np.stack((block.people[self.wanted.person], nothing, nothing))
        return np.stack((nothing, *(block.room if part is Part.ROOM else block.under)))


def measured_again(wanted: Wanted, loudness: Loudness) -> Loudness:
    """How loud a finished file is: as it was written where that is exact, else as it is read again; of more than two
    channels in a coded form, as it went in."""
    exact = wanted.form.form.is_exact and wanted.form.rate == RATE
    return loudness if exact or wanted.layout is Channels.SURROUND else file_loudness(wanted.path, DecodeNotes())
