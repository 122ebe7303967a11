"""Spoken length before anything is spoken: syllables by vowel groups, and how many of them a second holds.

Rates are those of Pellegrino, Coupé and Marsico (Language 87, 2011), in syllables a second.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final

from zweistimme.project.sentences import spoken_text

RATES: Final = {
    "en": 6.19,
    "fr": 7.18,
    "de": 5.97,
    "it": 6.99,
    "ja": 7.84,
    "zh": 5.18,
    "es": 7.82,
    "vi": 5.22,
}
_USUAL: Final = 6.5
_CALM: Final = 0.82
"""Narration and drama are slower than the read passages of that study."""
_VOWELS = re.compile(r"[aeiouyäöüáéíóúàèâêôûœæåøãõ]+")
_SILENT_E = re.compile(r"[^aeiouyl]e$|[^aeiouycghsxz]es$|[^aeioudt]ed$")
_WORD = re.compile(r"[^\W\d_]+|\d+")


@lru_cache(maxsize=200_000)
def syllables(text: str, tag: str = "") -> int:
    """Syllables of a text; a number counts two for each digit. Parentheticals are not spoken.

    >>> syllables("Und der ganze Hafen", "de-DE"), syllables("(whispering) the wheel", "en-GB")
    (6, 2)
    """
    english = tag.startswith("en")
    count = 0
    for word in _WORD.findall(spoken_text(text.lower())):
        if word.isdigit():
            count += 2 * len(word)
            continue
        groups = len(_VOWELS.findall(word))
        if english and groups > 1 and _SILENT_E.search(word):
            groups -= 1
        count += max(1, groups)
    return count


def rate_for(tag: str) -> float:
    """Syllables a second that a voice may be expected to speak in this language."""
    return _CALM * RATES.get(tag.split("-")[0], _USUAL)


def spoken_us(text: str, tag: str, rate: float | None = None) -> int:
    """How long *text* will take to say, in microseconds: its syllables, and a breath at each inner mark."""
    marks = len(re.findall(r"[,;:–—.!?…](?=\s+\S)", text))
    return round((syllables(text, tag) / (rate or rate_for(tag)) + 0.2 * marks) * 1_000_000)
