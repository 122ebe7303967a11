"""How far off the seconds are that a wording is expected to take, learned from 5, 20 and 100 takes of its voice:
bundled voices in three languages, and women who read announcements in two. Beside it: one rate of syllables, learned
from the same takes, or, where nothing was heard, that of the language."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product
from typing import Final

import numpy as np

from benchmarks.recordings import announcements
from benchmarks.timing import Row, Rows, figure, seconds
from zweistimme.project.writing import inner_marks, rate_for, syllables
from zweistimme.sound.activity import clip_speech
from zweistimme.stages.fit.pace import learned_pace, usual_pace
from zweistimme.standin.voice import speak, voice_by_id

Heard = list[tuple[str, float]]
_COUNTS: Final = (5, 20, 100)
_TESTED: Final = 60
_BREATH_S: Final = 0.2
_VOICES: Final = (("alva", "en-GB"), ("brandt", "de-DE"), ("hale", "es-ES"))
_PARTS: Final = {
    "en-GB": (
        ("The ferry", "Your old lantern", "My brother's boat", "Nobody in Varnholm", "The man on the quay", "A bell"),
        ("waits", "comes back", "has been lost since 1884", "knows the tide", "burns", "is older than we are"),
        ("tonight.", "before the water rises, they say.", "for 36 years now!", "and nobody minds.", "again?", "here."),
    ),
    "de-DE": (
        ("Die Fähre", "Deine alte Laterne", "Das Boot meines Bruders", "Niemand in Varnholm", "Der Mann da", "Licht"),
        ("wartet", "kommt zurück", "ist seit 1884 verloren", "kennt die Flut", "brennt", "ist älter als wir alle"),
        ("heute Nacht.", "bevor es steigt, sagt man.", "seit 36 Jahren!", "und alle sehen zu.", "doch?", "hier."),
    ),
    "es-ES": (
        ("El ferri", "Tu vieja linterna", "El barco de mi hermano", "Nadie en Varnholm", "El hombre aquel", "Una luz"),
        ("espera", "vuelve", "se perdió en 1884", "conoce la marea", "arde", "es más vieja que nosotros"),
        ("esta noche.", "antes de que suba, dicen.", "¡desde hace 36 años!", "y nadie mira.", "¿otra vez?", "aquí."),
    ),
}  # fmt: skip


def lengths() -> Rows:
    """All rows."""
    dice = np.random.default_rng(4)
    for voice, tag in _VOICES:
        yield from _voice(f"bundled voice {voice}, {tag}", tag, _spoken(voice, tag, dice), dice)
    for language, tag in (("en", "en-US"), ("es", "es-MX")):
        recorded = announcements(language)
        heard = [(one.text, one.span[1] - one.span[0]) for one in recorded]
        if len(heard) < _TESTED + _COUNTS[0]:
            yield Row(f"a woman, {tag}", "none can be had here", "Debian's packages")
            continue
        yield from _voice(f"a woman, {tag}", tag, heard, dice)
    pace, text = usual_pace("de-DE"), "Dann sitzt die Fähre im Schlick fest, und der ganze Hafen gibt ihm die Schuld."
    yield figure("one wording measured", 1e3 * seconds(lambda: pace.spoken_and_spread_us(text)), "ms")


def _spoken(voice: str, tag: str, dice: np.random.Generator) -> Heard:
    """A voice says made-up sentences."""
    texts = [" ".join(parts) for parts in product(*_PARTS[tag])]
    chosen = dice.permutation(len(texts))[: _COUNTS[-1] + _TESTED]
    heard: Heard = []
    for number in chosen:
        samples = speak(texts[number], tag, voice_by_id(voice)).samples
        speech = clip_speech(samples, 48_000)
        heard.append((texts[number], (speech.end - speech.start) / 48_000))
    return heard


def _voice(what: str, tag: str, heard: Sequence[tuple[str, float]], dice: np.random.Generator) -> Rows:
    order = dice.permutation(len(heard))
    tested = [heard[k] for k in order[:_TESTED]]
    rest = [heard[k] for k in order[_TESTED:]]
    rate = rate_for(tag)
    yield _row(f"{what}: nothing heard", tag, (), tested, rate)
    for count in _COUNTS:
        takes = rest[:count]
        if len(takes) == count or count == _COUNTS[-1]:
            yield _row(f"{what}: {len(takes)} takes", tag, takes, tested, rate)


def _row(what: str, tag: str, takes: Sequence[tuple[str, float]], tested: Heard, usual: float) -> Row:
    """How far off, as a share of what it took; how many are within the spread that was said."""
    pace = learned_pace(tag, takes)
    truth = np.array([seconds_ for _, seconds_ in tested])
    said = [pace.spoken_and_spread_us(text) for text, _ in tested]
    mean, spread = (np.array([one[k] for one in said]) / 1e6 for k in (0, 1))
    off = np.abs(mean - truth) / truth
    inside = 100 * np.mean(np.abs(mean - truth) <= spread)
    words = sum(syllables(text, tag) for text, _ in takes)
    rate = words / sum(s for _, s in takes) if takes else usual
    plain = np.array(
        [syllables(text, tag) / rate + (0 if takes else _BREATH_S * inner_marks(text)) for text, _ in tested]
    )
    beside = 100 * np.mean(np.abs(plain - truth) / truth)
    within = f"{inside:.0f} % within the spread said, {100 * np.mean(spread / mean):.0f} %"
    against = f"one rate of syllables: {beside:.1f} %; {within}"
    return figure(f"{what}: off by", 100 * float(np.mean(off)), "%", against)
