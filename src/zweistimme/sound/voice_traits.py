"""What a voice is like, measured in its own speech: how high and how lively, how long its vocal tract, how bright, how
breathy, how quick. By these it is compared with others, and nothing is said of who somebody is.

The tract is had from the spacing of the formants (Fitch, JASA 102, 1997; Reby and McComb, Anim. Behav. 65, 2003), these
from linear prediction (Markel and Gray, 1976); breath from the likeness of neighbouring periods (Boersma, IFA Proc. 17,
1993); pace from the peaks of the level over voiced sound (de Jong and Wempe, Behav. Res. Methods 41, 2009).
"""

from __future__ import annotations

from typing import Final

import numpy as np

from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.arrays import Floats, Mono, framed
from zweistimme.sound.features import HOP, power_spectra
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.fourier import irfft, rfft
from zweistimme.sound.pitch import pitch_track

LEAST_FRAMES: Final = 50
"""Half a second of voiced sound: with less nothing is said."""
_USUAL_SPACING_HZ: Final = 1_030.0
"""Between the formants of a tract of 17 cm, that of many men: 35,000 cm/s over twice its length."""
_FORMANT_RATE: Final = 11_000
_ORDER: Final = 12
_FRAME_S: Final = 0.03
_WIDEST_HZ: Final = 450.0
_LOWEST_HZ, _HIGHEST_HZ = 180.0, 5_200.0
_MOST_FRAMES: Final = 1_500
_OCTAVE_ST: Final = 9.0
"""A pitch further off than this was taken for twice or half of what it is."""
_DIP_DB: Final = 2.0
_PEAK_APART_S: Final = 0.09


def voice_traits(low: Mono) -> VoiceTraits | None:
    """What the voice in sound at 16 kHz is like; None where there is too little speech to say."""
    pitches = pitch_track(low, LOW_RATE)
    voiced = np.isfinite(pitches)
    seconds = float(voiced.sum()) * HOP / LOW_RATE
    pitch_hz, spread_st = None, 0.0
    if voiced.sum() >= LEAST_FRAMES:
        pitch_hz, spread_st = pitch_and_spread(pitches)
    power = power_spectra(low)
    energy = power.sum(axis=1)
    loud = energy > max(float(np.percentile(energy, 60)) if len(energy) else 0.0, 1e-9)
    if loud.sum() < LEAST_FRAMES:
        return None
    if pitch_hz is None:
        seconds = float(loud.sum()) * HOP / LOW_RATE
    return VoiceTraits(
        None if pitch_hz is None else round(pitch_hz, 1),
        round(spread_st, 2),
        round(_tract(low, loud if pitch_hz is None else voiced), 3),
        round(_brightness_db(power[loud]), 2),
        round(harmonic_db(low, pitches), 2) if pitch_hz is not None else 0.0,
        round(_pace(energy, voiced if pitch_hz is not None else loud), 2),
        round(seconds, 2),
    )


def pitch_and_spread(pitches: Floats) -> tuple[float, float]:
    """The median pitch in Hz and its spread in semitones (half of what lies between the 16th and 84th percentile)."""
    there = pitches[np.isfinite(pitches)]
    middle = float(np.median(there))
    away = 12 * np.log2(there / middle)
    below, above = np.percentile(away[np.abs(away) < _OCTAVE_ST], (16, 84))
    return middle, max(0.1, float(above - below) / 2)


def harmonic_db(low: Mono, pitches: Floats) -> float:
    """Periodic over other sound, in dB, the median over voiced frames of sound at 16 kHz with their pitches."""
    likeness = periodicity(low, pitches)
    return float(10 * np.log10(likeness / (1 - likeness)))


def periodicity(low: Mono, pitches: Floats) -> float:
    """How alike one period is to the next, the median over voiced frames (normalised autocorrelation, 0..1)."""
    frames = framed(low, 640, HOP)
    count = min(len(frames), len(pitches))
    places = np.flatnonzero(np.isfinite(pitches[:count]))[:_MOST_FRAMES]
    likeness = []
    for frame, pitch in zip(frames[places], pitches[places], strict=True):
        lag = round(LOW_RATE / pitch)
        a, b = frame[:-lag], frame[lag:]
        power = float(np.sqrt((a @ a) * (b @ b)))
        likeness.append(float(a @ b) / power if power else 0.0)
    return min(max(float(np.median(likeness)), 1e-3), 1 - 1e-4) if likeness else 1 - 1e-4


def _brightness_db(power: Floats) -> float:
    """Power above 1 kHz over that below, of spectra whose heights are emphasised."""
    hertz = np.fft.rfftfreq(2 * (power.shape[1] - 1), 1 / LOW_RATE)
    mean = power.mean(axis=0)
    high, low = mean[(hertz >= 1_000) & (hertz < 6_000)].sum(), mean[(hertz >= 80) & (hertz < 1_000)].sum()
    return float(10 * np.log10((high + 1e-12) / (low + 1e-12)))


def _tract(low: Mono, speaking: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> float:
    """The spacing of formants over that of a usual tract."""
    import soxr

    sound = np.asarray(soxr.resample(low, LOW_RATE, _FORMANT_RATE, "HQ"), dtype=np.float32)
    hop = round(_FORMANT_RATE * HOP / LOW_RATE)
    frames = framed(np.append(sound[:1], sound[1:] - 0.97 * sound[:-1]), round(_FORMANT_RATE * _FRAME_S), hop)
    count = min(len(frames), len(speaking))
    places = np.flatnonzero(speaking[:count])
    places = places[:: max(1, len(places) // _MOST_FRAMES)]
    formants = _formants_hz(frames[places])
    good = np.isfinite(formants[:, :4]).all(axis=1)
    if good.sum() < 10:
        return 1.0
    middle = np.median(formants[good, :4], axis=0)
    places_of = np.arange(4) + 0.5
    weight = np.array((0.5, 1.0, 1.5, 1.5))  # the lower ones depend on the vowel most
    spacing = float((weight * places_of * middle).sum() / (weight * places_of**2).sum())
    return float(np.clip(spacing / _USUAL_SPACING_HZ, 0.6, 1.8))


def _formants_hz(frames: np.ndarray[tuple[int, int], np.dtype[np.float32]]) -> Floats:
    """The first five resonances of each frame in Hz, NaN where there are fewer; shape ``(k, 5)``."""
    windowed = frames * np.hamming(frames.shape[1]).astype(np.float32)
    spectrum = rfft(windowed, 1024)
    correlation = irfft(np.abs(spectrum) ** 2, 1024)[:, : _ORDER + 1].astype(np.float64)
    correlation[:, 0] = 1.0001 * correlation[:, 0] + 1e-15  # so that none is singular
    lags = np.abs(np.arange(_ORDER)[:, None] - np.arange(_ORDER)[None, :])
    weights = np.linalg.solve(correlation[:, lags], correlation[:, 1:, None])[:, :, 0]
    companion = np.zeros((len(frames), _ORDER, _ORDER))
    companion[:, 0, :] = weights
    companion[:, np.arange(1, _ORDER), np.arange(_ORDER - 1)] = 1.0
    roots = np.linalg.eigvals(companion)
    hertz = np.angle(roots) * _FORMANT_RATE / (2 * np.pi)
    width = -np.log(np.maximum(np.abs(roots), 1e-9)) * _FORMANT_RATE / np.pi
    sharp = (hertz > _LOWEST_HZ) & (hertz < _HIGHEST_HZ) & (width < _WIDEST_HZ)
    return np.sort(np.where(sharp, hertz, np.nan), axis=1)[:, :5]


def _pace(energy: Floats, speaking: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> float:
    """Peaks of the level over voiced sound in a second of sound that is not silence."""
    from scipy.ndimage import uniform_filter1d
    from scipy.signal import find_peaks

    count = min(len(energy), len(speaking))
    level = uniform_filter1d(10 * np.log10(energy[:count] + 1e-12), 5)
    there = level > np.percentile(level, 95) - 25
    peaks, _ = find_peaks(level, prominence=_DIP_DB, distance=round(_PEAK_APART_S * LOW_RATE / HOP))
    heard = peaks[there[peaks] & speaking[:count][peaks]]
    seconds = there.sum() * HOP / LOW_RATE
    return float(len(heard) / seconds) if seconds else 0.0
