"""The bundled voice: SSML in, clip and word marks out. The same request always gives the same samples."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Final

import numpy as np

from zweistimme.formats.ssml import Span, spans_of
from zweistimme.project.times import RATE as DESK_RATE
from zweistimme.project.writing import spoken_text
from zweistimme.sound.arrays import Mono, amplitude, eased
from zweistimme.standin.prosody import laid_out
from zweistimme.standin.synthesis import RATE, Larynx, synthesized
from zweistimme.standin.text import language_of

LANGUAGES: Final = ("en-GB", "de-DE", "es-ES")
_HIGHEST: Final = 0.98
_EASE_S: Final = 0.003
"""A vowel that begins a line would begin with a click."""


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
    BundledVoice("gunda", "Gunda", "woman", "old, slow, worn", Larynx(176, 1.1, -26, 1900, 0.02, 0.75), 0.88),
    BundledVoice("hale", "Hale", "man", "young, bright, eager", Larynx(140, 1.05, -38, 4000, 0.005, 1.25), 1.06),
)


@dataclass(frozen=True, slots=True)
class Manner:
    """How a voice is to speak: pace, pitch and pitch movements as factors, breath and level in dB more."""

    pace: float = 1.0
    pitch: float = 1.0
    range_: float = 1.0
    breath_db: float = 0.0
    volume_db: float = 0.0
    unsteady: float = 1.0
    brighter: float = 1.0


_DIRECTIONS: Final[dict[str, Manner]] = {
    "whispering": Manner(volume_db=-6.0206),
    "lively": Manner(1.08, 1.06, 1.5, brighter=1.15),
    "calm": Manner(0.92, 0.96, 0.7, brighter=0.85),
    "angry": Manner(1.05, 1.08, 1.3, breath_db=-4, volume_db=2.0, unsteady=2.0, brighter=1.4),
    "sad": Manner(0.88, 0.94, 0.6, breath_db=5, volume_db=-2.0, brighter=0.75),
    "laughing": Manner(1.05, 1.12, 1.7, breath_db=6, unsteady=1.5, brighter=1.1),
    "shouting": Manner(0.96, 1.3, 1.3, breath_db=-6, volume_db=5.0, unsteady=1.4, brighter=1.6),
    "softly": Manner(0.94, 0.98, 0.8, breath_db=7, volume_db=-4.0, brighter=0.7),
    "hurried": Manner(1.32, 1.04, 1.1, volume_db=1.0, brighter=1.1),
    "slow": Manner(0.76, 0.97, 0.9),
}
DIRECTIONS: Final = tuple(_DIRECTIONS)


@dataclass(frozen=True, slots=True)
class Spoken:
    """A clip at 48 kHz, its words as (text, start, end) and the marks passed as (name, time), in seconds."""

    samples: Mono
    words: tuple[tuple[str, float, float], ...]
    marks: tuple[tuple[str, float], ...] = ()


def voice_by_id(voice_id: str) -> BundledVoice | None:
    """The voice with this id, or None."""
    return next((voice for voice in VOICES if voice.id == voice_id), None)


def speak(text: str, tag: str, voice: BundledVoice, *, direction: str = "", seed: int = 0) -> Spoken:
    """Speak plain *text* in the language of *tag*. Parentheticals in the text are not spoken."""
    return speak_spans([Span(spoken_text(text))], tag, voice, direction=direction, seed=seed)


def speak_ssml(
    ssml: str, tag: str, voice: BundledVoice, *, direction: str = "", seed: int = 0, manner: Manner | None = None
) -> Spoken:
    """Speak a document; a ``voice`` element may hand on to another of these voices. FormatError if it is not SSML."""
    return speak_spans(spans_of(ssml), tag, voice, direction=direction, seed=seed, manner=manner or Manner())


def speak_spans(
    spans: Sequence[Span],
    tag: str,
    voice: BundledVoice,
    *,
    direction: str = "",
    seed: int = 0,
    manner: Manner | None = None,
) -> Spoken:
    """Speak spans one after the other, each run of one voice as one utterance."""
    parts: list[Mono] = []
    words: list[tuple[str, float, float]] = []
    marks: list[tuple[str, float]] = []
    offset = 0.0
    for name, run in groupby(spans, key=lambda span: span.voice):
        spoken = _one_voice(tuple(run), tag, voice_by_id(name) or voice, direction, seed, manner or Manner())
        words += [(text, a + offset, b + offset) for text, a, b in spoken.words]
        marks += [(mark, time + offset) for mark, time in spoken.marks]
        parts.append(spoken.samples)
        offset += len(spoken.samples) / DESK_RATE
    if not words:
        return Spoken(np.zeros(DESK_RATE // 10, dtype=np.float32), (), tuple(marks))
    return Spoken(np.concatenate(parts), tuple(words), tuple(marks))


def _one_voice(
    spans: tuple[Span, ...], tag: str, voice: BundledVoice, direction: str, seed: int, asked: Manner
) -> Spoken:
    import soxr

    whispered = "whisper" in direction
    told = _DIRECTIONS.get("whispering" if whispered else direction.strip().lower(), Manner())
    manner = _together(_together(told, asked), _varied(seed))
    larynx = _shaped(voice.larynx, manner)
    spans = tuple(replace(span, pitch=_pitch_factor(span, voice.larynx.pitch_hz)) for span in spans)
    utterance = laid_out(spans, language_of(tag), pace=voice.pace * manner.pace, range_=larynx.range_)
    if not utterance.words:
        return Spoken(np.zeros(round(utterance.duration * DESK_RATE), dtype=np.float32), (), utterance.marks)
    text = " ".join(span.text for span in spans if span.text)
    number = zlib.crc32(f"{voice.id}|{tag}|{text}|{direction}|{seed}".encode())
    sound = synthesized(utterance, larynx, seed=number, whispered=whispered) * amplitude(manner.volume_db)
    samples = np.asarray(soxr.resample(sound, RATE, DESK_RATE, "HQ"), dtype=np.float32)
    samples = eased(samples, _EASE_S, DESK_RATE)
    peak = float(np.abs(samples).max())
    return Spoken(samples * min(1.0, _HIGHEST / peak), utterance.words, utterance.marks)


def _pitch_factor(span: Span, own_hz: float) -> float:
    """What a span's pitch is, as a factor of the voice's own."""
    factor = span.pitch * (span.pitch_hz / own_hz if span.pitch_hz else 1.0) + span.pitch_more_hz / own_hz
    return min(max(factor, 0.25), 4.0)


def _together(first: Manner, second: Manner) -> Manner:
    return Manner(
        first.pace * second.pace,
        first.pitch * second.pitch,
        first.range_ * second.range_,
        first.breath_db + second.breath_db,
        first.volume_db + second.volume_db,
        first.unsteady * second.unsteady,
        first.brighter * second.brighter,
    )


def _varied(seed: int) -> Manner:
    """Another take of the same line: a little quicker or slower, higher or lower, livelier or flatter."""
    if seed == 0:
        return Manner()
    random = np.random.default_rng(seed)
    pace, pitch, range_ = random.normal(1.0, (0.03, 0.02, 0.12))
    return Manner(float(np.clip(pace, 0.9, 1.1)), float(np.clip(pitch, 0.94, 1.06)), float(np.clip(range_, 0.6, 1.5)))


def _shaped(larynx: Larynx, manner: Manner) -> Larynx:
    return replace(
        larynx,
        pitch_hz=larynx.pitch_hz * manner.pitch,
        range_=larynx.range_ * manner.range_,
        breath_db=larynx.breath_db + manner.breath_db,
        unsteady=larynx.unsteady * manner.unsteady,
        soft_hz=larynx.soft_hz * manner.brighter,
    )
