"""A script as it would sound here: the sentences a voice spoke, through an ear."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.script_features import AUDIBLE, Ear, Singles, Template

_KEPT: Final = 256
"""Sentences whose states are kept: some more than a window looks ahead, so memory does not grow with the script."""


class SeenScript:
    """Sentences by number, each made when it is first wanted, the latest kept."""

    def __init__(self, templates: Sequence[Template], ear: Ear) -> None:
        self.templates = templates
        self.ear = ear
        self._states = lru_cache(maxsize=_KEPT)(lambda number: ear.states(templates[number].spectra))

    def states(self, number: int) -> Singles:
        """The states of a sentence as features, shape ``(warps, k, 26)``."""
        return self._states(number)

    def alike(self, one: int, other: int) -> bool:
        """Whether two sentences are spoken alike, as where a script says the same twice."""
        first, second = self.templates[one].spectra, self.templates[other].spectra
        return one == other or (first.shape == second.shape and np.array_equal(first, second))

    def audible(self, number: int) -> npt.NDArray[np.bool_]:
        """Whether each state of a sentence would be heard over the noise, shape ``(k,)``."""
        return self.ear.levels(self.templates[number]) > AUDIBLE
