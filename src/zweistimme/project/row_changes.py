"""Rows of a project (lines, takes, placements by their keys) that know by which few of them they differ from those they
were made of.

An edit changes some of ten thousand rows. What compares two states, or keeps something made of one, asks for those few
here instead of looking through all of them; where nothing is known it looks itself.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final, NoReturn, TypeVar
from weakref import ref

V = TypeVar("V")
_STATES: Final = 16
"""Of how many states before it rows know: an edit may be made of several steps, and what is kept of a state may be some
edits old."""
_MOST: Final = 256
"""Where more rows than this differ, looking through all is as quick."""


class Rows(dict[str, V]):
    """Rows by their keys. They are not changed once they are made; ``with_rows`` makes others of them."""

    __slots__ = ("__weakref__", "_changes")

    def __init__(self, rows: Mapping[str, V]) -> None:
        super().__init__(rows)
        self._changes: tuple[tuple[ref[Rows[V]], tuple[str, ...]], ...] = ()

    def _refused(self, *_: Any, **__: Any) -> NoReturn:
        raise TypeError("rows are not changed once they are made")

    __setitem__ = __delitem__ = update = pop = popitem = clear = setdefault = __ior__ = _refused


def with_rows(rows: Mapping[str, V], put: Mapping[str, V], gone: Iterable[str] = ()) -> Rows[V]:
    """*rows* with those of *put* in place or behind them, and without those under *gone*."""
    made, away = Rows(rows), [key for key in dict.fromkeys(gone) if key not in put]
    dict.update(made, put)
    for key in away:
        dict.pop(made, key, None)
    if isinstance(rows, Rows) and len(put) + len(away) <= _MOST:
        differ = (*put, *away)
        before = [(state, tuple(dict.fromkeys((*keys, *differ)))) for state, keys in rows._changes]
        known = [(ref(rows), differ), *before[: _STATES - 1]]
        made._changes = tuple((state, keys) for state, keys in known if state() is not None and len(keys) <= _MOST)
    return made


def changed_keys(before: Mapping[str, V], after: Mapping[str, V]) -> tuple[str, ...] | None:
    """The keys under which *after* may differ from *before*, from which it was made; None where that is not known."""
    if before is after:
        return ()
    known = after._changes if isinstance(after, Rows) else ()
    return next((keys for state, keys in known if state() is before), None)
