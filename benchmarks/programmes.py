"""Programmes with known truth: sentences nobody has heard before, said by several voices over a bed, some of them
without a pause between two speakers, a few at the same time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zweistimme.demo.script import BED, SOURCE, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.times import RATE
from zweistimme.standin.voice import speak, voice_by_id

_WHO = ("The ferryman", "My grandmother", "An old sailor", "The mayor", "Her brother", "Nobody here", "The smith")
_DOES = ("carries", "remembers", "sells", "paints", "mends", "borrowed", "has forgotten", "never liked")
_WHAT = ("the yellow boat", "seven lanterns", "a wooden wheel", "the morning bread", "two heavy ropes", "that song")
_WHERE = ("behind the church", "near the harbour", "on cold evenings", "before the market opens", "in winter",
          "under the bridge", "when the wind turns", "for almost no money", "every other week")  # fmt: skip
CAST = ("alva", "brandt", "cosma", "dario")


@dataclass(frozen=True, slots=True)
class SaidLine:
    """A line of a generated programme; times in seconds, words as (text, start, end)."""

    speaker: str
    text: str
    start: float
    end: float
    words: tuple[tuple[str, float, float], ...]


@dataclass(frozen=True, slots=True)
class Generated:
    """A programme's sound, shape ``(n,)``, and all that is said in it."""

    sound: np.ndarray
    lines: tuple[SaidLine, ...]


def sentence(dice: np.random.Generator) -> str:
    """A sentence made of four parts."""
    who, does, what, where = (str(dice.choice(part)) for part in (_WHO, _DOES, _WHAT, _WHERE))
    return f"{who} {does} {what} {where}."


def generated(minutes: float, *, seed: int = 7, bed_gain: float = 0.8) -> Generated:
    """A programme of about so many minutes by four speakers."""
    dice = np.random.default_rng(seed)
    length = round(minutes * 60 * RATE)
    sound = np.zeros(length + 20 * RATE, np.float32)
    lines: list[SaidLine] = []
    time, speaker = 2.0, CAST[0]
    while time < minutes * 60 - 8:
        if dice.random() < 0.65:
            speaker = str(dice.choice([other for other in CAST if other != speaker]))
        voice = voice_by_id(speaker)
        assert voice is not None
        text = sentence(dice)
        spoken = speak(text, SOURCE, voice)
        first, last = spoken.words[0][1], spoken.words[-1][2]
        start = time - first
        place = round(start * RATE)
        sound[place : place + len(spoken.samples)] += 0.35 * spoken.samples
        words = tuple((w, a + start, b + start) for w, a, b in spoken.words)
        lines.append(SaidLine(speaker, text, time, last + start, words))
        gap = dice.choice([0.06, 0.3, 0.8, 1.6, 4.0], p=[0.2, 0.25, 0.3, 0.2, 0.05])
        time = last + start + float(gap)
    bed = np.concatenate(list(decoded_blocks(data_file(BED), DecodeNotes())), axis=1).mean(axis=0)
    sound = sound[:length]
    sound += bed_gain * np.resize(bed, length).astype(np.float32)
    return Generated(sound, tuple(lines))
