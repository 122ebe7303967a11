"""The phrase book: what the bundled recogniser can recognise, spoken by the bundled voice and turned into cepstra.

Every frame of every phrase is one state of a single network; a phrase's states stand one behind the other.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from zweistimme.project.writing import syllables
from zweistimme.sound.arrays import Floats, Ints, Mono
from zweistimme.sound.features import RATE, STATE_SECONDS, cepstra, power_spectra, reduced, with_slopes
from zweistimme.standin.phrase_files import phrase_lines
from zweistimme.standin.phrase_templates import Template, kept_templates
from zweistimme.standin.text import language_of
from zweistimme.standin.voice import LANGUAGES, speak, voice_by_id

_SPEAKER: Final = "dario"
FILLERS: Final = {"en": ("Um,", "Uh,", "Hm,"), "de": ("Ähm,", "Äh,", "Hm,"), "es": ("Em,", "Eh,", "Hm,")}
LEAST_SYLLABLES: Final = 4
"""Shorter phrases sound like parts of too much else."""


@dataclass(frozen=True, slots=True)
class Book:
    """Templates of one language, all phrases in one array.

    *states* has shape ``(s, d)``; phrase ``p`` owns states ``starts[p]:ends[p]``; *words* gives each phrase's
    words as (text, first state, state after the last), counted within the phrase.
    """

    phrases: tuple[str, ...]
    states: Floats
    starts: Ints
    ends: Ints
    words: tuple[tuple[tuple[str, int, int], ...], ...]
    fillers: frozenset[int] = frozenset()
    """Phrases that are sounds of hesitation."""


def phrases_for(tag: str) -> tuple[str, ...]:
    """The phrases that ship for a language."""
    return tuple(phrase_lines(f"phrases-{language_of(tag)}.txt"))


def book_for(tag: str, hints: tuple[str, ...] = ()) -> Book:
    """The phrase book of a language; *hints* long enough to be told apart are added."""
    return _book(tag, hints)


@lru_cache(maxsize=6)
def _book(tag: str, hints: tuple[str, ...]) -> Book:
    """The phrase book of a language, spoken and measured once; *hints* long enough to be told apart are added."""
    voiced = next((known for known in LANGUAGES if language_of(known) == language_of(tag)), LANGUAGES[0])
    phrases = tuple(dict.fromkeys((*phrases_for(tag), *(h for h in hints if syllables(h, tag) >= LEAST_SYLLABLES))))
    fillers = FILLERS.get(language_of(tag), ()) if phrases else ()
    if not phrases:
        return Book((), np.zeros((0, 24)), np.zeros(0, np.int64), np.zeros(0, np.int64), ())
    everything = (*phrases, *fillers)
    own = (*phrases_for(tag), *fillers)
    kept = dict(
        zip(own, kept_templates(voiced, own, lambda spoken: [_template(one, voiced) for one in spoken]), strict=True)
    )
    templates = [kept.get(phrase) or _template(phrase, voiced) for phrase in everything]
    features = [template.features for template in templates]
    words = [template.words for template in templates]
    centre = np.concatenate(features).mean(axis=0)
    spread = np.concatenate(features).std(axis=0)
    states = [reduced(with_slopes((rows - centre) / spread)) for rows in features]
    ends = np.cumsum([len(rows) for rows in states])
    starts = np.concatenate(([0], ends[:-1]))
    hesitations = frozenset(range(len(phrases), len(phrases) + len(fillers)))
    return Book(
        everything, np.concatenate(states), starts.astype(np.int64), ends.astype(np.int64), tuple(words), hesitations
    )


def _template(phrase: str, voiced: str) -> Template:
    """A phrase spoken and turned into cepstra."""
    import soxr

    speaker = voice_by_id(_SPEAKER)
    assert speaker is not None
    spoken = speak(phrase, voiced, speaker)
    sound: Mono = soxr.resample(spoken.samples, 48_000, RATE, "HQ").astype(np.float32)
    first, last = spoken.words[0][1], spoken.words[-1][2]
    power = power_spectra(sound[int(first * RATE) : int(last * RATE)])
    return Template(cepstra(power + 1e-4 * power.mean()), _word_states(spoken.words, first))


def _word_states(words: tuple[tuple[str, float, float], ...], origin: float) -> tuple[tuple[str, int, int], ...]:
    return tuple(
        (text, round((start - origin) / STATE_SECONDS), max(1, round((end - origin) / STATE_SECONDS)))
        for text, start, end in words
    )
