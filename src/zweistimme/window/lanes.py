"""What is heard: the lanes added as they are lined up and held under the true peak of the mix, a hundredth of a second
at a time, when the sound device asks for it. So a level is heard as soon as what the device has has been played."""

from __future__ import annotations

import threading
from bisect import bisect_right
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.model import Project
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono, Sound
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.stages.mix.heard import AS_HANDED_OVER, CHANNELS, LANES, HeardMix, Listening, heard_mix
from zweistimme.store.clips import ClipStore
from zweistimme.window.heard_meter import HeardMeter
from zweistimme.window.line_up import CLIP_ALONE, LineUp
from zweistimme.window.read_ahead import Piece, ReadAhead, Way
from zweistimme.window.slow_listening import FADE

Frames = npt.NDArray[np.float32]
"""Interleaved stereo, shape ``(n, 2)``."""
_BLOCK: Final = RATE // 100
_REMEMBERED: Final = 4_000
"""Marks: at a hundred a second more than any device holds back."""


@dataclass(frozen=True, slots=True)
class Mark:
    """From this frame of all that was handed over on, the programme goes on from *start* at *rate* samples a frame."""

    frame: int
    start: int
    rate: float
    turn: int


class LaneMixer:
    """``go`` somewhere, then ``take`` sound; what is not ready yet is silence, and the programme waits for it."""

    def __init__(self, clips: ClipStore, cache: Path, loaded: Callable[[HeardMix], None] = lambda _mix: None) -> None:
        self._clips, self._cache = clips, cache
        self.meter = HeardMeter()
        self.line_up = LineUp()
        self._ahead = ReadAhead(loaded)
        self._lock = threading.Lock()
        self.begin()

    def begin(self) -> None:
        """Count frames from nothing: the device begins anew."""
        self.meter.begin()
        with self._lock:
            self._limiter = TruePeakLimiter(2, self._ahead.ceiling_dbtp)
            self._rest, self._over = np.zeros((CHANNELS, 0), np.float32), np.zeros((CHANNELS, FADE), np.float32)
            self._done = np.zeros((0, 2), dtype=np.float32)
            self._piece: Piece | None = None
            self._broken = False
            self._fed = 0
            self._factors: Mapping[str, float] = self.line_up.factors()
            self._marks: deque[Mark] = deque(maxlen=_REMEMBERED)
            self._end: int | None = None

    def load(self, project: Project, tag: str, listening: Listening = AS_HANDED_OVER) -> None:
        """Take over the sound of a project's version; what is playing plays on."""
        self._ahead.load(partial(heard_mix, project, tag, self._clips, self._cache, listening))

    def go(self, way: Way) -> int:
        """Make this from now on; the number of this turn."""
        with self._lock:
            turn = self._ahead.go(way)
            self._leave_piece()
            return turn

    def go_alone(self, sound: Mono, *, last: bool = True) -> int:
        """Make the sound of one clip, shape ``(n,)``, and nothing else; more of it comes until the *last* piece."""
        return self.go(Way(clip=sound, whole=last, heard=CLIP_ALONE))

    def more_alone(self, sound: Mono, *, last: bool) -> None:
        """The next piece of the clip that is heard alone."""
        with self._lock:
            self._ahead.add_to_clip(sound, last=last)
            self._end = None

    def stop(self) -> None:
        """Let what is heard die away."""
        with self._lock:
            self._ahead.stop()
            self._leave_piece()

    def repeat(self, loop: tuple[int, int] | None) -> None:
        """Repeat a stretch of samples, or nothing."""
        self._ahead.repeat(loop)

    def position(self, frame: int) -> Mark | None:
        """Where in the programme a frame is of all that was handed over: its mark, with *start* brought to it."""
        with self._lock:
            place = bisect_right(self._marks, frame, key=lambda mark: mark.frame) - 1
            if place < 0:
                return None
            mark = self._marks[place]
            return Mark(frame, mark.start + round((frame - mark.frame) * mark.rate), mark.rate, mark.turn)

    def over(self, frame: int) -> bool:
        """Whether all that was to be heard has been, when so many frames have."""
        with self._lock:
            return self._end is not None and frame >= self._end

    def take(self, count: int) -> Frames:
        """The next frames, shape ``(count, 2)``."""
        with self._lock:
            parts, have = [self._done], len(self._done)
            while have < count:
                ready = self._limiter.feed(self._mixed(self._next_block()))
                self.meter.feed(ready)
                parts.append(ready.T)
                have += ready.shape[1]
            sound = np.concatenate(parts)
            self._done = sound[count:]
            return np.ascontiguousarray(sound[:count])

    def close(self) -> None:
        """End the thread, close the files."""
        self._ahead.close()

    # with the lock

    def _leave_piece(self) -> None:
        """Somebody goes elsewhere: what would have followed is faded into what comes."""
        follows = np.concatenate((self._rest, self._over), axis=1)[:, :FADE]
        self._over = np.pad(follows, ((0, 0), (0, FADE - follows.shape[1])))
        self._rest = self._rest[:, :0]
        self._end = None

    def _next_block(self) -> Sound:
        """Stems of the next hundredth of a second, or of what is left of a piece."""
        if not self._rest.shape[1]:
            piece, over = self._ahead.take()
            if piece is None:
                return self._silence(over=over)
            self._begin_piece(piece)
        block, self._rest = self._rest[:, :_BLOCK], self._rest[:, _BLOCK:]
        self._fed += block.shape[1]
        return block

    def _begin_piece(self, piece: Piece) -> None:
        stems = piece.stems
        if not piece.joined or self._broken:
            length = min(FADE, stems.shape[1])
            fade = np.linspace(0, 1, FADE, dtype=np.float32)[:length]
            stems = stems.copy()
            stems[:, :length] = stems[:, :length] * fade + self._over[:, :length] * (1 - fade)
        self._piece, self._rest, self._over = piece, stems, piece.over
        self._broken = False
        self._marks.append(Mark(self._fed, piece.start, piece.rate, piece.turn))

    def _silence(self, *, over: bool) -> Sound:
        """Nothing is ready: what would have followed dies away, and the programme waits."""
        if self._marks and self._marks[-1].rate:
            last = self._marks[-1]
            self._marks.append(
                Mark(self._fed, last.start + round((self._fed - last.frame) * last.rate), 0.0, last.turn)
            )
        if over and self._end is None:
            self._end = self._fed
        dying = self._over * np.linspace(1, 0, FADE, dtype=np.float32)
        self._over, self._broken = np.zeros_like(self._over), True
        self._fed += FADE
        return dying

    def _mixed(self, stems: Sound) -> Sound:
        """Both sides of a block, as it is lined up; a level that was changed gets there within the block."""
        heard = self._piece.heard if self._piece is not None and self._piece.heard is not None else None
        factors = heard if heard is not None else self.line_up.factors()
        sound = np.zeros((2, stems.shape[1]), dtype=np.float32)
        for name, channels in LANES.items():
            before, now = self._factors[name], factors[name]
            if before == now == 0.0:
                continue
            lane = stems[channels]
            if before != now:
                sound += lane * np.linspace(before, now, stems.shape[1], dtype=np.float32)
            else:
                sound += lane if now == 1.0 else lane * np.float32(now)
        self._factors = factors
        return sound
