"""The bundled voice: text in, clip and word marks out. The same request always gives the same samples."""

from __future__ import annotations

import re
import zlib
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from zweistimme.project.times import RATE as DESK_RATE
from zweistimme.sound.arrays import Mono
from zweistimme.standin.prosody import laid_out
from zweistimme.standin.synthesis import RATE, Larynx, synthesized
from zweistimme.standin.text import language_of

LANGUAGES: Final = ("en-GB", "de-DE", "es-ES")


@dataclass(frozen=True, slots=True)
class BundledVoice:
    """A voice of the stand-in."""

    id: str
    name: str
    kind: str
    about: str
    larynx: Larynx
    pace: float = 1.0


VOICES: Final[tuple[BundledVoice, ...]] = (
    BundledVoice("alva", "Alva", "woman", "clear, even", Larynx(192, 1.14, -36, 3000), 1.0),
    BundledVoice("brandt", "Brandt", "man", "old, deep, dry", Larynx(94, 0.96, -30, 2300, 0.014, 0.8), 0.92),
    BundledVoice("cosma", "Cosma", "woman", "young, quick", Larynx(238, 1.2, -34, 3800, 0.006, 1.2), 1.1),
    BundledVoice("dario", "Dario", "man", "plain", Larynx(122, 1.0, -38, 3200), 1.0),
    BundledVoice("edda", "Edda", "woman", "warm, low, breathy", Larynx(164, 1.08, -24, 2200, 0.01, 0.9), 0.95),
    BundledVoice("fenn", "Fenn", "child", "bright", Larynx(292, 1.34, -32, 4200, 0.008, 1.15), 1.02),
)
_DIRECTIONS: Final[dict[str, tuple[float, float, float]]] = {
    # pace, pitch, range
    "lively": (1.08, 1.06, 1.5), "calm": (0.92, 0.96, 0.7), "angry": (1.05, 1.08, 1.3), "sad": (0.88, 0.94, 0.6),
    "laughing": (1.05, 1.12, 1.7),
}  # fmt: skip
DIRECTIONS: Final = ("whispering", *_DIRECTIONS)


@dataclass(frozen=True, slots=True)
class Spoken:
    """A clip at 48 kHz and its words as (text, start, end) in seconds."""

    samples: Mono
    words: tuple[tuple[str, float, float], ...]


def voice_by_id(voice_id: str) -> BundledVoice | None:
    """The voice with this id, or None."""
    return next((voice for voice in VOICES if voice.id == voice_id), None)


def speak(text: str, tag: str, voice: BundledVoice, *, direction: str = "", seed: int = 0) -> Spoken:
    """Speak *text* in the language of *tag*. Parentheticals in the text are not spoken."""
    import soxr

    plain = re.sub(r"\([^)]*\)", " ", text)
    larynx, pace = _directed(voice, direction)
    utterance = laid_out(plain, language_of(tag), pace=pace, range_=larynx.range_)
    if not utterance.words:
        return Spoken(np.zeros(DESK_RATE // 10, dtype=np.float32), ())
    number = zlib.crc32(f"{voice.id}|{tag}|{plain}|{direction}|{seed}".encode())
    sound = synthesized(utterance, larynx, seed=number, whispered="whisper" in direction)
    if "whisper" in direction:
        sound *= 0.5
    return Spoken(np.asarray(soxr.resample(sound, RATE, DESK_RATE, "HQ"), dtype=np.float32), utterance.words)


def _directed(voice: BundledVoice, direction: str) -> tuple[Larynx, float]:
    pace, pitch, range_ = _DIRECTIONS.get(direction.strip().lower(), (1.0, 1.0, 1.0))
    larynx = replace(voice.larynx, pitch_hz=voice.larynx.pitch_hz * pitch, range_=voice.larynx.range_ * range_)
    return larynx, voice.pace * pace
