"""Words as they stand in a dictionary, nearly: what inflection leaves of them, so that a term is found in any of its
forms. Stems are those of the Snowball algorithms, where a language has one; elsewhere two words are forms of one if
they begin alike. Scripts without spaces show no ends of words, and are searched for the term itself.
"""

from __future__ import annotations

import re
import sys
import unicodedata
from functools import lru_cache
from typing import Any, Final

from zweistimme.project.languages import language_of

_ALGORITHMS: Final = {
    "ar": "arabic", "hy": "armenian", "eu": "basque", "ca": "catalan", "cs": "czech", "da": "danish", "nl": "dutch",
    "en": "english", "eo": "esperanto", "et": "estonian", "fi": "finnish", "fr": "french", "de": "german",
    "el": "greek", "hi": "hindi", "hu": "hungarian", "id": "indonesian", "ga": "irish", "it": "italian",
    "lt": "lithuanian", "ne": "nepali", "nb": "norwegian", "nn": "norwegian", "no": "norwegian", "fa": "persian",
    "pl": "polish", "pt": "portuguese", "ro": "romanian", "ru": "russian", "sr": "serbian", "st": "sesotho",
    "es": "spanish", "sv": "swedish", "ta": "tamil", "tr": "turkish", "yi": "yiddish",
}  # fmt: skip
_HANGUL: Final = re.compile("[\u1100-\u11ff\uac00-\ud7af]")
_LEAST_SHARED: Final = 6
_MOST_ADDED: Final = 3
"""An ending has so many letters at most, where nothing else is known of it."""


@lru_cache(maxsize=1)
def _word() -> re.Pattern[str]:
    """Letters and digits with the marks that are part of them: vowel signs of Indic scripts are no letters to
    ``re``."""
    marks = (chr(k) for k in range(0x300, sys.maxunicode) if unicodedata.category(chr(k)) in ("Mn", "Mc"))
    return re.compile(rf"[^\W_](?:[^\W_]|[{re.escape(''.join(marks))}])*")


def bare_words(text: str) -> list[tuple[str, int, int]]:
    """The words of a text without marks, folded to one case, with where they stand: apostrophes and hyphens part them.

    >>> bare_words("Mira's light-ship")
    [('mira', 0, 4), ('s', 5, 6), ('light', 7, 12), ('ship', 13, 17)]
    """
    return [(unicodedata.normalize("NFC", match.group().casefold()), *match.span()) for match in _word().finditer(text)]


@lru_cache(maxsize=20)
def _stemmer(language: str) -> Any:
    name = _ALGORITHMS.get(language)
    if name is None:
        return None
    import snowballstemmer

    return snowballstemmer.stemmer(name)


@lru_cache(maxsize=200_000)
def stem(word: str, tag: str) -> str:
    """What words of a dictionary entry share; *word* is folded to one case. Where the language has no algorithm, its
    first two letters, by which candidates for ``is_form_of`` are found.

    >>> stem("beacons", "en-GB"), stem("leuchtfeuers", "de") == stem("leuchtfeuer", "de"), stem("сигналу", "uk")
    ('beacon', True, 'си')
    """
    stemmer = _stemmer(language_of(tag))
    return str(stemmer.stemWord(word)) if stemmer is not None else word[:2]


def keys_of(stem_: str) -> tuple[str, ...]:
    """Under what a stem is kept and looked for: itself, and without its last letter where it is long, since forms of a
    word are not always cut at the same place.

    >>> keys_of(stem("latarnię", "pl")), keys_of(stem("latarni", "pl"))
    (('latarni', 'latarn'), ('latarn',))
    """
    return (stem_, stem_[:-1]) if len(stem_) > _LEAST_SHARED else (stem_,)


def are_alike(first: str, second: str) -> bool:
    """Whether two stems are of one word, so far as they can tell."""
    return first == second or (not {*keys_of(first)}.isdisjoint(keys_of(second)) and abs(len(first) - len(second)) == 1)


def is_form_of(word: str, entry: str, tag: str) -> bool:
    """Whether a word whose stem is the entry's is a form of it.

    >>> is_form_of("сигналу", "сигнал", "uk"), is_form_of("сигара", "сигнал", "uk")
    (True, False)
    >>> is_form_of("서울에서", "서울", "ko")
    True
    """
    if word == entry or _stemmer(language_of(tag)) is not None:
        return True
    if _HANGUL.match(entry):  # particles are added behind whole syllables
        return word.startswith(entry) and len(word) - len(entry) <= _MOST_ADDED
    shared = next((k for k, (a, b) in enumerate(zip(word, entry, strict=False)) if a != b), min(len(word), len(entry)))
    most_added = _MOST_ADDED if len(entry) > 3 else 1
    return shared >= max(min(len(entry), 4), len(entry) - 2) and len(word) - shared <= most_added
