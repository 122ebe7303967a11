"""What an engine says of itself: what it can do, with which voices, within which limits, and at what price.

Part of protocol v1 (``protocol.py``), typed in this one place for engines in this process and behind HTTP alike.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Final

from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zweistimme.project.errors import EngineError

VERSION: Final = 1
Id = Annotated[str, MinLen(1), MaxLen(200)]
Tag = Annotated[str, MinLen(2), MaxLen(40)]


class Role(StrEnum):
    """What an engine can be asked to do."""

    RECOGNISE = "recognise"
    TRANSLATE = "translate"
    SPEAK = "speak"


@dataclass(frozen=True, slots=True)
class Control:
    """A knob of a voice and its range: ``rate`` and ``pitch`` are factors, ``volume_db`` is in dB."""

    name: Id
    least: float
    most: float


@dataclass(frozen=True, slots=True)
class VoiceInfo:
    """A voice an engine offers."""

    id: Id
    name: str
    kind: str
    """woman, man, child or neutral."""
    languages: tuple[Tag, ...]
    about: str = ""
    pitch_hz: Annotated[float, Gt(0)] | None = None
    """Its usual pitch."""
    directions: tuple[str, ...] = ()
    """Ways it can be told to speak, such as whispering."""
    region: str = ""
    controls: tuple[Control, ...] = ()
    sample_rate: Annotated[int, Ge(8_000), Le(192_000)] = 48_000
    """The rate of its clips, which is kept by every clip."""
    varies: bool = False
    """Whether another seed gives another take."""


@dataclass(frozen=True, slots=True)
class Limits:
    """What an engine takes at most; None is no limit."""

    characters: Annotated[int, Ge(1)] | None = None
    """Of the text of one request, mark-up included, as it is sent."""
    seconds: Annotated[float, Gt(0)] | None = None
    """Of sound in one request."""
    items: Annotated[int, Ge(1)] = 16
    """Texts in one translation request."""
    requests_a_minute: Annotated[float, Gt(0)] | None = None
    at_once: Annotated[int, Ge(1), Le(64)] = 1


@dataclass(frozen=True, slots=True)
class Price:
    """What an engine costs. An engine without a price is free."""

    a_character: Annotated[float, Ge(0)] = 0.0
    """Of text sent to be translated or spoken."""
    a_second: Annotated[float, Ge(0)] = 0.0
    """Of sound sent to be recognised."""
    currency: str = ""

    def of(self, characters: int = 0, seconds: float = 0.0) -> Cost:
        """What so much costs.

        >>> Price(0.001, 0.0, "EUR").of(1_240).amount
        1.24
        """
        amount = round(characters * self.a_character + seconds * self.a_second, 6)
        return Cost(characters, round(seconds, 3), amount, self.currency)


UNLIMITED: Final = Limits()
FREE: Final = Price()


@dataclass(frozen=True, slots=True)
class EngineInfo:
    """What an engine says of itself."""

    name: Id
    version: str
    protocol: int = VERSION
    recognises: tuple[Tag, ...] = ()
    pairs: tuple[tuple[Tag, Tag], ...] = ()
    """(from, to) languages it translates; a tag without region stands for every region."""
    voices: tuple[VoiceInfo, ...] = ()
    limits: Limits = UNLIMITED
    price: Price = FREE
    detects: bool = False
    """Whether it tells which of several candidate languages is spoken."""
    repeats_free: bool = False
    """Whether a question that comes again under its key is answered again free of charge."""

    @property
    def repeats_cost(self) -> bool:
        """Whether asking the same again may have to be paid again."""
        return self.price != FREE and not self.repeats_free

    @property
    def roles(self) -> tuple[Role, ...]:
        """What it can do."""
        able = {Role.RECOGNISE: self.recognises, Role.TRANSLATE: self.pairs, Role.SPEAK: self.voices}
        return tuple(role for role, things in able.items() if things)

    def voice(self, voice_id: str) -> VoiceInfo:
        """The voice with this id; EngineError lists those there are."""
        for voice in self.voices:
            if voice.id == voice_id:
                return voice
        there = ", ".join(voice.id for voice in self.voices) or "none"
        raise EngineError(
            "{name} has no voice {voice_id}; it has {there}. Choose another on the Cast page.",
            name=self.name,
            voice_id=voice_id,
            there=there,
        )


@dataclass(frozen=True, slots=True)
class Cost:
    """What a call used."""

    characters: Annotated[int, Ge(0)] = 0
    seconds: Annotated[float, Ge(0)] = 0.0
    amount: Annotated[float, Ge(0)] = 0.0
    currency: str = ""

    def __add__(self, other: Cost) -> Cost:
        return Cost(
            self.characters + other.characters,
            round(self.seconds + other.seconds, 3),
            round(self.amount + other.amount, 6),
            self.currency or other.currency,
        )


NOTHING_USED: Final = Cost()


@dataclass(frozen=True, slots=True)
class Usage:
    """What was used with a token so far, and what is left of its quota (None: no quota)."""

    used: Cost = NOTHING_USED
    characters_left: Annotated[int, Ge(0)] | None = None
    seconds_left: Annotated[float, Ge(0)] | None = None
