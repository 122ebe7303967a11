"""Protocol v1: what the desk asks of an engine and what it gets back, typed in this one place.

The same frozen types serve engines in this process and engines behind HTTP: ``wire.py`` reads and writes them as
JSON, the server describes them as OpenAPI, docs/engine-protocol.md explains them. Times are whole microseconds.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Final, Protocol

import numpy as np
import numpy.typing as npt
from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zweistimme.project.errors import EngineError

VERSION: Final = 1

Mono = npt.NDArray[np.float32]
Report = Callable[[float], None]
"""Told how far a call is, 0..1; may raise Cancelled."""

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
        raise EngineError(f"{self.name} has no voice {voice_id}; it has {there}. Choose another on the Cast page.")


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


@dataclass(frozen=True, slots=True)
class SoundSource:
    """Sound at 48 kHz, one channel, read at any place: ``read(start, count)`` gives shape ``(count,)``."""

    read: Callable[[int, int], Mono]
    length_samples: int


@dataclass(frozen=True, slots=True)
class RecognitionQuestion:
    """What to listen for."""

    languages: Annotated[tuple[Tag, ...], MinLen(1), MaxLen(20)]
    """Candidates; the engine says which it heard."""
    hints: Annotated[tuple[Annotated[str, MaxLen(500)], ...], MaxLen(5_000)] = ()
    """Names, terms and sentences that are likely to be said."""
    speakers: Annotated[int, Ge(1), Le(100)] | None = None
    """How many people speak, if that is known."""


@dataclass(frozen=True, slots=True)
class HeardWord:
    """A word and when it was heard."""

    text: Id
    start_us: Microseconds
    end_us: Microseconds
    confidence: Share = 1.0
    filler: bool = False
    """A sound of hesitation rather than a word."""


@dataclass(frozen=True, slots=True)
class HeardSegment:
    """A stretch of speech; no words where nothing was recognised. *speaker* is a label such as "A"."""

    start_us: Microseconds
    end_us: Microseconds
    speaker: Id
    words: tuple[HeardWord, ...]


@dataclass(frozen=True, slots=True)
class Recognition:
    """What was heard, and in which of the candidate languages."""

    language: Tag
    probability: Share
    segments: tuple[HeardSegment, ...]
    cost: Cost = NOTHING_USED


@dataclass(frozen=True, slots=True)
class Term:
    """A word or name and what it must become; the same on both sides keeps it as it is."""

    source: Id
    target: Id


@dataclass(frozen=True, slots=True)
class TranslationItem:
    """A text to translate, with the id its answer carries, its neighbours, and how long it may be to say."""

    id: Id
    text: Text
    before: Text = ""
    after: Text = ""
    longest_us: Annotated[int, Gt(0)] | None = None


@dataclass(frozen=True, slots=True)
class TranslationRequest:
    """Texts of one programme to translate together."""

    source: Tag
    target: Tag
    items: Annotated[tuple[TranslationItem, ...], MaxLen(1_000)]
    terms: Annotated[tuple[Term, ...], MaxLen(5_000)] = ()
    wordings: Annotated[int, Ge(1), Le(10)] = 3
    """How many wordings of each are wanted, the fullest first."""


@dataclass(frozen=True, slots=True)
class Wording:
    """One way to say an item, and how long that will take."""

    text: Text
    spoken_us: Microseconds = 0


@dataclass(frozen=True, slots=True)
class Wordings:
    """The wordings of one item, the fullest first."""

    id: Id
    wordings: Annotated[tuple[Wording, ...], MinLen(1)]

    @property
    def texts(self) -> tuple[str, ...]:
        """The wordings without their lengths."""
        return tuple(wording.text for wording in self.wordings)


@dataclass(frozen=True, slots=True)
class Translation:
    """The answer to a translation request: every item once."""

    items: tuple[Wordings, ...]
    cost: Cost = NOTHING_USED


@dataclass(frozen=True, slots=True)
class SpeechRequest:
    """A line to be spoken, as an SSML 1.1 document."""

    ssml: Annotated[Text, MinLen(1)]
    language: Tag
    voice: Id
    direction: Annotated[str, MaxLen(100)] = ""
    seed: Annotated[int, Ge(0), Le(2**31)] = 0
    rate: Annotated[float, Ge(0.25), Le(4)] = 1.0
    pitch: Annotated[float, Ge(0.25), Le(4)] = 1.0
    volume_db: Annotated[float, Ge(-40), Le(20)] = 0.0


@dataclass(frozen=True, slots=True)
class DialogueRequest:
    """Lines of several speakers that are to be played together."""

    turns: Annotated[tuple[SpeechRequest, ...], MinLen(1), MaxLen(100)]


@dataclass(frozen=True, slots=True)
class Speech:
    """A clip at 48 kHz, one channel, its words in clip time, and, in a dialogue, when it begins."""

    samples: Mono
    words: tuple[HeardWord, ...]
    cost: Cost = NOTHING_USED
    start_us: int = 0


class Engine(Protocol):
    """An engine. Methods raise an EngineError with a sentence when they cannot do what is asked."""

    @property
    def identity(self) -> str:
        """Who answers: how it is reached, and what it is told. Two engines may call themselves by one name."""
        ...

    def info(self) -> EngineInfo: ...

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition: ...

    def translate(self, request: TranslationRequest) -> Translation: ...

    def speak(self, request: SpeechRequest) -> Speech: ...

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]: ...

    def usage(self) -> Usage: ...

    def close(self) -> None: ...
