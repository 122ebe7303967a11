"""The three lanes that are heard: Original, Bed and Dub, mixed ahead of the playhead on a thread of its own."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.working_copy import SoundReader
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Project
from zweistimme.stages.mix.lanes import DubLane, placed_takes
from zweistimme.stages.work import working_file
from zweistimme.store.clips import ClipStore
from zweistimme.window.slow_listening import Slowing

Frames = npt.NDArray[np.float32]
"""Interleaved stereo, shape ``(n, 2)``."""
LANES: Final = ("Original", "Bed", "Dub")
_AHEAD: Final = 6


@dataclass(slots=True)
class LaneState:
    """How a lane is set: level 0..1.5, mute, solo; and whether a hand has muted it or not."""

    level: float = 1.0
    mute: bool = False
    solo: bool = False
    by_hand: bool = False


class LaneMixer:
    """Call ``go`` for a new position, then ``take`` for sound; what is not ready yet is silence."""

    def __init__(self, clips: ClipStore, cache: Path) -> None:
        self._clips, self._cache = clips, cache
        self.states = {"Original": LaneState(mute=True), "Bed": LaneState(), "Dub": LaneState()}
        self._readers: dict[str, Callable[[int, int], Frames]] = {}
        self._open: list[SoundReader] = []
        self._stale: list[SoundReader] = []
        self._lock = threading.Condition()
        self._ready: deque[Frames] = deque()
        self._rest = np.zeros((0, 2), dtype=np.float32)
        self._next = 0
        self._wanted = False
        self._closed = False
        self._alone: Frames | None = None
        self._more = False
        self._slowing = Slowing()
        self._thread = threading.Thread(target=self._produce, name="lanes", daemon=True)
        self._thread.start()

    def load(self, project: Project, tag: str) -> None:
        """Take over the sound of a project's version."""
        readers: dict[str, Callable[[int, int], Frames]] = {}
        opened = []
        programme = project.programme
        for name, track in (
            ("Original", programme.sound if programme else None),
            ("Bed", programme.bed if programme else None),
        ):
            if track is not None and working_file(self._cache, track).is_file():
                reader = SoundReader(working_file(self._cache, track))
                opened.append(reader)
                readers[name] = partial(_read_stereo, reader)
        if tag in project.versions:
            dub = DubLane(placed_takes(project, project.versions[tag]), self._clips, self._cache)
            readers["Dub"] = lambda start, count: _stereo(dub.read(start, count)[None, :])
        with self._lock:
            self._stale += self._open  # closed by the thread that reads them
            self._open, self._readers = opened, readers
            self._ready.clear()
            self._lock.notify()

    @property
    def lanes(self) -> tuple[str, ...]:
        """Lanes that have sound."""
        return tuple(name for name in LANES if name in self._readers)

    def go(self, sample: int, speed: float = 1.0) -> None:
        """Make sound from here on, at *speed* times its own with its pitch kept."""
        with self._lock:
            self._next, self._wanted, self._alone = sample, True, None
            self._slowing = Slowing(speed)
            self._ready.clear()
            self._rest = self._rest[:0]
            self._lock.notify()

    def go_alone(self, sound: npt.NDArray[np.float32], *, last: bool = True) -> None:
        """Make the sound of one clip, shape ``(n,)``, and nothing else; more of it comes until the *last* piece."""
        with self._lock:
            self._alone, self._more, self._slowing = _stereo(sound[None, :]), not last, Slowing()
            self._next, self._wanted = 0, True
            self._ready.clear()
            self._rest = self._rest[:0]
            self._lock.notify()

    def more_alone(self, sound: npt.NDArray[np.float32], *, last: bool) -> None:
        """The next piece of the clip that is heard alone."""
        with self._lock:
            if self._alone is not None:
                self._alone, self._more = np.concatenate((self._alone, _stereo(sound[None, :]))), not last
                self._lock.notify()

    @property
    def left_alone(self) -> int:
        """How many samples of the clip are not made yet, or made and not taken."""
        with self._lock:
            made = sum(map(len, self._ready)) + len(self._rest)
            return max(0, (0 if self._alone is None else len(self._alone)) - (self._next - made))

    def _starved(self) -> bool:
        """Whether what comes next of the clip is still on its way."""
        return self._alone is not None and self._more and self._next + self._slowing.span > len(self._alone)

    def take(self, count: int) -> Frames:
        """The next frames, shape ``(count, 2)``."""
        with self._lock:
            parts, have = [self._rest], len(self._rest)
            while have < count and self._ready:
                parts.append(self._ready.popleft())
                have += len(parts[-1])
            self._lock.notify()
        sound = np.concatenate(parts)
        if len(sound) < count:
            sound = np.pad(sound, ((0, count - len(sound)), (0, 0)))
        self._rest = sound[count:]
        return np.ascontiguousarray(sound[:count])

    def close(self) -> None:
        """End the thread, close the files."""
        with self._lock:
            self._closed = True
            self._lock.notify()
        self._thread.join(5.0)
        for reader in (*self._open, *self._stale):
            reader.close()

    def _produce(self) -> None:
        while True:
            with self._lock:
                while not self._closed and (not self._wanted or len(self._ready) >= _AHEAD or self._starved()):
                    self._lock.wait()
                if self._closed:
                    return
                stale, self._stale = self._stale, []
                start, readers, alone, slowing = self._next, dict(self._readers), self._alone, self._slowing
                self._next += slowing.step
            for reader in stale:
                reader.close()
            chunk = slowing.heard(self._sound(start, slowing.span, readers, alone))
            with self._lock:
                if self._next == start + slowing.step and slowing is self._slowing:  # nobody has gone elsewhere
                    self._ready.append(chunk)

    def _sound(
        self, start: int, count: int, readers: dict[str, Callable[[int, int], Frames]], alone: Frames | None
    ) -> Frames:
        sound = np.zeros((count, 2), dtype=np.float32)
        if alone is not None:
            part = alone[start : start + count]
            sound[: len(part)] = part
            return sound
        soloed = any(state.solo for state in self.states.values())
        for name, read in readers.items():
            state = self.states[name]
            if state.solo or (not soloed and not state.mute):
                try:
                    sound += read(start, count) * np.float32(state.level)
                except ZweistimmeError:  # a clip is gone; its line says so
                    continue
        return np.clip(sound, -1.0, 1.0)


def _read_stereo(reader: SoundReader, start: int, count: int) -> Frames:
    return _stereo(reader.read(start, count))


def _stereo(planar: npt.NDArray[np.float32]) -> Frames:
    both = planar if len(planar) == 2 else np.repeat(planar[:1], 2, axis=0)
    return np.ascontiguousarray(both.T, dtype=np.float32)
