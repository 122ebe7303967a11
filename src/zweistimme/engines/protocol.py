"""What the desk asks of an engine and what it gets back. Plain data; any engine that has these methods will do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt

Mono = npt.NDArray[np.float32]
Report = Callable[[float], None]
"""Told how far a call is, 0..1; may raise Cancelled."""


@dataclass(frozen=True, slots=True)
class VoiceInfo:
    """A voice an engine offers. *pitch_hz* is its usual pitch."""

    id: str
    name: str
    kind: str
    languages: tuple[str, ...]
    about: str = ""
    pitch_hz: float | None = None
    directions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class EngineInfo:
    """What an engine says of itself. *pairs* are (from, to) languages it translates."""

    name: str
    version: str
    recognises: tuple[str, ...] = ()
    pairs: tuple[tuple[str, str], ...] = ()
    voices: tuple[VoiceInfo, ...] = ()


@dataclass(frozen=True, slots=True)
class SoundSource:
    """Sound at 48 kHz, one channel, read at any place: ``read(start, count)`` gives shape ``(count,)``."""

    read: Callable[[int, int], Mono]
    length_samples: int


@dataclass(frozen=True, slots=True)
class HeardWord:
    """A word and when it was heard, in microseconds."""

    text: str
    start_us: int
    end_us: int
    confidence: float


@dataclass(frozen=True, slots=True)
class HeardSegment:
    """A stretch of speech; no words where nothing was recognised. *speaker* is a label such as "A"."""

    start_us: int
    end_us: int
    speaker: str
    words: tuple[HeardWord, ...]


@dataclass(frozen=True, slots=True)
class TranslationItem:
    """A text to translate, with the id its answer carries."""

    id: str
    text: str


@dataclass(frozen=True, slots=True)
class Wordings:
    """The wordings of one item, the fullest first."""

    id: str
    texts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class SpeechRequest:
    """A line to be spoken."""

    text: str
    tag: str
    voice: str
    direction: str = ""
    seed: int = 0


@dataclass(frozen=True, slots=True)
class Speech:
    """A clip at 48 kHz, one channel, and its words."""

    samples: Mono
    words: tuple[HeardWord, ...]


class Engine(Protocol):
    """An engine. Methods raise EngineError with a sentence when they cannot do what is asked."""

    def info(self) -> EngineInfo: ...

    def recognise(self, sound: SoundSource, tag: str, report: Report) -> list[HeardSegment]: ...

    def translate(self, items: Sequence[TranslationItem], source: str, target: str) -> list[Wordings]: ...

    def speak(self, request: SpeechRequest) -> Speech: ...
