"""What is done to a voice's level from moment to moment: sharp sibilants held, loud moments brought nearer to the rest.

Both follow what was measured of the voice that is replaced. Gains are worked out every 5 ms, at once for a whole clip.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Mono

RATE: Final = 48_000
_HOP: Final = 240
_SIBILANT_HZ: Final = (5_000.0, 10_000.0)
_TAPS: Final = 255
_UNDER_LOUD_DB: Final = 25.0
_FLAT_FRAMES: Final = 5
_MOST_DE_ESS_DB: Final = 8.0
_LEAST_SLOPE: Final = 0.5
_SPREAD_PERCENTILE: Final = 95
_RELEASE_DB: Final = 0.25
"""How far a gain rises in 5 ms."""
_NOTHING_DB: Final = -120.0


@dataclass(frozen=True, slots=True)
class Dynamics:
    """How a voice goes up and down, in dB: *middle* the level of its speech in the median, *spread* how far its loud
    moments lie over that, *sibilance* how far its sharpest moments of 5 to 10 kHz lie over (or under) that. Of *frames*
    frames of speech."""

    middle_db: float
    spread_db: float
    sibilance_db: float
    frames: int


@lru_cache(maxsize=1)
def _sharp() -> Mono:
    """A filter without delay that leaves what sibilants have."""
    from scipy.signal import firwin

    return np.asarray(firwin(_TAPS, _SIBILANT_HZ, pass_zero=False, fs=RATE), dtype=np.float32)


def sharp_part(samples: Mono) -> Mono:
    """What samples, shape ``(n,)``, have between 5 and 10 kHz, in step with them."""
    from scipy.signal import oaconvolve

    if not len(samples):
        return samples
    return np.asarray(oaconvolve(samples, _sharp())[_TAPS // 2 :][: len(samples)], dtype=np.float32)


def step_levels_db(samples: Mono) -> Floats:
    """The level of every 5 ms, over 15 ms around it; a last piece counts as a whole one."""
    padded = np.pad(samples, (0, -len(samples) % _HOP)).reshape(-1, _HOP)
    energy = np.vecdot(padded, padded).astype(np.float64) / _HOP
    around = np.convolve(np.pad(energy, 1, mode="edge"), np.full(3, 1 / 3), "valid") if len(energy) else energy
    return 10 * np.log10(np.maximum(around, 10 ** (_NOTHING_DB / 10)))


def dynamics_of(samples: Mono) -> Dynamics | None:
    """What a voice's level does in some speech, shape ``(n,)``; None where nobody speaks."""
    levels = step_levels_db(samples)
    if not len(levels) or levels.max() <= _NOTHING_DB + 40:
        return None
    loud = levels > np.percentile(levels, 95) - _UNDER_LOUD_DB
    sharp = step_levels_db(sharp_part(samples))[loud]
    middle = float(np.median(levels[loud]))
    spread = float(np.percentile(levels[loud], _SPREAD_PERCENTILE)) - middle
    return Dynamics(middle, spread, float(np.percentile(sharp, _SPREAD_PERCENTILE)) - middle, int(loud.sum()))


def joined(some: list[Dynamics]) -> Dynamics | None:
    """What several stretches of a voice do, by their frames; their levels do not count, as each is set by itself."""
    frames = sum(one.frames for one in some)
    if not frames:
        return None

    def mean(values: list[float]) -> float:
        return float(np.average(values, weights=[one.frames for one in some]))

    return Dynamics(
        mean([one.middle_db for one in some]),
        mean([one.spread_db for one in some]),
        mean([one.sibilance_db for one in some]),
        frames,
    )


def de_essed(samples: Mono, most_db: float) -> Mono:
    """A clip whose moments of 5 to 10 kHz lie no further than *most_db* over its speech in the median; at most 8 dB are
    taken from any, and from nothing else."""
    own = dynamics_of(samples)
    if own is None or own.sibilance_db <= most_db - 6.0:  # no moment can be far over its 95th hundredth
        return samples
    sharp = sharp_part(samples)
    over = step_levels_db(sharp) - own.middle_db - most_db
    gains = _moved(-np.clip(over, 0.0, _MOST_DE_ESS_DB))
    if not gains.any():
        return samples
    return np.asarray(samples - sharp * (1 - _by_sample(gains, len(samples))), dtype=np.float32)


def compressed(samples: Mono, slope: float) -> Mono:
    """A clip whose levels over the median of its speech are brought nearer to it: of each dB over it *slope* is left,
    no less than half."""
    own = dynamics_of(samples)
    if own is None or slope >= 1.0:
        return samples
    over = np.maximum(step_levels_db(samples) - own.middle_db, 0.0)
    gains = _moved(-over * (1 - max(slope, _LEAST_SLOPE)))
    return np.asarray(samples * _by_sample(gains, len(samples)), dtype=np.float32)


def _moved(gains_db: Floats) -> Floats:
    """Gains that come down in time and rise slowly: the least of the frames around, then no faster than a release."""
    if not len(gains_db):
        return gains_db
    around = np.lib.stride_tricks.sliding_window_view(np.pad(gains_db, 2, mode="edge"), _FLAT_FRAMES).min(axis=1)
    risen = np.arange(len(around)) * _RELEASE_DB
    released = np.minimum.accumulate(around - risen) + risen
    return np.convolve(np.pad(released, 2, mode="edge"), np.full(_FLAT_FRAMES, 1 / _FLAT_FRAMES), "valid")


def _by_sample(gains_db: Floats, count: int) -> Mono:
    """Factors of *count* samples from gains of every 5 ms."""
    places = (np.arange(count, dtype=np.float32) - _HOP / 2) / _HOP
    return np.interp(places, np.arange(len(gains_db)), 10 ** (gains_db / 20)).astype(np.float32)
