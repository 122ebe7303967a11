"""How long a run will still take, judged by how fast it got on lately."""

from __future__ import annotations

from collections import deque
from typing import Final

_LOOK_BACK_S: Final = 30.0
_FIRST_S: Final = 3.0
"""Before that nobody knows."""


class Pace:
    """Tell it how far the run is; ``left_s`` says how long it will take.

    >>> pace = Pace()
    >>> for second in range(11):
    ...     pace.reached(second / 40, float(second))
    >>> round(pace.left_s)
    30
    """

    def __init__(self) -> None:
        self._seen: deque[tuple[float, float]] = deque()

    def reached(self, share: float, now_s: float) -> None:
        """The run is at *share* of the whole, 0 to 1, at the time *now_s* of some clock."""
        if self._seen and share < self._seen[-1][1]:
            self._seen.clear()  # it begins anew with something else
        if not self._seen or share > self._seen[-1][1]:
            self._seen.append((now_s, share))
        while len(self._seen) > 2 and now_s - self._seen[0][0] > _LOOK_BACK_S:
            self._seen.popleft()

    @property
    def left_s(self) -> float | None:
        """Seconds until the end, counted from the last progress; None as long as nobody can tell."""
        if not self._seen:
            return None
        (first_s, first), (last_s, last) = self._seen[0], self._seen[-1]
        if last_s - first_s < _FIRST_S or last <= first:
            return None
        return (1.0 - last) * (last_s - first_s) / (last - first)
