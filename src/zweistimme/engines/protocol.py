"""The protocol, version 2: what the desk asks of an engine and what it gets back, typed in this one place.

The same frozen types serve engines in this process and engines behind HTTP: ``wire.py`` reads and writes them as
JSON, the server describes them as OpenAPI, docs/engine-protocol.md explains them. Times are whole microseconds.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Final, Protocol

import numpy as np
import numpy.typing as npt
from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zweistimme.engines.extra_roles import Answered, Asked, Base64
from zweistimme.engines.offers import NOTHING_USED, Cost, EngineInfo, Id, Microseconds, Share, Tag, Text, Usage
from zweistimme.project.writing.untranslated import mark_untranslated

MOST_HINTS: Final = 5_000
Mono = npt.NDArray[np.float32]
Report = Callable[[float], None]
"""Told how far a call is, 0..1; may raise Cancelled."""

Hear = Callable[[Mono], None]
"""Given samples at 48 kHz, one channel, as they come."""


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
    hints: Annotated[tuple[Annotated[str, MaxLen(500)], ...], MaxLen(MOST_HINTS)] = ()
    """Names, terms and sentences that are likely to be said."""
    speakers: Annotated[int, Ge(1), Le(100)] | None = None
    """How many people speak, if that is known."""
    attempt: Annotated[int, Ge(0)] = 0
    """Counted up when the same is asked anew, since the answer before was no good: a question with a key of its own."""


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
    """What was heard, and in which of the candidate languages; how probably, if that was measured."""

    language: Tag
    probability: Share | None
    segments: tuple[HeardSegment, ...]
    cost: Cost = NOTHING_USED


@dataclass(frozen=True, slots=True)
class Term:
    """A word or name and what it must become; the same on both sides keeps it as it is. *forbidden* are words that are
    not to be used for it, *note* says what it means."""

    source: Annotated[str, MinLen(1), MaxLen(500)]
    target: Annotated[str, MinLen(1), MaxLen(500)]
    forbidden: tuple[Annotated[str, MaxLen(500)], ...] = ()
    note: Text = ""


@dataclass(frozen=True, slots=True)
class Situation:
    """Who says something to whom, how one addresses the other (``formal``, ``familiar`` or not known), in which manner,
    whether the mouth is seen, and what the picture shows then: a JPEG in base64 for engines that take pictures."""

    speaker: Annotated[str, MaxLen(200)] = ""
    listener: Annotated[str, MaxLen(200)] = ""
    address: Annotated[str, MaxLen(20)] = ""
    direction: Annotated[str, MaxLen(100)] = ""
    on_screen: bool = False
    picture: Base64 | None = None


@dataclass(frozen=True, slots=True)
class About:
    """What a programme is about, who it is for, and what else a translator has to know."""

    subject: Text = ""
    audience: Text = ""
    notes: Text = ""


@dataclass(frozen=True, slots=True)
class TranslationItem:
    """A text to translate, with the id its answer carries, its neighbours, and how long it may be to say."""

    id: Id
    text: Text
    before: Text = ""
    after: Text = ""
    longest_us: Annotated[int, Gt(0)] | None = None
    situation: Situation | None = None


@dataclass(frozen=True, slots=True)
class TranslationRequest:
    """Texts of one programme to translate together."""

    source: Tag
    target: Tag
    items: Annotated[tuple[TranslationItem, ...], MaxLen(1_000)]
    terms: Annotated[tuple[Term, ...], MaxLen(5_000)] = ()
    wordings: Annotated[int, Ge(1), Le(10)] = 3
    """How many wordings of each are wanted, the fullest first."""
    attempt: Annotated[int, Ge(0)] = 0
    about: About | None = None


@dataclass(frozen=True, slots=True)
class Wording:
    """One way to say an item, and how long that will take."""

    text: Text
    spoken_us: Microseconds = 0
    untranslated: tuple[tuple[int, int], ...] = ()
    """Stretches ``[start, end)`` of the text, in characters, that were left in the language of the original."""


@dataclass(frozen=True, slots=True)
class Wordings:
    """The wordings of one item, the fullest first."""

    id: Id
    wordings: Annotated[tuple[Wording, ...], MinLen(1)]

    @property
    def texts(self) -> tuple[str, ...]:
        """The wordings without their lengths; what was not translated is marked."""
        return tuple(mark_untranslated(wording.text, wording.untranslated) for wording in self.wordings)


@dataclass(frozen=True, slots=True)
class Translation:
    """The answer to a translation request: items that were asked for, each at most once. What is missing has failed."""

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
    tier: Annotated[str, MaxLen(200)] = ""
    """In which quality, of those the voice has."""
    attempt: Annotated[int, Ge(0)] = 0


@dataclass(frozen=True, slots=True)
class DialogueRequest:
    """Lines of several speakers that are to be played together."""

    turns: Annotated[tuple[SpeechRequest, ...], MinLen(1), MaxLen(100)]
    attempt: Annotated[int, Ge(0)] = 0


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
    def name(self) -> str:
        """What its connection is called."""
        ...

    @property
    def identity(self) -> str:
        """Who answers: how it is reached, and what it is told. Two engines may call themselves by one name."""
        ...

    def info(self, *, anew: bool = False) -> EngineInfo:
        """What it says of itself; with *anew* it is asked now, whatever it said before."""
        ...

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition: ...

    def translate(self, request: TranslationRequest) -> Translation: ...

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """The clip, whole; *hear* is given it in pieces before, as far as the engine lets it out while it speaks."""
        ...

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]: ...

    def ask(self, request: Asked) -> Answered:
        """What it answers to one of the questions of ``extra_roles``; ``asked_extra`` looks at it."""
        ...

    def usage(self) -> Usage: ...

    def close(self) -> None: ...
