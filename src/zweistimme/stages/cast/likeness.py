"""How alike voices are, and where they lie on a plane: near means alike.

Each trait counts by how far apart people have to be in it to be told apart; what depends on room and microphone
(brightness, breath) is compared within the people of a programme and within the voices on offer, not across.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from zweistimme.engines.offers import VoiceInfo
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.arrays import Floats

_STEPS: Final = (3.0, 1.2, 1.2, 4.5, 4.0, 1.6)
"""What counts as one step apart: semitones of pitch and of its spread, semitones of the tract, dB of brightness and of
harmonics, syllables a second."""
_OF_ROOM: Final = (3, 4)
_WEIGHTS: Final = np.array((1.0, 0.5, 1.0, 0.35, 0.5, 0.3))
"""What each counts for in how alike voices are."""
_UPWARDS: Final = np.array((0.0, 0.2, 1.0, 0.1, 0.1, 0.1))
_LEAST_GROUP: Final = 3
"""With fewer voices it is not known what the room and what the voice is."""
_USUAL: Final[dict[str, tuple[float, float]]] = {
    "male": (118.0, 1.0), "man": (118.0, 1.0), "masculine": (118.0, 1.0),
    "female": (205.0, 1.13), "woman": (205.0, 1.13), "feminine": (205.0, 1.13),
    "child": (280.0, 1.3), "boy": (270.0, 1.28), "girl": (290.0, 1.3), "neutral": (160.0, 1.06),
}  # fmt: skip
"""Pitch in Hz and tract (as ``VoiceTraits`` has it) of a kind of voice where a voice is not measured."""
_GROWN_UP: Final = {"man": "man", "male": "man", "masculine": "man", "woman": "woman", "female": "woman",
                    "feminine": "woman", "child": "child", "boy": "child", "girl": "child"}  # fmt: skip
UNKNOWN_STEPS: Final = 1.2
"""A trait that is not known is taken to be so far off."""


def features(traits: Sequence[VoiceTraits | None]) -> Floats:
    """Traits in steps, NaN where they are not known; shape ``(k, 6)``. What is of the room is about its median."""
    rows = np.full((len(traits), len(_STEPS)), np.nan)
    for row, one in zip(rows, traits, strict=True):
        if one is not None:
            pitch_st = 12 * np.log2(one.pitch_hz / 100) if one.pitch_hz else np.nan
            row[:] = (
                pitch_st, one.spread_st, 12 * np.log2(one.tract), one.bright_db,
                one.harmonic_db if one.pitch_hz else np.nan, one.pace,
            )  # fmt: skip
    for column in _OF_ROOM:
        known = rows[np.isfinite(rows[:, column]), column]
        rows[:, column] = rows[:, column] - np.median(known) if len(known) >= _LEAST_GROUP else np.nan
    return rows / np.array(_STEPS)


def described_traits(voice: VoiceInfo) -> VoiceTraits | None:
    """What can be said of a voice that nobody has measured: pitch and tract, by what its engine says of it."""
    usual = _USUAL.get(voice.kind.lower())
    if voice.pitch_hz is None and usual is None:
        return None
    pitch_hz = voice.pitch_hz or (usual[0] if usual else None)
    tract = usual[1] if usual else float("nan")
    unknown = float("nan")
    return VoiceTraits(pitch_hz, unknown, tract, unknown, unknown, unknown, 0.0)


def kind_of(kind: str) -> str:
    """man, woman or child, whatever an engine calls it; empty where it says none of them."""
    return _GROWN_UP.get(kind.lower(), "")


def likely_kind(traits: VoiceTraits) -> str:
    """The kind of voice that measured traits are nearest to; empty where they lie between two."""
    if traits.pitch_hz is None:
        return ""
    place = np.array((12 * np.log2(traits.pitch_hz / 100) / 6, 12 * np.log2(traits.tract) / 1.5))
    away = {}
    for kind in ("man", "woman", "child"):
        pitch_hz, tract = _USUAL[kind]
        usual = np.array((12 * np.log2(pitch_hz / 100) / 6, 12 * np.log2(tract) / 1.5))
        away[kind] = float(np.linalg.norm(place - usual))
    near, next_ = sorted(away, key=away.__getitem__)[:2]
    return near if away[near] < 0.7 * away[next_] else ""


def distances(rows: Floats, others: Floats) -> Floats:
    """How many steps apart voices are, shape ``(k, m)``; the root of the mean over what is known, and a fixed step for
    what is not."""
    apart = rows[:, None, :] - others[None, :, :]
    squares = np.where(np.isfinite(apart), apart**2, UNKNOWN_STEPS**2 * 0.25)
    # pitch that is known on one side alone is a doubt that counts
    squares[:, :, 0] = np.where(np.isfinite(apart[:, :, 0]), squares[:, :, 0], UNKNOWN_STEPS**2)
    return np.asarray(np.sqrt((squares * _WEIGHTS).sum(axis=2) / _WEIGHTS.sum()))


def plane(rows: Floats) -> Floats:
    """Where voices lie on the plane through their features (of people and voices in one) that keeps most of what is
    between them: the two main components, turned so that it is higher to the right, and upwards what sounds smaller
    (shorter tracts) or livelier. Shape ``(k, 2)``, from -1 to 1."""
    if not len(rows):
        return np.empty((0, 2))
    middle = np.array([np.median(c[np.isfinite(c)]) if np.isfinite(c).any() else 0.0 for c in rows.T])
    centred = (np.where(np.isfinite(rows), rows, middle) - middle) * np.sqrt(_WEIGHTS)
    _, _, axes = np.linalg.svd(centred, full_matrices=False)
    flat = np.zeros((2, rows.shape[1]))
    flat[: min(2, len(axes))] = axes[:2]
    along = flat[:, 0]  # how pitch lies in the plane
    length = float(np.linalg.norm(along))
    if length > 1e-6:
        c, s = along / length
        flat = np.array(((c, s), (-s, c))) @ flat
    if flat[1] @ _UPWARDS < 0:
        flat[1] = -flat[1]
    places = centred @ flat.T
    return np.asarray(places / max(1e-9, float(np.abs(places).max())))
