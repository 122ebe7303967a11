"""Formant synthesis by overlapped damped sinusoids: each glottal pulse rings the vocal tract once.

A cascade of resonators (Klatt, JASA 67, 1980) answers an impulse with a sum of damped sinusoids whose complex
amplitudes are the residues of its poles. Writing that sum out pulse by pulse gives the cascade's sound, lets the
formants move without clicks, and is one array expression for the whole utterance.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.fourier import good_size, irfft, rfft
from zweistimme.standin.prosody import Piece, Utterance, pitch_curve

RATE: Final = 24_000
FRAME_SECONDS: Final = 0.005
_RING: Final = 448
"""Samples a pulse rings: 18.7 ms, by when the widest-used first formant is 25 dB down and faded out."""
_BANDWIDTHS: Final = np.array([70.0, 95.0, 150.0, 260.0, 320.0])
_UPPER: Final = (3500.0, 4500.0)
_PEAK_DB: Final = -3.0
_DYING: Final = 1024


@dataclass(frozen=True, slots=True)
class Larynx:
    """How a voice sounds apart from its words. *scale* multiplies formants (a shorter tract: above 1).

    *breath_db* is the breath under voicing; *soft_hz* where the glottal spectrum starts to fall faster;
    *unsteady* the spread of pulse times, as a share of the period.
    """

    pitch_hz: float
    scale: float
    breath_db: float = -34.0
    soft_hz: float = 3200.0
    unsteady: float = 0.006
    range_: float = 1.0


@dataclass(frozen=True, slots=True)
class _Tracks:
    """Controls at frame times: formants and bandwidths ``(k, 5)``, amplitudes ``(k,)``, noise bands ``(k,)``."""

    times: Floats
    formants: Floats
    bandwidths: Floats
    voice: Floats
    noise: Floats
    breath: Floats
    noise_hz: Floats
    noise_width_hz: Floats


def synthesized(utterance: Utterance, larynx: Larynx, *, seed: int, whispered: bool = False) -> Mono:
    """The sound of an utterance at 24 kHz; its peak is -3 dBFS plus the gain of what is loudest in it."""
    random = np.random.default_rng(seed)
    tracks = _tracks(utterance, larynx)
    count = int(np.ceil(utterance.duration * RATE))
    if whispered:
        voiced = np.zeros(count)
        breath = np.maximum(tracks.breath, 0.30 * tracks.voice)
    else:
        pitch = pitch_curve(utterance, tracks.times, base_hz=larynx.pitch_hz, range_=larynx.range_)
        voiced = _voiced(tracks, pitch, larynx, count, random)
        breath = np.maximum(tracks.breath, tracks.voice * 10 ** (larynx.breath_db / 20))
    sound = voiced + _breath(tracks, breath, count, random) + _noise(tracks, larynx, count, random)
    peak = float(np.abs(sound).max()) or 1.0
    loudest = max((p.gain_db for p in utterance.pieces if p.voice_db is not None), default=0.0)
    return (sound * (10 ** ((_PEAK_DB + min(loudest, -_PEAK_DB - 0.3)) / 20) / peak)).astype(np.float32)


def _level(pieces: Sequence[Piece], values: list[float | None]) -> Floats:
    levels = [None if v is None else v + p.gain_db for p, v in zip(pieces, values, strict=True)]
    return np.array([0.0 if level is None else 10 ** (level / 20) for level in levels])


def _tracks(utterance: Utterance, larynx: Larynx) -> _Tracks:
    pieces = utterance.pieces
    times = np.arange(0, utterance.duration + FRAME_SECONDS, FRAME_SECONDS)
    index = np.clip(np.searchsorted([p.end for p in pieces], times, side="right"), 0, len(pieces) - 1)
    targets = np.array([_targets(piece) for piece in pieces])
    widen = np.array([piece.sound.phone.widen for piece in pieces])
    formants = _smooth(targets[index], 11) * larynx.scale
    bandwidths = _BANDWIDTHS * _smooth(widen[index], 5)[:, None] * larynx.scale**0.5
    voice = _smooth(_level(pieces, [p.voice_db for p in pieces])[index], 5)
    noise = _smooth(_level(pieces, [p.noise_db for p in pieces])[index], 3)
    breath = _smooth(_level(pieces, [p.breath_db for p in pieces])[index], 3)
    noise_hz = np.array([p.sound.phone.noise_hz for p in pieces])[index] * larynx.scale**0.6
    width = np.array([p.sound.phone.noise_width_hz for p in pieces])[index]
    return _Tracks(times, formants, bandwidths, voice, noise, breath, noise_hz, width)


def _targets(piece: Piece) -> tuple[float, ...]:
    return (*piece.sound.phone.formants, *_UPPER)


def _smooth(values: Floats, frames: int) -> Floats:
    """A moving Hann average along time; edges keep their value."""
    window = np.hanning(frames + 2)[1:-1]
    window /= window.sum()
    half = frames // 2
    columns = values.reshape(len(values), -1)
    padded = np.pad(columns, ((half, half), (0, 0)), mode="edge")
    smooth = np.stack([np.convolve(column, window, mode="valid") for column in padded.T], axis=1)
    return smooth.reshape(values.shape)


def _pulse_times(pitch: Floats, larynx: Larynx, random: np.random.Generator) -> Floats:
    """When the glottis closes, in seconds: where the integral of the pitch passes whole numbers."""
    cycles = np.concatenate(([0.0], np.cumsum(pitch * FRAME_SECONDS)))[:-1]
    whole = np.arange(1, int(cycles[-1]))
    times = np.interp(whole, cycles, np.arange(len(pitch)) * FRAME_SECONDS)
    return times + random.normal(0, larynx.unsteady, len(times)) / np.interp(whole, cycles, pitch)


def _voiced(tracks: _Tracks, pitch: Floats, larynx: Larynx, count: int, random: np.random.Generator) -> Floats:
    times = _pulse_times(pitch, larynx, random)
    loud = np.interp(times, tracks.times, tracks.voice)
    heard = loud > 1e-3
    times, loud = times[heard], loud[heard]
    sound = np.zeros(count + _RING + 1)
    if not len(times):
        return sound[:count]
    shimmer = 1 + random.normal(0, 4 * larynx.unsteady, len(times))
    rings = _rings(tracks, times) * (loud * shimmer)[:, None]
    for start, ring in zip(np.ceil(times * RATE).astype(int), rings, strict=True):
        if start < count:
            sound[start : start + _RING] += ring
    # the glottal wave falls by 12 dB an octave, radiation gives 6 back: one pole low, one for softness
    low, soft = (np.exp(-2 * np.pi * hz / RATE) for hz in (140.0, larynx.soft_hz))
    return _through_poles(sound, low, soft)[:count]


def _through_poles(sound: Floats, low: float, soft: float) -> Floats:
    """Both filters by their spectrum; the slowest has died away by 1e-16 in the silence that is added."""
    size = good_size(len(sound) + _DYING)
    back = np.exp(-2j * np.pi * np.fft.rfftfreq(size))
    response = (1 - low) / (1 - low * back) * (1 - soft) * (1 + 0.3 * back) / (1 - soft * back)
    return irfft(rfft(sound, size) * response, size)[: len(sound)]


def _rings(tracks: _Tracks, times: Floats) -> Floats:
    """Impulse responses of the tract at the given times, shape ``(pulses, ring)``."""
    formants = np.stack([np.interp(times, tracks.times, column) for column in tracks.formants.T], axis=1)
    widths = np.stack([np.interp(times, tracks.times, column) for column in tracks.bandwidths.T], axis=1)
    poles = np.exp((-np.pi * widths + 2j * np.pi * formants) / RATE)
    amplitudes = _residues(poles)
    late = (np.ceil(times * RATE) - times * RATE)[:, None]
    amplitudes = amplitudes * poles**late
    # z**n as an outer product of coarse and fine powers: few complex exponentials, many products
    fine = poles[..., None] ** np.arange(16)
    coarse = (poles**16)[..., None] ** np.arange(_RING // 16) * amplitudes[..., None]
    rings = np.einsum("pkc,pkf->pcf", coarse, fine).real.reshape(len(times), _RING)
    fade = np.ones(_RING)
    fade[-96:] = 0.5 + 0.5 * np.cos(np.pi * np.arange(96) / 96)
    return np.asarray(2 * rings * fade)


def _residues(poles: npt.NDArray[np.complex128]) -> npt.NDArray[np.complex128]:
    """Partial fractions of a cascade of conjugate pole pairs, each with gain 1 at zero frequency."""
    gain = np.prod(np.abs(1 - poles) ** 2, axis=1)
    everything = np.concatenate((poles, poles.conj()), axis=1)
    count = poles.shape[1]
    residues = np.empty_like(poles)
    for k in range(count):
        others = np.delete(everything, k, axis=1)
        residues[:, k] = gain / np.prod(1 - others / poles[:, k : k + 1], axis=1)
    return residues


def _shaped_noise(magnitudes: Floats, count: int, random: np.random.Generator) -> Floats:
    """White noise with the given spectrum in each frame, shape ``(k, bins)``, overlapped and added."""
    hop = round(FRAME_SECONDS * RATE)
    size = 2 * (magnitudes.shape[1] - 1)
    white = random.standard_normal(count + size + hop)
    result = np.zeros(count + size + hop)
    active = np.flatnonzero(magnitudes.max(axis=1) > 1e-5)
    starts = active * hop
    active, starts = active[starts < count], starts[starts < count]
    if len(active):
        pieces = white[starts[:, None] + np.arange(2 * hop)] * np.hanning(2 * hop + 1)[:-1]
        shaped = irfft(rfft(pieces, size) * magnitudes[active])
        for start, piece in zip(starts, shaped, strict=True):
            result[start : start + size] += piece
    return result[hop : hop + count]


def _breath(tracks: _Tracks, level: Floats, count: int, random: np.random.Generator) -> Floats:
    """Noise at the glottis, through the tract."""
    turn = 2 * np.pi * np.fft.rfftfreq(512, 1 / RATE) / RATE
    waves = np.stack([np.ones_like(turn), np.cos(turn), np.cos(2 * turn)])
    response = np.zeros((len(level), len(turn)))
    heard = np.flatnonzero(level > 1e-5)
    power = np.ones((len(heard), len(turn)))
    for k in range(1, tracks.formants.shape[1]):
        # |1 + b/z + c/z²|² of a pair of poles r e^{±ia}, b = -2 r cos a, c = r², is a sum of three waves
        radius = np.exp(-np.pi * 1.6 * tracks.bandwidths[heard, k] / RATE)
        b, c = -2 * radius * np.cos(2 * np.pi * tracks.formants[heard, k] / RATE), radius**2
        parts = np.stack([1 + b**2 + c**2, 2 * b * (1 + c), 2 * c], axis=1) / ((1 + b + c) ** 2)[:, None]
        power /= parts @ waves
    magnitude = np.sqrt(power)
    response[heard] = magnitude * level[heard, None]
    return 0.014 * _shaped_noise(response, count, random)


def _noise(tracks: _Tracks, larynx: Larynx, count: int, random: np.random.Generator) -> Floats:
    """Frication and bursts: noise in a band."""
    hertz = np.fft.rfftfreq(512, 1 / RATE)[None, :]
    heard = np.flatnonzero(tracks.noise > 1e-5)
    distance = (hertz - tracks.noise_hz[heard, None]) / tracks.noise_width_hz[heard, None]
    band = np.zeros((len(tracks.noise), hertz.shape[1]))
    band[heard] = (np.exp(-0.5 * distance**2) + 0.02) * tracks.noise[heard, None]
    return 0.055 * _shaped_noise(band, count, random)
