"""The sounds of speech as numbers: formant targets of a man's vocal tract in Hz, durations in ms.

Vowel targets are rounded from Peterson and Barney (JASA 24, 1952) for English, and from the usual German and
Spanish vowel charts; consonant loci and noise bands follow Klatt (JASA 67, 1980), table III.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum
from typing import Final


class Manner(Enum):
    VOWEL = "vowel"
    GLIDE = "glide"
    NASAL = "nasal"
    FRICATIVE = "fricative"
    STOP = "stop"
    PAUSE = "pause"


@dataclass(frozen=True, slots=True)
class Phone:
    """One sound. *voice*, *noise* and *breath* are levels in dB relative to a full vowel; None is silence.

    *noise_hz* and *noise_width_hz* give the band of frication or of a burst.
    """

    manner: Manner
    formants: tuple[float, float, float]
    duration_ms: float
    voice_db: float | None = None
    noise_db: float | None = None
    noise_hz: float = 4000.0
    noise_width_hz: float = 1500.0
    breath_db: float | None = None
    burst_db: float | None = None
    widen: float = 1.0


def _vowel(f1: float, f2: float, f3: float, ms: float) -> Phone:
    return Phone(Manner.VOWEL, (f1, f2, f3), ms, voice_db=0.0)


def _glide(f1: float, f2: float, f3: float, ms: float, db: float = -5.0) -> Phone:
    return Phone(Manner.GLIDE, (f1, f2, f3), ms, voice_db=db, widen=1.3)


def _nasal(f2: float, f3: float, ms: float) -> Phone:
    return Phone(Manner.NASAL, (270, f2, f3), ms, voice_db=-7.0, widen=2.2)


def _fricative(
    locus: tuple[float, float, float],
    ms: float,
    db: float,
    hz: float,
    width: float,
    voice: float | None = None,
) -> Phone:
    return Phone(Manner.FRICATIVE, locus, ms, voice, db, hz, width, widen=1.5)


def _stop(
    locus: tuple[float, float, float], ms: float, db: float, hz: float, width: float,
    voice: float | None = None, breath: float | None = None,
) -> Phone:  # fmt: skip
    return Phone(Manner.STOP, locus, ms, voice, None, hz, width, breath, db, widen=1.4)


_LIPS, _TEETH, _RIDGE, _PALATE, _VELUM = (
    (300, 900, 2250), (320, 1350, 2600), (320, 1750, 2650), (300, 2100, 2900), (300, 1850, 2350),
)  # fmt: skip

PHONES: Final[dict[str, Phone]] = {
    # vowels
    "i": _vowel(280, 2250, 2950, 120), "I": _vowel(400, 1950, 2560, 85), "e": _vowel(400, 2200, 2750, 125),
    "E": _vowel(540, 1840, 2480, 95), "ae": _vowel(680, 1680, 2420, 120), "a": _vowel(720, 1320, 2500, 105),
    "aa": _vowel(740, 1280, 2520, 155), "A": _vowel(700, 1090, 2440, 165), "Q": _vowel(590, 920, 2420, 105),
    "O": _vowel(500, 840, 2430, 150), "o": _vowel(420, 800, 2450, 130), "U": _vowel(430, 1050, 2270, 85),
    "u": _vowel(300, 900, 2260, 125), "V": _vowel(630, 1220, 2420, 95), "3": _vowel(500, 1400, 2450, 160),
    "@": _vowel(500, 1450, 2480, 60), "6": _vowel(600, 1250, 2450, 75), "y": _vowel(280, 1750, 2200, 120),
    "Y": _vowel(380, 1580, 2220, 85), "2": _vowel(390, 1480, 2200, 130), "9": _vowel(530, 1480, 2280, 95),
    # glides, liquids
    "j": _glide(280, 2200, 2950, 60), "w": _glide(300, 700, 2200, 65), "l": _glide(340, 1200, 2650, 65),
    "r": _glide(340, 1150, 1600, 65), "R": _glide(450, 1150, 2250, 55, -8.0), "4": _glide(380, 1500, 2450, 28, -10.0),
    "L": _glide(290, 2000, 2700, 65),
    # nasals
    "m": _nasal(1000, 2200, 70), "n": _nasal(1500, 2450, 65), "N": _nasal(2000, 2500, 70), "J": _nasal(1900, 2700, 85),
    # fricatives
    "f": _fricative(_LIPS, 95, -20, 5500, 5000), "v": _fricative(_LIPS, 60, -27, 4500, 4000, -9),
    "T": _fricative(_TEETH, 90, -23, 6500, 4000), "D": _fricative(_TEETH, 45, -30, 5500, 3500, -9),
    "s": _fricative(_RIDGE, 105, -10, 6300, 1700), "z": _fricative(_RIDGE, 75, -16, 6000, 1700, -11),
    "S": _fricative(_PALATE, 110, -9, 3300, 1100), "Z": _fricative(_PALATE, 75, -15, 3200, 1100, -11),
    "C": _fricative(_PALATE, 90, -14, 3700, 900), "x": _fricative(_VELUM, 95, -13, 1700, 700),
    "B": _fricative(_LIPS, 50, -34, 2500, 2500, -7), "G": _fricative(_VELUM, 50, -32, 1900, 900, -7),
    "h": Phone(Manner.FRICATIVE, (500, 1450, 2480), 65, None, None, breath_db=-10),
    # stops: duration is that of the closure
    "p": _stop(_LIPS, 75, -16, 900, 1200, breath=-14), "t": _stop(_RIDGE, 65, -10, 4200, 1800, breath=-14),
    "k": _stop(_VELUM, 70, -11, 1900, 700, breath=-13), "b": _stop(_LIPS, 60, -22, 800, 900, voice=-16),
    "d": _stop(_RIDGE, 50, -17, 3900, 1700, voice=-16), "g": _stop(_VELUM, 55, -17, 1900, 700, voice=-16),
    # a break in voicing before German vowels, and silence
    "?": Phone(Manner.STOP, (500, 1450, 2480), 30),
    "_": Phone(Manner.PAUSE, (500, 1450, 2480), 100),
}  # fmt: skip

DIPHTHONGS: Final[dict[str, tuple[str, str]]] = {
    "eI": ("E", "I"), "aI": ("a", "I"), "OI": ("O", "I"), "oU": ("@", "U"), "aU": ("a", "U"),
    "i@": ("I", "@"), "e@": ("E", "@"), "u@": ("U", "@"), "OY": ("O", "Y"),
    "ai": ("a", "i"), "ei": ("e", "i"), "oi": ("o", "i"), "au": ("a", "u"), "eu": ("e", "u"),
}  # fmt: skip
AFFRICATES: Final[dict[str, tuple[str, str]]] = {
    "tS": ("t", "S"), "dZ": ("d", "Z"), "ts": ("t", "s"), "pf": ("p", "f"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Sounded:
    """A phone within an utterance: its table entry, name, stress (0, 1) and the word it belongs to."""

    name: str
    phone: Phone
    stress: int
    word: int


def expanded(symbols: str, word: int, *, aspirated: bool) -> list[Sounded]:
    """Phones of a transcription such as ``"h aa1 r b @"``; a digit 1 behind a vowel marks stress."""
    sounds: list[Sounded] = []
    for symbol in symbols.split():
        stress = int(symbol.endswith("1"))
        name = symbol.removesuffix("1")
        if name in DIPHTHONGS:
            first, second = DIPHTHONGS[name]
            sounds += [
                Sounded(first, replace(PHONES[first], duration_ms=90), stress, word),
                Sounded(second, replace(PHONES[second], duration_ms=65), stress, word),
            ]
        elif name in AFFRICATES:
            first, second = AFFRICATES[name]
            sounds += [
                Sounded(first, replace(PHONES[first], breath_db=None, duration_ms=45), 0, word),
                Sounded(second, replace(PHONES[second], duration_ms=75), 0, word),
            ]
        else:
            phone = PHONES[name]
            if phone.manner is Manner.STOP and phone.breath_db is not None and not aspirated:
                phone = replace(phone, breath_db=None)
            sounds.append(Sounded(name, phone, stress, word))
    return sounds


def is_vowel(symbol: str) -> bool:
    """Whether a transcription symbol makes a syllable.

    >>> is_vowel("aI1"), is_vowel("t")
    (True, False)
    """
    name = symbol.removesuffix("1")
    return name in DIPHTHONGS or (name in PHONES and PHONES[name].manner is Manner.VOWEL)
