"""How loud what is heard is: momentary, short term, whole, range and true peak since playing began (EBU Tech 3341)."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.sound.arrays import Floats, Sound, decibels
from zweistimme.sound.k_weighting import HOP_SAMPLES
from zweistimme.sound.loudness import EnergyMeter, integrated_lufs, lufs, range_lu
from zweistimme.sound.true_peak import PeakMeter

_MOMENT: Final = 4
_SHORT_TERM: Final = 30
_NOTHING: Final = float("-inf")


@dataclass(frozen=True, slots=True)
class HeardLoudness:
    """In LUFS, LU and dBTP; -inf where nothing was heard yet."""

    momentary_lufs: float = _NOTHING
    short_term_lufs: float = _NOTHING
    integrated_lufs: float = _NOTHING
    range_lu: float = 0.0
    true_peak_dbtp: float = _NOTHING


class HeardMeter:
    """Fed with what goes to the device, on whatever thread; asked by the window. It hears only while it is *on*."""

    def __init__(self) -> None:
        self.on = False
        self._lock = threading.Lock()
        self.begin()

    def begin(self) -> None:
        """Forget what was heard."""
        with self._lock:
            self._energies, self._peaks = EnergyMeter(2), PeakMeter(2)
            self._waiting: list[Sound] = []
            self._count = 0

    def feed(self, sound: Sound) -> None:
        """What is played next, shape ``(2, n)``."""
        if not self.on:
            return
        with self._lock:
            self._waiting.append(sound)
            self._count += sound.shape[1]
            if self._count >= HOP_SAMPLES:
                joined = np.ascontiguousarray(np.concatenate(self._waiting, axis=1), dtype=np.float32)
                self._energies.feed(joined)
                self._peaks.feed(joined)
                self._waiting, self._count = [], 0

    def read(self) -> HeardLoudness:
        """How loud it is now, and was since it began."""
        with self._lock:
            energies = self._energies.energies()
            peak = self._peaks.largest
        if not len(energies):
            return HeardLoudness()
        return HeardLoudness(
            _latest(energies, _MOMENT),
            _latest(energies, _SHORT_TERM),
            integrated_lufs(energies),
            range_lu(energies),
            float(decibels(peak)) if peak > 0 else _NOTHING,
        )


def _latest(energies: Floats, steps: int) -> float:
    mean = float(energies[-steps:].sum() / steps)
    return float(lufs(mean)) if mean > 1e-10 else _NOTHING
