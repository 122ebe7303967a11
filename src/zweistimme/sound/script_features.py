"""How sound and the voice that speaks a script are made comparable: features of both, the room between them, and how
the people heard differ from the voice.

Frames are log mel spectra every 20 ms. Their distance is taken over 13 cosine coefficients without liftering (which
would lift what a synthesizer and a person differ in) and their slopes, for several lengths of the vocal tract, the
nearest counting. A voice is seen through the room: log(exp(T + H) + N), T the voice, H the channel, N what is under it
(additive noise and channel in the log-spectral domain, after Moreno, 1996). What sounds differ in from person to person
is learned for each kind of sound from sentences that are found already: a mean shift with a prior of none (MAP, after
Gauvain and Lee, 1994), and how far each feature can be trusted.
"""

from __future__ import annotations

import warnings
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints, Mono
from zweistimme.sound.features import BANDS, STATE_SECONDS, STEP, mel_bank, power_spectra

Singles = npt.NDArray[np.float32]
WARPS: Final = (0.92, 1.0, 1.1, 1.2)
"""How the voice that speaks the sentences is stretched along frequency."""
PLAIN: Final = 1
"""The warp that leaves it as it is."""
_COEFFICIENTS: Final = 13
_LEVEL_WEIGHT: Final = 0.5
_SLOPES: Final = 4.0
"""Slopes a frame weigh this much more than what they are slopes of."""
_PHONES: Final = 45
_RANGE, _TILT = 10.0, 7.0
"""In nepers of power."""
_OVER_ROOM: Final = 0.3
_OPEN: Final = 1.5
AUDIBLE: Final = 0.15
"""From this level on, 0 being the room and 1 loud speech, there is speech."""
_LOUD: Final = (85, 90, 95)
"""Percentiles at which speech and voice are compared for a first guess of the channel."""
_SPEECH_SHARE: Final = 0.25
_HEARD_OVER: Final = 0.5
_PRIOR_FRAMES: Final = 20
_CHANNEL_PRIOR: Final = 50
_LEAST_FRAMES, _LEAST_MATCHES = 300, 4
"""Fewer teach nothing but themselves."""
_TRUST_FLOOR: Final = 0.3


@dataclass(frozen=True, slots=True)
class Template:
    """A sentence as it was spoken: log mel spectra for each warp, shape ``(warps, k, 32)``, and the states of each
    word, from one to before another; between words the voice may pause."""

    spectra: npt.NDArray[np.float16]
    words: tuple[tuple[int, int], ...]

    @property
    def states(self) -> int:
        """How many states of 20 ms it has."""
        return self.spectra.shape[1]


@dataclass(frozen=True, slots=True)
class Room:
    """What lies between a voice and the sound: *channel* is added to its log spectrum, *noise* is what is under it;
    shapes ``(32,)``. *open* are the bands in which speech is heard over the noise; *quiet* and *loud*, in nepers, are
    how far the room and loud speech are over it there."""

    channel: Floats
    noise: Floats
    open: npt.NDArray[np.bool_]
    quiet: float
    loud: float

    def level(self, spectra: Floats) -> Floats:
        """How loud frames are, from 0, the room, to 1, loud speech; shape ``(n,)``."""
        over = np.maximum(spectra - self.noise, 0)[:, self.open].mean(axis=1)
        return np.clip((over - self.quiet) / (self.loud - self.quiet), 0, 1)


@dataclass(frozen=True, slots=True)
class Ear:
    """How a voice is heard here: through a *room*; *kinds* of sound it makes, shape ``(45, 26)``; by how much people
    differ from it in each, *shifts*, of the same shape; and what each feature weighs, *weights*, shape ``(26,)``."""

    room: Room
    kinds: Singles
    shifts: Singles
    weights: Singles

    def rows(self, spectra: Floats) -> Singles:
        """Sound as features, shape ``(n, 26)``, whose differences have the distance as their length."""
        return np.asarray(_features(np.maximum(spectra, self.room.noise)) * self.weights, dtype=np.float32)

    def states(self, spectra: npt.NDArray[np.floating]) -> Singles:
        """A template's spectra as they would sound here: features, shape ``(warps, k, 26)``."""
        seen = _through(spectra, self.room)
        return np.asarray((seen + self.shifts[self.kinds_of(seen[PLAIN])]) * self.weights, dtype=np.float32)

    def levels(self, template: Template) -> Floats:
        """How loud the states of a sentence would be here, from 0, the room, to 1, loud speech; shape ``(k,)``."""
        return self.room.level(_heard_through(template.spectra[PLAIN], self.room))

    def kinds_of(self, seen: Singles) -> Ints:
        """Which kind of sound each state is, shape ``(k,)``."""
        return np.asarray(squares(seen, self.kinds).argmin(axis=1))

    def nearest(self, rows: Singles) -> Singles:
        """How far frames are from any sound people make here, shape ``(n,)``."""
        known = np.asarray((self.kinds + self.shifts) * self.weights, dtype=np.float32)
        return np.asarray(np.sqrt(np.maximum(squares(rows, known), 0)).min(axis=1))


@dataclass(frozen=True, slots=True)
class Match:
    """A sentence that was found: the spectra of its sound, shape ``(n, 32)``, its template, and the state each frame is
    in, shape ``(n,)``."""

    spectra: Floats
    template: Template
    states: Ints


def log_mel(power: Floats, warp: float = 1.0) -> Floats:
    """Log mel spectra of power spectra, shape ``(k, 32)``."""
    return np.log(power @ mel_bank(warp).T + 1e-7)


def spectra_at_16k(samples: Mono) -> Floats:
    """Log mel spectra of sound at 16 kHz, every 20 ms; shape ``(k, 32)``."""
    return log_mel(_power(samples))


def template_of(samples: Mono, words_s: Sequence[tuple[float, float]]) -> Template:
    """The template of a sentence spoken at 16 kHz, without silence around it, with its words' starts and ends."""
    power = _power(samples)
    spectra = np.stack([log_mel(power, 1 / warp) for warp in WARPS]).astype(np.float16)
    return Template(spectra, tuple((round(a / STATE_SECONDS), round(b / STATE_SECONDS)) for a, b in words_s))


def _power(samples: Mono) -> Floats:
    power = power_spectra(samples if len(samples) >= 640 else np.pad(samples, (0, 640 - len(samples))))
    whole = len(power) // STEP * STEP
    return power[:whole].reshape(-1, STEP, power.shape[1]).mean(axis=1)


@lru_cache(maxsize=1)
def _cosines() -> Floats:
    bands, orders = np.arange(BANDS) + 0.5, np.arange(_COEFFICIENTS)[:, None]
    table = np.cos(np.pi * orders * bands / BANDS) * np.sqrt(2 / BANDS)
    table[0] *= np.sqrt(0.5) * _LEVEL_WEIGHT
    return np.asarray(0.5 * table / np.sqrt(_COEFFICIENTS))  # half: of amplitudes, not of powers


def _features(spectra: Floats) -> Floats:
    """Cosine coefficients and their slopes over 100 ms, shape ``(..., n, 26)``."""
    rows = spectra @ _cosines().T
    padded = np.pad(rows, [(0, 0)] * (rows.ndim - 2) + [(2, 2), (0, 0)], mode="edge")
    far, near = padded[..., 4:, :] - padded[..., :-4, :], padded[..., 3:-1, :] - padded[..., 1:-3, :]
    return np.concatenate((rows, _SLOPES * (2 * far + near) / 10), axis=-1)


def _through(spectra: npt.NDArray[np.floating], room: Room) -> Singles:
    return np.asarray(_features(_heard_through(spectra, room)), dtype=np.float32)


def _heard_through(spectra: npt.NDArray[np.floating], room: Room) -> Floats:
    return np.asarray(np.logaddexp(spectra.astype(np.float64) + room.channel, room.noise))


def squares(rows: Singles, states: Singles) -> Singles:
    """Squared distances of all rows and states, shape ``(n, k)``; not quite never negative."""
    return (rows**2).sum(1)[:, None] + (states**2).sum(1)[None] - 2 * rows @ states.T


def costs(rows: Singles, states: Singles) -> Singles:
    """Distances of frames and states, the nearest warp counting; *states* has shape ``(warps, k, 26)``."""
    best = squares(rows, states[0])
    for warped in states[1:]:
        np.minimum(best, squares(rows, warped), out=best)
    return np.sqrt(np.maximum(best, 0, out=best), out=best)


def first_ear(spectra: Floats, templates: Sequence[Template]) -> Ear:
    """A first guess from *spectra* of speech and what is around it: the soft tenth is the room, and loud speech is as
    bright as the voice is where it is loud."""
    # what is more than 43 dB under loud speech says nothing, least of all where silence is digital
    least = np.percentile(spectra, 95, axis=0) - _RANGE
    noise = np.maximum(np.percentile(spectra, 10, axis=0) + _OVER_ROOM, np.maximum(least, least.max() - _TILT))
    open_ = np.percentile(spectra, _LOUD[-1], axis=0) > noise + _OPEN
    if not open_.any():
        open_[:] = True
    over = np.maximum(spectra - noise, 0)[:, open_].mean(axis=1)
    quiet, most = np.percentile(over, (10, _LOUD[-1]))
    room = Room(np.zeros(BANDS), noise, open_, float(quiet), max(float(most), float(quiet) + 0.5))
    loud = spectra[room.level(spectra) >= _SPEECH_SHARE]
    own = np.concatenate([one.spectra[PLAIN] for one in templates[:: max(1, len(templates) // 200)]]).astype(np.float64)
    channel = (np.percentile(loud, _LOUD, axis=0) - np.percentile(own, _LOUD, axis=0)).mean(axis=0)
    return _on_scale(_plain(replace(room, channel=channel), templates), loud)


def _plain(room: Room, templates: Sequence[Template]) -> Ear:
    """An ear that hears people as it hears the voice."""
    kinds = _kinds(templates, room)
    return Ear(room, kinds, np.zeros_like(kinds), np.ones(kinds.shape[1], dtype=np.float32))


def _on_scale(ear: Ear, speech: Floats) -> Ear:
    """Weights by which speech is at 1 from the nearest kind of sound, in the middle: in noise everything is nearer."""
    usual = float(np.median(ear.nearest(ear.rows(speech))))
    return replace(ear, weights=ear.weights / np.float32(max(usual, 1e-3)))


def _kinds(templates: Sequence[Template], room: Room) -> Singles:
    """The kinds of sound that a voice makes, as they are heard through a room."""
    from scipy.cluster.vq import kmeans2

    some = templates[:: max(1, len(templates) // 150)]
    rows = np.concatenate([_through(one.spectra[PLAIN], room) for one in some]).astype(np.float64)
    count = min(_PHONES, max(2, len(rows) // 4))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", UserWarning)  # a centre that nothing is near is no harm
        centres, _ = kmeans2(rows, count, minit="++", seed=7, iter=8)
    return np.asarray(centres, dtype=np.float32)


def learned_ear(ear: Ear, matches: Sequence[Match], templates: Sequence[Template]) -> Ear:
    """The ear that found sentences speak of; the one there was where they are too few."""
    if len(matches) < _LEAST_MATCHES or sum(len(one.states) for one in matches) < _LEAST_FRAMES:
        return ear
    room = replace(ear.room, channel=_channel(matches, ear.room))
    plain = _plain(room, templates)
    off, labels = [], []
    for one in matches:
        seen = _through(one.template.spectra, room)
        apart = plain.rows(one.spectra)[None] - seen[:, one.states]
        nearest = (apart**2).sum(axis=2).argmin(axis=0)
        off.append(apart[nearest, np.arange(apart.shape[1])])
        labels.append(plain.kinds_of(seen[PLAIN])[one.states])
    differences, kind = np.concatenate(off), np.concatenate(labels)
    usual = np.median(differences, axis=0)
    shifts = np.stack([_shift(differences[kind == k], usual) for k in range(len(plain.kinds))]).astype(np.float32)
    spread = (differences - shifts[kind]).std(axis=0)
    weights = 1 / (spread + _TRUST_FLOOR * spread.mean())
    learned = replace(plain, shifts=shifts, weights=weights.astype(np.float32))
    return _on_scale(learned, np.concatenate([one.spectra for one in matches]))


def _shift(differences: Singles, usual: Singles) -> Floats:
    return np.asarray((differences.sum(axis=0) + _PRIOR_FRAMES * usual) / (len(differences) + _PRIOR_FRAMES))


def _channel(matches: Sequence[Match], room: Room) -> Floats:
    """What the sound has more than the templates, where both are over the noise."""
    heard = np.concatenate([one.spectra for one in matches])
    spoken = np.concatenate([one.template.spectra[PLAIN][one.states] for one in matches]).astype(np.float64)
    channel = room.channel.copy()
    for _ in range(4):  # what is over the noise depends on the channel
        expected = spoken + channel
        over = (expected > room.noise + _HEARD_OVER) & (heard > room.noise + _OVER_ROOM)
        count = over.sum(axis=0)
        apart = np.where(over, heard - np.logaddexp(expected, room.noise), np.nan)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", RuntimeWarning)  # a band that is all noise
            step = np.nan_to_num(np.nanmedian(apart, axis=0))
        channel += step * count / (count + _CHANNEL_PRIOR)
    return channel
