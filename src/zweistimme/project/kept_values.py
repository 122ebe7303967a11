"""Values made from a part of a project that seldom changes, kept while that part is the same object."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Final, Generic, TypeVar

T = TypeVar("T")
_MOST: Final = 64


class KeptValues(Generic[T]):
    """By a key, the last value and what it was made from. Used from several threads: at worst one is made twice."""

    def __init__(self) -> None:
        self._made: dict[Hashable, tuple[tuple[object, ...], T]] = {}

    def get(self, key: Hashable, origin: tuple[object, ...], make: Callable[[], T]) -> T:
        """The value for *key*, made anew where one of *origin* is another object than the last time."""
        known = self._made.get(key)
        if known is not None and all(a is b for a, b in zip(known[0], origin, strict=True)):
            return known[1]
        if len(self._made) >= _MOST:
            self._made = {}
        value = make()
        self._made[key] = (origin, value)
        return value
