"""How long a text takes to say, before anybody has said it.

Rates in syllables (Japanese: morae) a second of reading aloud. Those of the languages marked measured follow
Pellegrino, Coupé and Marsico (Language 87, 2011) and Coupé, Oh, Dediu and Pellegrino (Science Advances 5, 2019), who
found that languages say the same in about the same time; the others are set by that finding from the syllables of
like texts, and give way to a voice's own rate as soon as it has takes.
"""

from __future__ import annotations

import re
from typing import Final

from zweistimme.project.languages import language_of
from zweistimme.project.writing.syllables import syllables

RATES: Final = {
    # measured
    "en": 6.19, "fr": 7.18, "de": 5.97, "it": 6.99, "ja": 7.84, "zh": 5.18, "es": 7.82, "vi": 5.22, "ca": 7.2,
    "eu": 7.5, "fi": 7.2, "hu": 6.6, "ko": 7.0, "sr": 7.2, "th": 4.7, "tr": 7.0, "yue": 5.3, "pl": 6.6, "cs": 6.6,
    # set
    "pt": 7.2, "gl": 7.6, "ro": 7.0, "nl": 6.1, "da": 6.0, "sv": 6.1, "nb": 6.1, "no": 6.1, "nn": 6.1, "is": 6.2,
    "ru": 7.0, "uk": 6.9, "be": 6.9, "bg": 6.9, "mk": 7.0, "hr": 7.1, "bs": 7.1, "sl": 6.8, "sk": 6.7, "el": 7.6,
    "ar": 6.3, "he": 6.5, "fa": 6.6, "ur": 6.6, "hi": 6.9, "mr": 7.2, "bn": 7.0, "gu": 7.0, "pa": 6.6, "ta": 7.4,
    "te": 7.4, "kn": 7.4, "ml": 7.6, "si": 7.3, "ne": 7.0, "id": 7.0, "ms": 7.0, "fil": 7.0, "tl": 7.0, "sw": 7.0,
    "et": 6.9, "lt": 6.9, "lv": 6.9, "sq": 6.7, "ka": 7.0, "hy": 6.9, "az": 7.0, "kk": 7.0, "uz": 7.0, "lo": 4.8,
    "km": 5.0, "my": 5.0, "am": 7.0, "ga": 6.3, "cy": 6.3, "mt": 6.3, "af": 6.1, "yi": 6.2,
}  # fmt: skip
_USUAL: Final = 6.7
_CALM: Final = 0.82
"""Narration and drama are slower than the read passages of those studies."""
_BREATH_S: Final = 0.2
_INNER_MARK: Final = re.compile(r"[,;:–—.!?…،؛؟۔।·](?=\s+\S)|[。！？、，：；](?=\S)")


def rate_for(tag: str) -> float:
    """Syllables a second that a voice may be expected to speak in this language."""
    return _CALM * RATES.get(language_of(tag), _USUAL)


def spoken_us(text: str, tag: str, rate: float | None = None) -> int:
    """How long *text* will take to say, in microseconds: its syllables, and a breath at each inner mark."""
    return round((syllables(text, tag) / (rate or rate_for(tag)) + _BREATH_S * inner_marks(text)) * 1_000_000)


def inner_marks(text: str) -> int:
    """How many marks of a text stand inside it, where a breath is taken.

    >>> inner_marks("Come, we go. Now."), inner_marks("海、空。")
    (2, 1)
    """
    return len(_INNER_MARK.findall(text))
