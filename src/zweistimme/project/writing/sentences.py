"""Where sentences and clauses end, in any script."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from zweistimme.project.writing.tokens import one_line, word_spans
from zweistimme.project.writing.untranslated import without_marks

_CLOSERS: Final = "\"'”’»«›‹)\\]）」』】〉》｣\u200e\u200f"
_ENDS: Final = re.compile(rf"[.!?…‥。！？．｡؟۔।॥։።፧၊။៕‽⁇⁈⁉]+[{_CLOSERS}]*$")
_QUESTION: Final = re.compile(rf"([?？؟⁇⁈⁉\u037e]|か。?)[{_CLOSERS}]*$")
_CLAUSE: Final = re.compile(rf"[,;:–—、，：；،؛·፣፤၊¦]+[{_CLOSERS}]*$")
_GREEK_QUESTION: Final = re.compile(rf"[Ͱ-Ͽἀ-῿];[{_CLOSERS}]*$|;[{_CLOSERS}]*$")
_GREEK: Final = re.compile("[Ͱ-Ͽἀ-῿]")
_PARENTHETICAL: Final = re.compile(r"\([^()]{0,1000}\)|（[^（）]{0,1000}）")
_INNER: Final = re.compile(r"\[\s*(/|[^\[\]\d/][^\[\]\d]{0,60})\s*\]")
_BEHIND: Final = re.compile(r"\s*[^\w\s]+(?:\s|$)")
"""Signs alone, at the head of what stands behind a bracket."""
_LEADING: Final = re.compile(rf"^\s*(?:{_PARENTHETICAL.pattern})\s*(?=\S)")
_SHORT: Final = {
    *("mr", "mrs", "ms", "dr", "prof", "st", "vs", "etc", "e.g", "i.e"),
    *("z.b", "d.h", "u.a", "hr", "fr", "bzw", "usw", "ca", "bspw", "vgl"),
    *("sr", "sra", "srta", "ud", "uds", "p.ej", "mme", "mlle", "г", "ул", "т.е", "т.д", "напр", "π.χ", "vb", "örn"),
}
_BEFORE_NUMBERS: Final = {"no", "nr", "núm", "n.º", "№", "п", "стр", "pp", "p", "vol", "fig", "art", "kap", "bd"}
"""Abbreviations only where a number follows: anywhere else “No.” is an answer."""


def is_question(text: str) -> bool:
    """Whether a text ends as a question does; Greek asks with what is a semicolon elsewhere, Japanese with a particle.

    >>> [is_question(text) for text in ("Πού είναι;", "Really?”", "Really.", "来ますか。", "So;")]
    [True, True, False, True, False]
    """
    text = text.rstrip()
    return bool(_QUESTION.search(text) or (_GREEK.search(text) and _GREEK_QUESTION.search(text)))


def ends_sentence(word: str, following: str = "") -> bool:
    """Whether a sentence ends with this word, given the one behind it; “Dr.” and initials end none.

    >>> [ends_sentence(w) for w in ("leaves.", "“Really?”", "Dr.", "J.", "steps,", "No.", "来る。", "نعم؟")]
    [True, True, False, False, False, True, True, True]
    >>> ends_sentence("No.", "5"), ends_sentence("έρχεται;")
    (False, True)
    """
    if _GREEK.search(word) and _GREEK_QUESTION.search(word):
        return True
    if not _ENDS.search(word):
        return False
    bare = word.strip("\"'“”‘’„»«()[]").lower()
    if not bare.endswith("."):
        return True
    stem = bare.rstrip(".")
    if stem in _BEFORE_NUMBERS:
        return not following[:1].isdigit()
    return stem not in _SHORT and not (len(stem) == 1 and stem.upper() != stem)


def ends_clause(word: str) -> bool:
    """Whether a clause ends with this word, and no sentence.

    >>> ends_clause("steps,"), ends_clause("leaves."), ends_clause("来て、")
    (True, False, True)
    """
    return bool(_CLAUSE.search(word)) and not ends_sentence(word)


def sentences(text: str, tag: str = "") -> list[str]:
    """*text* cut after each sentence.

    >>> sentences("Dr. Ebb waits. It turns! And then"), sentences("潮が来る。また帰る。")
    (['Dr. Ebb waits.', 'It turns!', 'And then'], ['潮が来る。', 'また帰る。'])
    """
    spans = word_spans(text, tag)
    edges = [0, *sentence_places([text[a:b] for a, b in spans]), len(spans)]
    return [" ".join(text[spans[a][0] : spans[b - 1][1]].split()) for a, b in pairwise(edges) if b > a]


def sentence_places(words: Sequence[str]) -> list[int]:
    """After how many words each sentence but the last ends.

    >>> sentence_places("It turns! It does. And".split())
    [2, 4]
    """
    return [k for k in range(1, len(words)) if ends_sentence(words[k - 1], words[k])]


def spoken_text(text: str) -> str:
    """A line without its directions, which are never spoken: the parentheticals before its words, and what stands in
    square brackets between them. Parentheticals behind the first word are words like others; and a line that is
    nothing but brackets is what it says.

    >>> spoken_text("(laughing) And if it doesn't?"), spoken_text("It turns (twice) [softly] a day.")
    ("And if it doesn't?", 'It turns (twice) a day.')
    """
    text = without_marks(text)
    if "[" in text:
        return " ".join(part for part, _ in directed_parts(text))
    return " ".join(head_direction(text)[1].split())


def directed_parts(text: str, direction: str = "") -> list[tuple[str, str]]:
    """A line's words with the direction each part of them is said by: that of the whole line, until one in square
    brackets takes its place; ``[/]`` leads back to it. One in parentheses at the head counts where the line has none.

    >>> directed_parts("Come here [whispering] and look [/] now.", "lively")
    [('Come here', 'lively'), ('and look', 'whispering'), ('now.', 'lively')]
    >>> directed_parts("(softly) Yes."), directed_parts("It turns [1].")
    ([('Yes.', 'softly')], [('It turns [1].', '')])

    What has no letter and no number, as a full stop behind a bracket, is said with what stands before it:

    >>> directed_parts("[whispering] still ticking [/]. Yes [/] …")
    [('still ticking.', 'whispering'), ('Yes …', '')]
    """
    text = without_marks(text)
    head, text = head_direction(text)
    direction = direction or head
    if not _INNER.sub(" ", text).strip():
        return [(" ".join(text.split()), direction)]
    pieces = _INNER.split(text)  # words, direction, words, …
    parts: list[tuple[str, str]] = []
    now = direction
    for place, piece in enumerate(pieces):
        if place % 2:
            now = direction if piece == "/" else " ".join(piece.split())
            continue
        signs = _BEHIND.match(piece)
        if signs and parts:  # they end what stands before them
            parts[-1] = f"{parts[-1][0]}{signs.group().rstrip()}", parts[-1][1]
            piece = piece[signs.end() :]
        if piece.strip():
            parts.append((" ".join(piece.split()), now))
    return _headed(parts)


def _headed(parts: list[tuple[str, str]]) -> list[tuple[str, str]]:
    """Parts of which the first has words; signs before the first words are said with these."""
    if len(parts) > 1 and not any(map(str.isalnum, parts[0][0])):
        (signs, _), (words, direction), *rest = parts
        return [(f"{signs} {words}", direction), *rest]
    return parts


def head_direction(text: str) -> tuple[str, str]:
    """The direction in parentheses before a line's words, and the line without it.

    >>> head_direction("(softly) Yes."), head_direction("Yes (twice).")
    (('softly', 'Yes.'), ('', 'Yes (twice).'))
    """
    direction = ""
    while match := _LEADING.match(text):
        direction = direction or match.group(0).strip()[1:-1].strip()
        text = text[match.end() :]
    return direction, text


def stands_between_words(direction: str) -> bool:
    """Whether a direction is read as one in square brackets; what has figures or brackets in it, or is long, is not.

    >>> stands_between_words("softly"), stands_between_words("after 2 breaths")
    (True, False)
    """
    return bool(_INNER.fullmatch(f"[{direction}]"))


def without_parentheticals(text: str) -> str:
    """A script's words without anything in parentheses, wherever it stands: there they are all directions.

    >>> without_parentheticals("Wait (a pause) here.")
    'Wait here.'
    """
    return one_line(" ".join(_PARENTHETICAL.split(text)))
