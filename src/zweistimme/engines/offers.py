"""What an engine says of itself: what it can do, with which voices, within which limits, and at what price.

Part of the protocol (``protocol.py``), typed in this one place for engines in this process and behind HTTP alike.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Final

from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zweistimme.project.errors import EngineError

VERSION: Final = 2
UNDERSTOOD: Final = (1, 2)
"""An engine of version 1 is asked for nothing that came with version 2."""
Id = Annotated[str, MinLen(1), MaxLen(200)]
Tag = Annotated[str, MinLen(2), MaxLen(40)]
Text = Annotated[str, MaxLen(100_000)]
Microseconds = Annotated[int, Ge(0)]
Share = Annotated[float, Ge(0), Le(1)]


class Role(StrEnum):
    """What an engine can be asked to do."""

    RECOGNISE = "recognise"
    TRANSLATE = "translate"
    SPEAK = "speak"
    IMITATE = "imitate"
    """Make a voice from samples."""
    DESCRIBE = "describe"
    """Say what pictures show."""
    DRAFT = "draft"
    """Write what is to be spoken."""
    COMPOSE = "compose"
    """Make music and atmosphere."""
    SENSE = "sense"
    """Tell the tone of a text."""


DESK_ROLES: Final = (Role.RECOGNISE, Role.TRANSLATE, Role.SPEAK)
"""What every project asks for."""


@dataclass(frozen=True, slots=True)
class Control:
    """A knob of a voice and its range: ``rate`` and ``pitch`` are factors, ``volume_db`` is in dB."""

    name: Id
    least: float
    most: float


@dataclass(frozen=True, slots=True)
class Tier:
    """A quality in which a voice can be had, and what a character costs in it."""

    name: Id
    about: str = ""
    a_character: Annotated[float, Ge(0)] | None = None
    """None: as the engine's price says."""


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
    tiers: tuple[Tier, ...] = ()
    """The first is what is spoken in where nothing is said."""

    def control(self, name: str) -> Control | None:
        """The knob of this name, if the voice has it."""
        return next((control for control in self.controls if control.name == name), None)

    def tier(self, name: str) -> Tier | None:
        """The tier of this name; the first where none is named."""
        if not name:
            return self.tiers[0] if self.tiers else None
        return next((tier for tier in self.tiers if tier.name == name), None)


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
    streams: bool = False
    """Whether speech can be had in pieces, while it is made."""
    situations: bool = False
    """Whether it makes use of who says something to whom and of notes on the programme."""
    pictures: bool = False
    """Whether it looks at the picture at a line that it translates."""
    converses: bool = True
    """Whether lines of several speakers can be asked for together."""
    imitates: tuple[Tag, ...] = ()
    describes: tuple[Tag, ...] = ()
    drafts: tuple[Tag, ...] = ()
    senses: tuple[Tag, ...] = ()
    """The languages of what it does besides."""
    moods: tuple[str, ...] = ()
    """What it can compose: moods of music, places of atmosphere."""

    @property
    def repeats_cost(self) -> bool:
        """Whether asking the same again may have to be paid again."""
        return self.price != FREE and not self.repeats_free

    @property
    def roles(self) -> tuple[Role, ...]:
        """What it can do."""
        able = {
            Role.RECOGNISE: self.recognises, Role.TRANSLATE: self.pairs, Role.SPEAK: self.voices,
            Role.IMITATE: self.imitates, Role.DESCRIBE: self.describes, Role.DRAFT: self.drafts,
            Role.COMPOSE: self.moods, Role.SENSE: self.senses,
        }  # fmt: skip
        return tuple(role for role, things in able.items() if things)

    def price_of_speech(self, voice_id: str, tier: str) -> Price:
        """What a voice costs in a tier; as everything costs, where it is not known."""
        voice = next((voice for voice in self.voices if voice.id == voice_id), None)
        chosen = voice.tier(tier) if voice else None
        if chosen is None or chosen.a_character is None:
            return self.price
        return replace(self.price, a_character=chosen.a_character)

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
