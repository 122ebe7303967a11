"""How a mix is made: what is done to the voices, what lies under them and how it gives way, and in which place each
line is spoken."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Final

from zweistimme.messages import msg

LEVELS_DB: Final = (-60.0, 24.0)
LONGEST_US: Final = 10_000_000


class Place(StrEnum):
    """Where somebody is while saying a line, as it is heard."""

    AS_SEEN = "as-seen"
    """Where the picture shows them: near on screen, at a distance off screen."""
    NEAR = "near"
    FAR = "far"
    TELEPHONE = "telephone"
    LOUDSPEAKER = "loudspeaker"


class Beneath(StrEnum):
    """What lies under the dub."""

    AS_THERE = "as-there"
    """The bed where there is one, the lowered original where there is none."""
    ORIGINAL = "original"
    ROOM_TONE = "room-tone"
    """The original where nobody speaks, and its own room tone where somebody does."""


@dataclass(frozen=True, slots=True)
class Treatment:
    """What is done to the voices of a dub so that they sit where the original's sat; each can be left out."""

    line_levels: bool = True
    """Each line as loud, beside its speaker's others, as the original's is."""
    tone: bool = True
    room: bool = True
    high_pass: bool = True
    de_ess: bool = True
    even_out: bool = True


@dataclass(frozen=True, slots=True)
class Giving:
    """How what lies under the dub gives way: it is down *look_ahead* before speech after *attack*, stays down over
    pauses up to *hold*, and is back after *release*. Sides of a stereo sound go down by *sides_db* where that is
    said."""

    look_ahead_us: int = 100_000
    attack_us: int = 180_000
    hold_us: int = 900_000
    release_us: int = 600_000
    sides_db: float | None = None


@dataclass(frozen=True, slots=True)
class MixSettings:
    """How the mix is made. Levels in dB; loudness in LUFS; true peak in dBTP."""

    loudness_lufs: float = -23.0
    true_peak_dbtp: float = -1.0
    bed_db: float = 0.0
    duck_db: float = -18.0
    voice_over_duck_db: float = -12.0
    beneath: Beneath = Beneath.AS_THERE
    giving: Giving = field(default_factory=Giving)
    treatment: Treatment = field(default_factory=Treatment)
    room_db: float = 0.0
    """How much more or less of the original's room the dub is given."""


def mix_problem(mix: MixSettings) -> str:
    """Why no mix can be made so; empty where one can."""
    if not (-40 <= mix.loudness_lufs <= -8 and -12 <= mix.true_peak_dbtp <= 0):
        return msg("A mix has between -40 and -8 LUFS and a true peak between -12 and 0 dBTP.")
    levels = (mix.bed_db, mix.duck_db, mix.voice_over_duck_db, mix.room_db, mix.giving.sides_db or 0.0)
    if not all(LEVELS_DB[0] <= level <= LEVELS_DB[1] for level in levels):
        return msg("A level of the mix lies between -60 and 24 dB.")
    giving = mix.giving
    times = (giving.look_ahead_us, giving.attack_us, giving.hold_us, giving.release_us)
    if not all(0 <= time <= LONGEST_US for time in times):
        return msg("What lies under the dub gives way within ten seconds.")
    return ""
