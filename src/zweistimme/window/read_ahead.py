"""Sound made ahead of the playhead on a thread of its own, in pieces that fit each other.

Each piece brings a little more than its length. Where the next one is not its continuation (somebody went elsewhere, a
stretch is repeated, a line was changed meanwhile), that is faded into it; so nothing clicks, and nothing stops.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono, Sound
from zweistimme.stages.mix.heard import CHANNELS, LANES, HeardMix
from zweistimme.window.background import CLOSING_S
from zweistimme.window.mishaps import tell_defect
from zweistimme.window.slow_listening import FADE, slowed, span_samples, step_samples

_AHEAD: Final = RATE * 6 // 10
"""Samples that are made before they are heard."""
_KEPT: Final = RATE * 15 // 100
"""Samples that are heard as they were made when the project has changed meanwhile."""
_NOTHING: Final = HeardMix({}, 0, -1.0)


@dataclass(frozen=True, slots=True)
class Piece:
    """Stems, shape ``(5, n)``, and *over*, shape ``(5, FADE)``, what follows them; *start* is the sample of the
    programme they begin at and *rate* how many of it go by in each of theirs. *heard*, where given, is which lanes are
    heard of it, whatever the line-up is. *turn* counts the times somebody went elsewhere."""

    stems: Sound
    over: Sound
    start: int
    rate: float
    joined: bool
    heard: Mapping[str, float] | None
    turn: int


@dataclass(frozen=True, slots=True)
class Way:
    """What is to be made: from a sample on, at a speed, perhaps *until* another and some lanes alone; or a clip."""

    start: int = 0
    speed: float = 1.0
    until: int | None = None
    heard: Mapping[str, float] | None = None
    clip: Mono | None = None
    whole: bool = True
    """Whether all of the clip is there."""


class ReadAhead:
    """Say ``go`` and take pieces; ``load`` brings the sound of another version, or of this one as it is now."""

    def __init__(self, loaded: Callable[[HeardMix], None]) -> None:
        """*loaded* is called on the thread, once what was to be opened is."""
        self._loaded = loaded
        self._lock = threading.Condition()
        self._ready: deque[Piece] = deque()
        self._wanted: Callable[[], HeardMix] | None = None
        self._mix = _NOTHING
        self._way: Way | None = None
        self._next = 0
        self._joined = False
        self._turn = 0
        self._loop: tuple[int, int] | None = None
        self._closed = False
        self._thread = threading.Thread(target=self._run, name="sound ahead", daemon=True)
        self._thread.start()

    @property
    def ceiling_dbtp(self) -> float:
        """The true peak that the mix keeps to."""
        return self._mix.ceiling_dbtp

    def load(self, opened: Callable[[], HeardMix]) -> None:
        """Have *opened* called on the thread, and its sound made from now on."""
        with self._lock:
            self._wanted = opened
            self._lock.notify()

    def go(self, way: Way) -> int:
        """Make this from now on; the number of this turn."""
        with self._lock:
            self._way, self._next, self._joined = way, way.start if way.clip is None else 0, False
            self._turn += 1
            self._ready.clear()
            self._lock.notify()
            return self._turn

    def stop(self) -> None:
        """Make nothing more."""
        with self._lock:
            self._way = None
            self._ready.clear()

    def repeat(self, loop: tuple[int, int] | None) -> None:
        """Repeat a stretch of samples from now on, or nothing."""
        with self._lock:
            if loop != self._loop:
                self._loop = loop
                self._make_anew_what_is_far()
                self._lock.notify()

    def add_to_clip(self, sound: Mono, *, last: bool) -> None:
        """The next piece of the clip that is heard."""
        with self._lock:
            if self._way is not None and self._way.clip is not None:
                self._way = Way(clip=np.concatenate((self._way.clip, sound)), heard=self._way.heard, whole=last)
                self._lock.notify()

    def take(self) -> tuple[Piece | None, bool]:
        """The next piece, if it is ready, and whether that was all."""
        with self._lock:
            piece = self._ready.popleft() if self._ready else None
            self._lock.notify()
            return piece, piece is None and self._is_over()

    def close(self) -> None:
        """End the thread, close the files."""
        with self._lock:
            self._closed = True
            self._lock.notify()
        self._thread.join(CLOSING_S)

    # on the thread

    def _run(self) -> None:
        while True:
            with self._lock:
                while not self._closed and self._wanted is None and not self._may_make():
                    self._lock.wait()
                if self._closed:
                    break
                wanted, self._wanted = self._wanted, None
            try:
                if wanted is not None:
                    self._open(wanted)
                else:
                    self._make()
            except Exception:
                self.stop()
                if not self._closed:
                    tell_defect()
        self._mix.close()

    def _open(self, wanted: Callable[[], HeardMix]) -> None:
        before = self._mix
        try:
            mix = wanted()
        except ZweistimmeError:  # the working copy went away: what is missing is said where it is
            mix = _NOTHING
        with self._lock:
            self._mix = mix
            self._make_anew_what_is_far()
        before.close()
        if not self._closed:
            self._loaded(mix)

    def _make(self) -> None:
        with self._lock:
            way, turn, mix, loop = self._way, self._turn, self._mix, self._loop
            if way is None:
                return
            if way.clip is not None or way.until is not None:
                loop = None
            if loop is not None and self._next >= loop[1]:  # it was asked for when its end had been made already
                self._next, self._joined = loop[0], False
            start, joined = self._next, self._joined
            step = self._step(way, start, loop)
            at_loop = loop is not None and start + step == loop[1]
        stems = self._stems(way, mix, start, span_samples(step, way.speed))
        heard = slowed(stems, step, way.speed)
        piece = Piece(
            heard[:, :-FADE], heard[:, -FADE:], start, way.speed, joined and way.speed == 1.0, way.heard, turn
        )
        with self._lock:
            if turn == self._turn and start == self._next and mix is self._mix:  # nobody has gone elsewhere
                self._ready.append(piece)
                self._next = loop[0] if at_loop and loop is not None else start + step
                self._joined = not at_loop

    def _stems(self, way: Way, mix: HeardMix, start: int, count: int) -> Sound:
        if way.clip is None:
            return mix.read(start, count)
        stems = np.zeros((CHANNELS, count), dtype=np.float32)
        part = way.clip[start : start + count]
        stems[LANES["Dub"], : len(part)] = part
        return stems

    # with the lock

    @staticmethod
    def _step(way: Way, start: int, loop: tuple[int, int] | None) -> int:
        ends = [start + step_samples(way.speed)]
        ends += [] if way.clip is None else [len(way.clip)]
        ends += [] if way.until is None else [way.until]
        ends += [] if loop is None else [loop[1]]
        return max(1, min(ends) - start)

    def _is_over(self) -> bool:
        way = self._way
        if way is None:
            return True
        if way.clip is not None:
            return way.whole and self._next >= len(way.clip)
        return way.until is not None and self._next >= way.until

    def _may_make(self) -> bool:
        way = self._way
        if way is None or self._is_over() or sum(piece.stems.shape[1] for piece in self._ready) >= _AHEAD:
            return False
        missing = way.clip is not None and not way.whole and self._next + step_samples(1.0) > len(way.clip)
        return not missing

    def _make_anew_what_is_far(self) -> None:
        """What is heard in a moment stays as it was made; what comes after it is made anew."""
        if self._way is None or self._way.clip is not None:
            return
        kept = 0
        for number, piece in enumerate(self._ready):
            if kept >= _KEPT:
                self._next, self._joined = piece.start, False
                while len(self._ready) > number:
                    self._ready.pop()
                return
            kept += piece.stems.shape[1]
        self._joined = False
