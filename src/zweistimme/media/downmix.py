"""Channels by their names, and how they are mixed down to two after ITU-R BS.775-4, annex 4."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.project.errors import MediaError

Matrix = npt.NDArray[np.float32]
"""Shape ``(out, in)``: what each channel in gives to each channel out."""

_HALF: Final = 0.5**0.5
_LEFT: Final = {"FL": 1.0, "FLC": _HALF, "SL": _HALF, "BL": _HALF, "WL": _HALF, "TFL": _HALF, "TBL": _HALF, "DL": 1.0}
_RIGHT: Final = {name.replace("L", "R", 1): share for name, share in _LEFT.items() if name != "FLC"} | {"FRC": _HALF}
_BOTH: Final = {"FC": _HALF, "BC": 0.5, "TC": 0.5, "TFC": 0.5, "TBC": 0.5}
_NONE: Final = ("LFE", "LFE2")
_BY_COUNT: Final = {
    1: ("FC",),
    2: ("FL", "FR"),
    6: ("FL", "FR", "FC", "LFE", "BL", "BR"),
    8: ("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR"),
}


def channel_names(names: Sequence[str]) -> tuple[str, ...]:
    """The names, or the usual ones of so many channels where a file gives none.

    >>> channel_names(["NONE", "NONE"])
    ('FL', 'FR')
    """
    known = _LEFT.keys() | _RIGHT.keys() | _BOTH.keys() | set(_NONE)
    if all(name in known for name in names):
        return tuple(names)
    return _BY_COUNT.get(len(names), tuple(names))


def picked_channels(names: Sequence[str], channels: str) -> tuple[str, ...]:
    """The channels that *channels* of a pick means, in the order of the file; MediaError if there are none such.

    >>> picked_channels(["FL", "FR", "FC", "LFE"], "-FC")
    ('FL', 'FR', 'LFE')
    """
    names = channel_names(names)
    if not channels:
        return names
    wanted = channels.removeprefix("-").split("+")
    strange = [name for name in wanted if name not in names]
    if strange:
        raise MediaError(
            "There is no channel {strange} in this track. It has {names}.", strange=strange[0], names=", ".join(names)
        )
    kept = tuple(name for name in names if (name in wanted) != channels.startswith("-"))
    if not kept:
        raise MediaError("“{channels}” leaves no channel of {names}.", channels=channels, names=", ".join(names))
    return kept


def downmix(names: Sequence[str], channels: str = "") -> Matrix:
    """The matrix from a track's channels to one (a single channel picked, or mono) or two.

    The low-frequency effects are left out, as the recommendation has it, unless nothing else was picked.
    Coefficients are those of the recommendation: sums may go beyond full scale, so room must be left above.
    """
    names = channel_names(names)
    kept = picked_channels(names, channels)
    if len(kept) == 1:
        return np.array([[float(name == kept[0]) for name in names]], dtype=np.float32)
    matrix = np.zeros((2, len(names)), dtype=np.float32)
    for place, name in enumerate(names):
        if name in kept and name not in _NONE:
            both = _BOTH.get(name, 0.0 if name in _LEFT or name in _RIGHT else _HALF)
            matrix[:, place] = _LEFT.get(name, both), _RIGHT.get(name, both)
    return matrix


def may_exceed(matrix: Matrix) -> bool:
    """Whether what comes out can be beyond full scale though nothing that goes in is."""
    return bool(np.abs(matrix).sum(axis=1).max() > 1.0 + 1e-6)
