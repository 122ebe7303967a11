"""In which form sound is handed over: how loud, in which channels and file, which parts. Named presets, ours and own.

Figures of ours: EBU R 128 (2023) and its supplement for streaming (R 128 s2), ATSC A/85:2013, AES TD1008 (2021).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType
from typing import Final

from zweistimme.messages import msg


class LoudnessOf(StrEnum):
    """What is to be as loud as wanted."""

    PROGRAMME = "programme"
    DIALOGUE = "dialogue"


class Channels(StrEnum):
    """The channels of a file; in 5.1 the dub is in the centre, what lies under it left and right."""

    MONO = "mono"
    STEREO = "stereo"
    SURROUND = "5.1"

    @property
    def number(self) -> int:
        """How many there are."""
        return {"mono": 1, "stereo": 2, "5.1": 6}[self.value]


class SoundForm(StrEnum):
    """The form of a file."""

    WAV = "wav"
    BWF = "bwf"
    FLAC = "flac"
    OPUS = "opus"
    AAC = "aac"
    MP3 = "mp3"

    @property
    def ending(self) -> str:
        """What its name ends in."""
        return {"bwf": ".wav", "aac": ".m4a"}.get(self.value, f".{self.value}")

    @property
    def is_exact(self) -> bool:
        """Whether what is read from it is what was written."""
        return self in (SoundForm.WAV, SoundForm.BWF, SoundForm.FLAC)


class Part(StrEnum):
    """What of a mix is in a file."""

    MIX = "mix"
    DUB = "voice"
    BENEATH = "music-effects"
    ROOM = "room"
    PEOPLE = "people"
    """Each person in a file of their own."""


@dataclass(frozen=True, slots=True)
class SoundPreset:
    """One form of a delivery. *bit_rate_kbit* is for forms that are not exact: 0 is as the form usually has it;
    *most_range_lu* is what the loudness range is held against, not pressed to."""

    loudness_lufs: float = -23.0
    true_peak_dbtp: float = -1.0
    loudness_of: LoudnessOf = LoudnessOf.PROGRAMME
    most_range_lu: float | None = None
    channels: Channels = Channels.STEREO
    rate: int = 48_000
    bits: int = 24
    form: SoundForm = SoundForm.WAV
    bit_rate_kbit: int = 0
    parts: tuple[Part, ...] = (Part.MIX,)


RATES: Final = (44_100, 48_000, 96_000)
BITS: Final = (16, 24)
PRESETS: Final[Mapping[str, SoundPreset]] = MappingProxyType(
    {
        "ebu-r128": SoundPreset(-23.0, -1.0, form=SoundForm.BWF, parts=(Part.MIX, Part.DUB, Part.BENEATH)),
        "ebu-r128-5.1": SoundPreset(-23.0, -1.0, channels=Channels.SURROUND, form=SoundForm.BWF),
        "atsc-a85": SoundPreset(-24.0, -2.0, LoudnessOf.DIALOGUE, form=SoundForm.BWF),
        "streaming": SoundPreset(-16.0, -1.0, most_range_lu=18.0, form=SoundForm.AAC),
        "podcast-mono": SoundPreset(-19.0, -1.0, channels=Channels.MONO, form=SoundForm.MP3, rate=44_100),
        "archive": SoundPreset(-23.0, -1.0, form=SoundForm.FLAC, parts=(Part.MIX, Part.DUB, Part.BENEATH, Part.PEOPLE)),
    }
)
"""Ours, by name."""


def presets_of(own: Mapping[str, SoundPreset]) -> dict[str, SoundPreset]:
    """Every preset there is, by name: ours, and a project's *own*, which may have a name of ours."""
    return {**PRESETS, **own}


def preset_problem(name: str, preset: SoundPreset) -> str:
    """Why nothing can be handed over so; empty where it can."""
    if not name or len(name) > 60 or not all(sign.isalnum() or sign in "-._" for sign in name) or name[0] in ".-":
        return msg(
            "The name of a preset has letters, digits, points and dashes, at most 60, and begins with none of these."
        )
    if not (-40 <= preset.loudness_lufs <= -8 and -12 <= preset.true_peak_dbtp <= 0):
        return msg("A mix has between -40 and -8 LUFS and a true peak between -12 and 0 dBTP.")
    if preset.most_range_lu is not None and not 1 <= preset.most_range_lu <= 60:
        return msg("A loudness range is held against 1 to 60 LU.")
    if preset.rate not in RATES or preset.bits not in BITS:
        return msg("Sound is written at 44100, 48000 or 96000 Hz, with 16 or 24 bits.")
    if not preset.parts:
        return msg("A preset without parts writes nothing.")
    if preset.form is SoundForm.MP3 and (preset.channels is Channels.SURROUND or preset.rate == 96_000):
        return msg("MP3 has one channel or two, and at most 48000 Hz.")
    if preset.form is SoundForm.OPUS and preset.rate != 48_000:
        return msg("Opus is written at 48000 Hz.")
    if preset.bit_rate_kbit and not 16 <= preset.bit_rate_kbit <= 640:
        return msg("A bit rate lies between 16 and 640 kbit a second.")
    return ""
