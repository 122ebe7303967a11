"""A generation of the memory's index: which units may be like a text, from arrays that are read where they lie.

Rows are units sorted by length, so that those of a like length are a slice. Posting lists (compressed rows) go by
hashed pairs of neighbouring words, and by hashed words for texts with few pairs; a signature has a bit for each word.
A generation never changes; what came since is looked through by the memory itself.
"""

from __future__ import annotations

import json
from array import array
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.memory.likeness import normal, word_hash, words_of

LEAST: Final = 0.7
"""How alike at least, from 0 to 1."""
NEAREST: Final = 200
"""How many are compared letter by letter."""
_PAIR_BITS, _WORD_BITS = 20, 18
_LOOKED_AT: Final = 40_000
_FEW: Final = 20
_EDGE: Final = 0x9E3779B1
"""Stands for the word before the first and behind the last."""
_NAMES: Final = ("ids", "lengths", "families", "signatures", "pair_starts", "pair_rows", "word_starts", "word_rows")
Array = npt.NDArray[Any]


@dataclass(frozen=True, slots=True)
class Query:
    """A text as it is looked for: its normal form, words, hashes of its words, and of its pairs of words."""

    text: str
    words: list[str]
    hashes: Array
    pairs: Array
    signature: Array

    @classmethod
    def of(cls, text: str) -> Query:
        """A text somebody says."""
        said = normal(text)
        words = words_of(said)
        hashes = np.array([word_hash(word) for word in words], dtype=np.uint32)
        edged = np.concatenate(([_EDGE], hashes, [_EDGE])).astype(np.uint32)
        return cls(
            said, words, hashes, _pairs(edged[:-1], edged[1:]), signatures(hashes, np.array([0, len(hashes)]))[0]
        )

    def lengths(self) -> tuple[int, int]:
        """How long what is like it may be, in letters: [least, most]."""
        return int(np.ceil(len(self.text) * LEAST)), int(len(self.text) / LEAST)

    def apart(self, found: Array) -> Array:
        """In how many bits signatures, shape ``(n, 2)``, differ from this text's."""
        return np.bitwise_count(found ^ self.signature).sum(axis=1)

    def few(self, apart: Array) -> Array:
        """Whether so many bits apart may still be alike enough; what is not is left out unread."""
        return apart <= 0.857 * len(self.words) + 3


def _pairs(first: Array, second: Array) -> Array:
    mixed = first.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15) + second.astype(np.uint64) * np.uint64(
        0xC2B2AE3D27D4EB4F
    )
    return (mixed >> np.uint64(64 - _PAIR_BITS)).astype(np.uint32)


def signatures(hashes: Array, starts: Array) -> Array:
    """A bit for each word: hashes of many texts one behind the other, text k from ``starts[k]`` to ``starts[k + 1]``;
    shape ``(len(starts) - 1, 2)``."""
    bits = np.uint64(1) << (hashes & np.uint32(63)).astype(np.uint64)
    high = (hashes >> np.uint32(6)) & np.uint32(1)
    found = np.zeros((len(starts) - 1, 2), dtype=np.uint64)
    some = np.flatnonzero(np.diff(starts) > 0)
    for lane in (0, 1):
        if len(some):
            found[some, lane] = np.bitwise_or.reduceat(np.where(high == lane, bits, np.uint64(0)), starts[some])
    return found


class Index:
    """One generation, read where it lies."""

    def __init__(self, folder: Path) -> None:
        self.families: list[str] = json.loads((folder / "families.json").read_text(encoding="utf-8"))
        self._at: dict[str, Array] = {
            name: np.load(folder / f"{name}.npy", mmap_mode="r").view(np.ndarray) for name in _NAMES
        }

    def __len__(self) -> int:
        return len(self._at["ids"])

    def candidates(self, query: Query, family: str) -> list[int]:
        """Ids of units of a language family that may be like a text, the likeliest first."""
        if family not in self.families or not query.words:
            return []
        shortest, longest = query.lengths()
        first, last = np.searchsorted(self._at["lengths"], [shortest, longest + 1]).tolist()
        rows = self._near(self._listed("pair", query.pairs, first, last), query, family)
        if len(rows) < _FEW:
            wider = self._listed("word", query.hashes & np.uint32((1 << _WORD_BITS) - 1), first, last)
            rows = self._near(_once(np.concatenate((rows, wider))), query, family)
        return [int(one) for one in self._at["ids"][rows]]

    def _listed(self, kind: str, buckets: Array, first: int, last: int) -> Array:
        """Rows between two that share one of these, of the rarest first, as many as are looked at."""
        starts, rows = self._at[f"{kind}_starts"], self._at[f"{kind}_rows"]
        lists = []
        for bucket in set(buckets.tolist()):
            listed = rows[starts[bucket] : starts[bucket + 1]]
            a, b = np.searchsorted(listed, [first, last])
            lists.append(listed[a:b])
        taken: list[Array] = []
        count = 0
        for listed in sorted(lists, key=len):
            if taken and count + len(listed) > _LOOKED_AT:
                break
            taken.append(listed[:_LOOKED_AT])
            count += len(listed)
        return _once(np.concatenate(taken)) if taken else np.zeros(0, dtype=np.uint32)

    def _near(self, rows: Array, query: Query, family: str) -> Array:
        rows = rows[self._at["families"][rows] == self.families.index(family)]
        apart = query.apart(self._at["signatures"][rows])
        near = np.flatnonzero(query.few(apart))
        if len(near) > NEAREST:
            near = near[np.argpartition(apart[near], NEAREST)[:NEAREST]]
        return rows[near[np.argsort(apart[near], kind="stable")]]


def write_index(folder: Path, units: Iterable[tuple[int, str, str]]) -> None:
    """A generation of units, each an id, a source text and a family, into an empty folder."""
    ids, lengths, kinds = array("q"), array("I"), array("H")
    hashes, counts = array("I"), array("I")
    families: dict[str, int] = {}
    for unit_id, source, family in units:
        said = normal(source)
        words = words_of(said)
        ids.append(unit_id)
        lengths.append(len(said))
        kinds.append(families.setdefault(family, len(families)))
        counts.append(len(words))
        hashes.extend(map(word_hash, words))
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "families.json").write_text(json.dumps(list(families)), encoding="utf-8")
    rows = (np.array(ids), np.array(lengths), np.array(kinds), np.array(counts))
    made = _arranged(*rows, np.array(hashes, dtype=np.uint32))
    for name, values in made.items():
        np.save(folder / f"{name}.npy", values)


def _arranged(ids: Array, lengths: Array, kinds: Array, counts: Array, hashes: Array) -> dict[str, Array]:
    """All arrays of a generation, units sorted by length."""
    order = np.argsort(lengths, kind="stable")
    place = np.empty(len(order), dtype=np.uint32)
    place[order] = np.arange(len(order), dtype=np.uint32)
    starts = np.concatenate(([0], np.cumsum(counts, dtype=np.int64)))
    owner = np.repeat(place, counts)
    pair_owner, pairs = _all_pairs(hashes, starts, counts, place)
    pair_starts, pair_rows = _postings(pairs, pair_owner, 1 << _PAIR_BITS)
    word_starts, word_rows = _postings(hashes & np.uint32((1 << _WORD_BITS) - 1), owner, 1 << _WORD_BITS)
    return {
        "ids": ids[order],
        "lengths": lengths[order].astype(np.uint32),
        "families": kinds[order].astype(np.uint16),
        "signatures": signatures(hashes, starts)[order],
        "pair_starts": pair_starts,
        "pair_rows": pair_rows,
        "word_starts": word_starts,
        "word_rows": word_rows,
    }


def _all_pairs(hashes: Array, starts: Array, counts: Array, place: Array) -> tuple[Array, Array]:
    """Pairs of neighbours of all texts, edges included, with the rows they are in."""
    edged = np.full(len(hashes) + 2 * len(counts), _EDGE, dtype=np.uint32)
    shift = np.repeat(2 * np.arange(len(counts)) + 1, counts)
    edged[np.arange(len(hashes)) + shift] = hashes
    owner = np.repeat(place, counts + 2)
    inside = np.ones(max(0, len(edged) - 1), dtype=bool)
    inside[(starts[1:] + 2 * np.arange(1, len(counts) + 1))[:-1] - 1] = False  # the end of one and the edge of the next
    return owner[:-1][inside], _pairs(edged[:-1], edged[1:])[inside]


def _postings(buckets: Array, owner: Array, size: int) -> tuple[Array, Array]:
    """Rows by bucket, each list in ascending order and without doubles."""
    both = _once(buckets.astype(np.uint64) << np.uint64(32) | owner.astype(np.uint64))
    starts = np.searchsorted(both >> np.uint64(32), np.arange(size + 1, dtype=np.uint64)).astype(np.uint32)
    return starts, (both & np.uint64(0xFFFFFFFF)).astype(np.uint32)


def _once(values: Array) -> Array:
    """Values in ascending order, each once; sorting is faster here than looking for doubles by hash."""
    ordered = np.sort(values)
    return ordered[np.concatenate(([True], ordered[1:] != ordered[:-1]))] if len(ordered) else ordered
