"""The K-weighting of ITU-R BS.1770-5 as matrix products: a recursive filter taken a block of samples at a time.

Over a block the output is linear in its samples and in the filter's state before it. So all blocks are weighted in one
product as if each began in silence; the states they really begin in follow from what each block leaves behind, by the
same trick once more over groups of blocks; and a second product adds what the states still ring.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Mono

# BS.1770-5, tables 1 and 2: a shelf for the head, then a high-pass, both for 48 kHz
_SECTIONS: Final = (
    (1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585),
    (1.0, -2.0, 1.0, -1.99004745483398, 0.99007225036621),
)
_STATES: Final = 2 * len(_SECTIONS)
HOP_SAMPLES: Final = 4_800
"""A tenth of a second."""
BLOCK: Final = 48
"""Samples of one block: 1 ms."""
_GROUP: Final = 50
"""Blocks of one group."""
_GROUPS: Final = 20
"""Groups that are filtered at once, a second in all."""
_DIED_AWAY: Final = 1e-30
"""What dies away in silence would come to numbers so small that processors count slowly with them."""
_AT_ONCE: Final = BLOCK * _GROUP * _GROUPS


@dataclass(frozen=True, slots=True)
class _Level:
    """Equal steps in a row, by row vectors: the states before each of them from what each leaves behind (*inside*) and
    from the state before the first (*start*); and what all of them together *leave*, and *pass* on."""

    inside: Floats
    start: Floats
    leave: Floats
    passes: Floats


@dataclass(frozen=True, slots=True)
class _Matrices:
    """By row vectors: *output* of a block's samples, what they *leave* as state, what a state *rings* in it; then
    the blocks of a group, and the groups."""

    output: Mono
    leave: Mono
    rings: Mono
    group: _Level
    groups: _Level


def _filtered(samples: Floats, state: Floats) -> tuple[Floats, Floats]:
    """Signals, shape ``(k, n)``, filtered sample by sample from states ``(k, 4)``: transposed direct form II."""
    samples, state = samples.copy(), state.copy()
    for n in range(samples.shape[1]):
        for section, (b0, b1, b2, a1, a2) in enumerate(_SECTIONS):
            one, two = 2 * section, 2 * section + 1
            given = samples[:, n].copy()
            made = b0 * given + state[:, one]
            state[:, one] = b1 * given - a1 * made + state[:, two]
            state[:, two] = b2 * given - a2 * made
            samples[:, n] = made
    return samples, state


@lru_cache(maxsize=1)
def _matrices() -> _Matrices:
    output, leave = _filtered(np.eye(BLOCK), np.zeros((BLOCK, _STATES)))
    rings, passes = _filtered(np.zeros((_STATES, BLOCK)), np.eye(_STATES))
    group = _level(passes, _GROUP)
    return _Matrices(
        output.astype(np.float32),
        leave.astype(np.float32),
        rings.astype(np.float32),
        group,
        _level(group.passes, _GROUPS),
    )


def _level(passes: Floats, count: int) -> _Level:
    powers = [np.eye(_STATES)]
    for _ in range(count):
        powers.append(powers[-1] @ passes)
    inside = np.zeros((count, _STATES, count, _STATES))
    for step in range(count):
        for later in range(step + 1, count):
            inside[step, :, later] = powers[later - step - 1]
    leave = np.concatenate(powers[count - 1 :: -1], axis=0)
    size = count * _STATES
    return _Level(inside.reshape(size, size), np.concatenate(powers[:count], axis=1), leave, powers[count])


class KWeighting:
    """The filter of one channel at 48 kHz, fed in pieces of any length. It gives whole tenths of a second; what fills
    none waits for the next piece."""

    def __init__(self) -> None:
        self._state = np.zeros(_STATES)
        self._waiting: Mono = np.empty(0, dtype=np.float32)

    def feed(self, line: Mono) -> Mono:
        """Samples, shape ``(n,)``; what is ready comes back weighted, a multiple of ``HOP_SAMPLES`` long."""
        joined = np.concatenate((self._waiting, line)) if len(self._waiting) else line
        whole = len(joined) // HOP_SAMPLES * HOP_SAMPLES
        self._waiting = joined[whole:].copy()
        result = np.empty(whole, dtype=np.float32)
        for start in range(0, whole, _AT_ONCE):
            part = joined[start : min(start + _AT_ONCE, whole)]
            result[start : start + len(part)] = self._weighted(part)
        return result

    def rest(self) -> Mono:
        """What still waits, weighted."""
        count = len(self._waiting)
        return self._weighted(np.pad(self._waiting, (0, -count % BLOCK)))[:count]

    def _weighted(self, line: Mono) -> Mono:
        self._state[np.abs(self._state) < _DIED_AWAY] = 0.0
        if not self._state.any() and not line.any():
            return np.zeros(len(line), dtype=np.float32)
        given = _matrices()
        blocks = np.ascontiguousarray(line).reshape(-1, BLOCK)
        weighted = blocks @ given.output
        weighted += self._states(blocks @ given.leave, given) @ given.rings
        return weighted.ravel()

    def _states(self, left: npt.NDArray[np.float32], given: _Matrices) -> npt.NDArray[np.float32]:
        """The state before each block, shape ``(blocks, 4)``, from what each leaves behind; keeps the last."""
        group, groups = given.group, given.groups
        padded = np.zeros((_GROUPS * _GROUP, _STATES))
        padded[: len(left)] = left
        blocks = padded.reshape(_GROUPS, -1)
        leaves = (blocks @ group.leave).ravel()
        before = (leaves @ groups.inside + self._state @ groups.start).reshape(_GROUPS, _STATES)
        states = (blocks @ group.inside + before @ group.start).reshape(-1, _STATES)
        if len(left) < len(padded):  # what comes behind the last block is the state now
            self._state = states[len(left)].copy()
        else:
            self._state = self._state @ groups.passes + leaves @ groups.leave
        return states[: len(left)].astype(np.float32)
