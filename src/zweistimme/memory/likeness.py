"""How alike two texts are, and by what alike ones are found.

Texts are compared as they are said: in composed letters (NFC), without regard to case and spaces. What counts as a word
goes by the writing system: between spaces where there are any, else every two letters that follow each other.
"""

from __future__ import annotations

import hashlib
import re
import string
import unicodedata
import zlib
from functools import lru_cache
from itertools import pairwise
from typing import Final

from rapidfuzz.distance import Levenshtein

from zweistimme.project.writing import is_unspaced

_MARKS: Final = string.punctuation + "“”„‟«»‹›‘’‚…–—·،؛؟।॥。、，！？：；「」『』（）¿¡"
_UNSPACED: Final = re.compile(r"\w")


def normal(text: str) -> str:
    """A text as it is compared.

    >>> normal("  Bring  two\\u00a0Ropes. ")
    'bring two ropes.'
    """
    return " ".join(unicodedata.normalize("NFC", text).casefold().split())


def exact_key(text: str) -> int:
    """A number of 63 bits that equal texts share; *text* is as it is written, without spaces around it."""
    digest = hashlib.blake2b(text.strip().encode(), digest_size=8).digest()
    return int.from_bytes(digest, "big") >> 1


def words_of(text: str) -> list[str]:
    """The words of a normal text.

    >>> words_of("it isn't 3.5 m"), words_of("潮が来る。")
    (['it', "isn't", '3.5', 'm'], ['潮が', 'が来', '来る'])
    """
    if text.isascii() or not is_unspaced(text):
        return [word for part in text.split() if (word := part.strip(_MARKS))]
    letters = _UNSPACED.findall(text)
    return [a + b for a, b in pairwise(letters)] or letters


@lru_cache(maxsize=1 << 20)
def word_hash(word: str) -> int:
    """A number of 32 bits for a word, the same in every process."""
    return zlib.crc32(word.encode())


def likeness(first: str, second: str, first_words: list[str] | None = None) -> float:
    """How alike two normal texts are, 0 to 1: what need not be changed of the longer one to get the other (Levenshtein
    1965), in letters or in words, whichever is more."""
    letters = Levenshtein.normalized_similarity(first, second)
    words = Levenshtein.normalized_similarity(first_words or words_of(first), words_of(second))
    return float(max(letters, words))


def percent_of(source: str, text: str) -> int:
    """How alike two texts are as a person is told; 100 only where they are the same letter by letter.

    >>> percent_of("Bring two ropes.", "Bring two ropes."), percent_of("Bring two ropes.", "bring two ropes!")
    (100, 99)
    """
    if source.strip() == text.strip():
        return 100
    return min(99, int(100 * likeness(normal(source), normal(text))))
