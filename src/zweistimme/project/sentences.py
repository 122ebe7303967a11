"""Where sentences and clauses end."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

_ENDS: Final = re.compile(r"[.!?…。！？]+[\"'”’»«)\]]*$")
_CLAUSE: Final = re.compile(r"[,;:–—][\"'”’»«)\]]*$")
_PARENTHETICAL: Final = re.compile(r"\([^)]{0,1000}\)")
_SHORT: Final = {
    *("mr", "mrs", "ms", "dr", "prof", "st", "no", "vs", "etc", "e.g", "i.e"),
    *("z.b", "d.h", "u.a", "nr", "hr", "fr", "bzw", "usw", "ca"),
    *("sr", "sra", "srta", "ud", "uds", "p.ej"),
}


def ends_sentence(word: str) -> bool:
    """Whether a sentence ends with this word; “Dr.” and initials end none.

    >>> [ends_sentence(w) for w in ("leaves.", "“Really?”", "Dr.", "J.", "steps,")]
    [True, True, False, False, False]
    """
    if not _ENDS.search(word):
        return False
    bare = word.strip("\"'“”‘’„»«()[]").lower()
    if not bare.endswith("."):
        return True
    stem = bare.rstrip(".")
    return stem not in _SHORT and not (len(stem) == 1 and stem.isalpha())


def ends_clause(word: str) -> bool:
    """Whether a clause ends with this word, and no sentence.

    >>> ends_clause("steps,"), ends_clause("leaves.")
    (True, False)
    """
    return bool(_CLAUSE.search(word))


def sentences(text: str) -> list[str]:
    """*text* cut after each sentence.

    >>> sentences("Dr. Ebb waits. It turns! And then")
    ['Dr. Ebb waits.', 'It turns!', 'And then']
    """
    found: list[list[str]] = [[]]
    for word in text.split():
        found[-1].append(word)
        if ends_sentence(word):
            found.append([])
    return [" ".join(words) for words in found if words]


def sentence_places(words: Sequence[str]) -> list[int]:
    """After how many words each sentence but the last ends.

    >>> sentence_places("It turns! It does. And".split())
    [2, 4]
    """
    return [k for k, word in enumerate(words[:-1], 1) if ends_sentence(word)]


def spoken_text(text: str) -> str:
    """A line without its parentheticals, which are directions and never spoken.

    >>> spoken_text("(laughing) And if it doesn't?")
    "And if it doesn't?"
    """
    return " ".join(_PARENTHETICAL.sub(" ", text).split())
