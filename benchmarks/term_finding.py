"""Terms found in the lines of a long programme: 10,000 lines against 5,000 terms, and how that grows. Beside it: a
pattern of all terms as they are written, which finds no inflected one."""

from __future__ import annotations

import re

import numpy as np

from benchmarks.timing import Rows, figure, once
from zweistimme.project.term_book import TermBook
from zweistimme.project.terms import Rendering, Term

_SYLLABLES = (
    "an", "ber", "cor", "del", "em", "fal", "gor", "hin", "is", "jar", "kel", "lum", "mor", "nes", "or", "pel", "quin",
    "ras", "sol", "tar", "um", "vel", "wes", "yor", "zim",
)  # fmt: skip
_ENDINGS = ("", "s", "ing", "ed")
_SIZES = ((1_000, 5_000), (10_000, 500), (10_000, 5_000))


def _word(dice: np.random.Generator) -> str:
    return "".join(dice.choice(_SYLLABLES, dice.integers(2, 4)))


def term_finding() -> Rows:
    """All rows."""
    dice = np.random.default_rng(12)
    words = [_word(dice) for _ in range(12_000)]
    for lines, terms in _SIZES:
        sources = [" ".join(dice.choice(words, dice.integers(1, 4))) for _ in range(terms)]
        texts = [_line(dice, words, sources) for _ in range(lines)]
        yield from _size(sources, texts)


def _size(sources: list[str], texts: list[str]) -> Rows:
    terms = {f"k{k}": Term(source, {"de": Rendering(source + "ung")}) for k, source in enumerate(sources)}
    built: list[TermBook] = []
    made = once(lambda: built.append(TermBook(terms, "en-GB", "de-DE")))
    yield figure(f"{len(sources):,} terms made ready, with {len(texts):,} lines", made, "s")
    found: list[int] = []
    taken = once(lambda: found.extend(len(built[0].said(text)) for text in texts))
    longest_first = "|".join(sorted(map(re.escape, sources), key=len, reverse=True))
    whole = re.compile(rf"\b(?:{longest_first})\b", re.IGNORECASE)
    beside = once(lambda: [whole.findall(text) for text in texts[:100]]) * len(texts) / 100
    yield figure(
        f"{len(texts):,} lines, {len(sources):,} terms: found", taken, "s",
        f"{sum(found):,} places, {1e6 * taken / len(texts):.0f} us a line; one pattern of all: {beside:.1f} s",
    )  # fmt: skip


def _line(dice: np.random.Generator, words: list[str], sources: list[str]) -> str:
    """Some words, and mostly a term, inflected."""
    said = list(dice.choice(words, 9))
    if dice.random() < 0.7:
        said.insert(int(dice.integers(0, 9)), str(dice.choice(sources)) + str(dice.choice(_ENDINGS)))
    return " ".join(said).capitalize() + "."
