"""The translation memory: everything a person ever settled, in whatever project, found again by likeness."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from secrets import token_hex
from typing import Final

import numpy as np
import platformdirs
from rapidfuzz.distance import Levenshtein

from zweistimme.memory.exchanged import exchanged
from zweistimme.memory.index import LEAST, NEAREST, Index, Query, write_index
from zweistimme.memory.likeness import likeness, normal
from zweistimme.memory.unit_store import UnitStore, family_of
from zweistimme.project.errors import StoreError
from zweistimme.project.languages import spoken_tag
from zweistimme.project.units import Match, Unit
from zweistimme.project.writing import one_line

_LATE: Final = 2_000
_LATE_SHARE: Final = 100
"""A new generation is made for so many new units, or for a hundredth of those there are, whichever is more."""
_AT_ONCE: Final = 5_000
"""Units to a transaction."""
_TRIED, _WORTH_TRYING = 60, 0.5
"""So many of the likeliest are read whole, if they are half like the text: numbers and names may be exchanged."""
_GENERATION, _UNTIL = "generation", "until"


def memory_file() -> Path:
    """Where the memory lies: among the desk's own data."""
    return Path(platformdirs.user_data_dir("zweistimme")) / "memory.sqlite"


class Memory:
    """An open memory. It may be used from several threads; each waits for the other."""

    def __init__(self, file: Path | None = None, *, late: int = _LATE) -> None:
        """*late* is how many new units are looked through one by one."""
        self._file = file or memory_file()
        self._store = UnitStore(self._file)
        self._most_late = late
        self._turn = threading.RLock()
        self._generation = ""
        self._index: Index | None = None
        self._late = _Late()
        with self._turn:
            self._follow()

    def close(self) -> None:
        """Let go of it; what somebody is looking for just now is not found any more."""
        self._store.interrupt()
        with self._turn:
            self._store.close()

    def __enter__(self) -> Memory:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # looking up

    def matches(
        self,
        text: str,
        source_tag: str,
        target_tag: str,
        *,
        context: str = "",
        project: str = "",
        names: Collection[str] = (),
        most: int = 9,
    ) -> list[Match]:
        """What was settled for this text, or one that is at least 70 % like it: the same in the same context first,
        then by likeness, then the latest; each wording once. *project* leaves out what is muted there, *names* are
        exchanged like numbers."""
        if not text.strip():
            return []
        tag, family = spoken_tag(target_tag), family_of(source_tag, target_tag)
        with self._turn:
            self._follow()
            same = self._store.same(text, family, project)
            query, said = Query.of(text), text.strip()
            sources = self._store.sources_of(self._alike(query, family), project)
            shares = {key: _share(query, source) for key, source in sources if source.strip() != said}
            worth = sorted((key for key, share in shares.items() if share >= _WORTH_TRYING), key=lambda k: -shares[k])
            like = self._store.of_ids(worth[:_TRIED])
        found = [_same_match(unit, context) for unit in same]
        found += _like(like, shares, text, names)
        found.sort(key=lambda m: (-m.in_context, -m.percent, spoken_tag(m.unit.target_tag) != tag, _latest(m.unit)))
        once: dict[str, Match] = {}
        for match in found:
            once.setdefault(match.target, match)
        return list(once.values())[:most]

    def exact(
        self, text: str, source_tag: str, target_tag: str, *, context: str = "", project: str = ""
    ) -> Match | None:
        """What was settled for this very text in this very language, that of the same context first."""
        with self._turn:
            same = self._store.same(text, family_of(source_tag, target_tag), project)
        tag = spoken_tag(target_tag)
        found = [_same_match(unit, context) for unit in same if spoken_tag(unit.target_tag) == tag]
        return max(found, key=lambda match: match.in_context, default=None)

    def _alike(self, query: Query, family: str) -> list[int]:
        ids: list[int] = self._index.candidates(query, family) if self._index is not None else []
        return [*ids, *self._late.candidates(query, family)]

    def holding(self, text: str, *, source_tag: str = "", target_tag: str = "", most: int = 200) -> list[Unit]:
        """Units that have a stretch of text in either language, the latest first."""
        if not text.strip():
            return []
        family = family_of(source_tag, target_tag) if source_tag and target_tag else ""
        with self._turn:
            return self._store.holding(text.strip(), family=family, most=most)

    def all_of(self, *, source_tag: str = "", target_tag: str = "") -> Iterator[Unit]:
        """Every unit, of a pair of tags if wanted; nothing else may be done with the memory meanwhile."""
        with self._turn:
            yield from self._store.all_of(source_tag=source_tag, target_tag=target_tag)

    def counts(self) -> list[tuple[str, str, int]]:
        """How many units there are of each pair of tags, most first."""
        with self._turn:
            return self._store.counts()

    def of_ids(self, ids: Sequence[int]) -> list[Unit]:
        """Units by their ids, as far as they are there."""
        with self._turn:
            return self._store.of_ids(ids)

    def of_project(self, project: str) -> dict[tuple[str, str], Unit]:
        """What a project settled, by target tag and segment."""
        with self._turn:
            return self._store.of_project(project)

    # changing

    def put(self, units: Iterable[Unit], *, report: Callable[[int], None] = lambda _count: None) -> int:
        """Take units in, some thousand in a transaction; how many were new or others than before. *report* is told how
        many were taken in until now."""
        changed = done = 0
        batch: list[Unit] = []
        for unit in units:
            batch.append(unit)
            if len(batch) >= _AT_ONCE:
                changed, done, batch = changed + self._put(batch), done + len(batch), []
                report(done)
        if batch:
            changed += self._put(batch)
        with self._turn:
            self._follow()
        return changed

    def _put(self, units: Sequence[Unit]) -> int:
        with self._turn:
            return self._store.put(units)

    def set_target(self, unit_id: int, target: str) -> None:
        """Give a unit another wording."""
        if not target.strip():
            raise StoreError("A unit needs words. To take it away, delete it.")
        with self._turn:
            if not self._store.set_target(unit_id, one_line(target)):
                raise _missing(unit_id)

    def remove(self, ids: Sequence[int]) -> None:
        """Take units away."""
        with self._turn:
            there = {unit.id for unit in self._store.of_ids(ids)}
            gone = next((one for one in ids if one not in there), None)
            if gone is not None:
                raise _missing(gone)
            self._store.remove(ids)

    def mute(self, ids: Sequence[int], project: str, *, muted: bool = True) -> None:
        """Do not offer units in a project, or offer them again."""
        with self._turn:
            self._store.mute(ids, project, muted=muted)

    # the index

    def _follow(self) -> None:
        """Take over what other processes, or this one, have made since."""
        generation = self._store.about(_GENERATION)
        if generation != self._generation:
            try:
                self._index = Index(self._folder(generation)) if generation else None
            except (OSError, ValueError):  # somebody emptied the folder: everything is looked through, and made anew
                self._index = None
                self._store.note(**{_GENERATION: "", _UNTIL: "0"})
                generation = ""
            self._generation = generation
            self._late = _Late(int(self._store.about(_UNTIL) or 0) if generation else 0)
        most = max(self._most_late, len(self._index or ()) // _LATE_SHARE)
        if self._store.count_beyond(self._late.last_id, most + 1) + len(self._late) > most and self._fold():
            return
        self._late.add(self._store.beyond(self._late.last_id))

    def _fold(self) -> bool:
        """A new generation of all there is; others go. False where there is no room for one: what there is goes on
        being used."""
        number, until = token_hex(6), self._store.last_id()
        folder = self._folder(number)
        try:
            write_index(folder, self._store.sources(until))
            index = Index(folder)  # it can be read on, whoever makes another generation meanwhile
        except OSError:
            shutil.rmtree(folder, ignore_errors=True)
            return False
        self._store.note(**{_GENERATION: number, _UNTIL: str(until)})
        self._generation, self._index, self._late = number, index, _Late(until)
        for other in folder.parent.iterdir():
            if other.name != number:
                shutil.rmtree(other, ignore_errors=True)
        return True

    def _folder(self, generation: str) -> Path:
        return self._file.with_name(f"{self._file.stem}-index") / generation


class _Late:
    """Units that no generation has yet: looked through by length and signature, all at once."""

    def __init__(self, last_id: int = 0) -> None:
        self.last_id = last_id
        self._ids: list[int] = []
        self._families: list[str] = []
        self._lengths = np.zeros(0, dtype=np.int64)
        self._signatures = np.zeros((0, 2), dtype=np.uint64)

    def __len__(self) -> int:
        return len(self._ids)

    def add(self, rows: Sequence[tuple[int, str, str]]) -> None:
        """Take in ids, sources and families."""
        if not rows:
            return
        queries = [Query.of(source) for _, source, _ in rows]
        self._ids += [row[0] for row in rows]
        self._families += [row[2] for row in rows]
        self._lengths = np.concatenate((self._lengths, [len(one.text) for one in queries]))
        self._signatures = np.concatenate((self._signatures, [one.signature for one in queries]))
        self.last_id = rows[-1][0]

    def candidates(self, query: Query, family: str) -> list[int]:
        """Ids that may be like a text, the likeliest first."""
        shortest, longest = query.lengths()
        apart = query.apart(self._signatures)
        near = np.flatnonzero((self._lengths >= shortest) & (self._lengths <= longest) & query.few(apart))
        ordered = near[np.argsort(apart[near], kind="stable")]
        return [self._ids[k] for k in ordered.tolist() if self._families[k] == family][:NEAREST]


def _same_match(unit: Unit, context: str) -> Match:
    return Match(unit, 100, unit.target, in_context=bool(context) and unit.context == context)


def _like(units: Iterable[Unit], shares: Mapping[int, float], text: str, names: Collection[str]) -> Iterator[Match]:
    """Of units that may be like a text those that are, with numbers and names exchanged where these alone differ."""
    for unit in units:
        put = exchanged(unit.source, unit.target, text, names)
        if put is not None:
            yield Match(unit, 99, put, exchanged=True)
        elif shares[unit.id] >= LEAST:
            yield Match(unit, min(99, int(100 * shares[unit.id])), unit.target)


def _share(query: Query, source: str) -> float:
    """How alike a unit is; what is not half like it letter by letter is not cut into words."""
    said = normal(source)
    letters = Levenshtein.normalized_similarity(query.text, said)
    return likeness(query.text, said, query.words) if letters >= _WORTH_TRYING else letters


def _latest(unit: Unit) -> tuple[int, int]:
    """Sorts the latest before the others."""
    return (-int("".join(filter(str.isdigit, unit.made))[:14] or 0), -unit.id)


def _missing(unit_id: int) -> StoreError:
    return StoreError(
        "The memory has no unit {number}. “zweistimme memory search” shows their numbers.", number=unit_id
    )
