"""Recordings of people, small but real, and mixtures of them. They come with packages and are not shipped: eight of a
woman with Debian's ``alsa-utils``, a read sentence with the source distribution of ``pysptk``. ``fetch`` gets them."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr

RATE = 16_000
_ALSA = Path("/usr/share/sounds/alsa")
_KEPT = Path(tempfile.gettempdir()) / "zweistimme-recordings"
# word edges in seconds, by hand from spectrogram and level: (name, text, edges of each word)
_LABELS = (
    ("Front_Center", "Front center.", ((0.02, 0.47), (0.80, 1.36))),
    ("Front_Left", "Front left.", ((0.02, 0.48), (0.74, 1.38))),
    ("Front_Right", "Front right.", ((0.04, 0.62), (0.87, 1.46))),
    ("Rear_Center", "Rear center.", ((0.02, 0.50), (0.66, 1.20))),
    ("Rear_Left", "Rear left.", ((0.02, 0.48), (0.82, 1.30))),
    ("Rear_Right", "Rear right.", ((0.04, 0.58), (0.92, 1.44))),
    ("Side_Left", "Side left.", ((0.03, 0.60), (0.81, 1.34))),
    ("Side_Right", "Side right.", ((0.01, 0.64), (0.82, 1.26))),
)
ARCTIC = "And you always want to see it in the superlative degree."


@dataclass(frozen=True, slots=True)
class Recording:
    """Somebody says something: the text, the sound at 16 kHz, and the edges of its words in seconds (for the sentence,
    of the whole)."""

    text: str
    sound: np.ndarray
    words: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Mixture:
    """Recordings one behind the other under a condition; *spans* are the words of each in seconds."""

    sound: np.ndarray
    texts: tuple[str, ...]
    spans: tuple[tuple[tuple[float, float], ...], ...]


def fetch() -> list[Recording]:
    """The recordings, fetched by package name where they are not there; those that cannot be had are left out."""
    if not (_ALSA / "Front_Center.wav").is_file() and shutil.which("apt-get"):
        subprocess.run(["apt-get", "install", "-y", "-qq", "alsa-utils"], check=False, capture_output=True)
    found = []
    for name, text, words in _LABELS:
        if (_ALSA / f"{name}.wav").is_file():
            found.append(Recording(text, _read(_ALSA / f"{name}.wav"), words))
    sentence = _arctic()
    if sentence is not None:
        sound = _read(sentence)
        found.append(Recording(ARCTIC, sound, ((0.10, len(sound) / RATE - 0.15),)))
    return found


def _arctic() -> Path | None:
    target = _KEPT / "arctic_a0007.wav"
    if not target.is_file():
        _KEPT.mkdir(exist_ok=True)
        command = [sys.executable, "-m", "pip", "download", "--no-deps", "--no-binary", "pysptk", "pysptk==1.0.1"]
        subprocess.run([*command, "-q", "-d", str(_KEPT)], check=False, capture_output=True)
        for archive in _KEPT.glob("pysptk-*.tar.gz"):
            with tarfile.open(archive) as packed:
                for member in packed.getmembers():
                    file = packed.extractfile(member) if member.name.endswith("arctic_a0007.wav") else None
                    if file is not None:
                        target.write_bytes(file.read())
    return target if target.is_file() else None


def _read(path: Path) -> np.ndarray:
    sound, rate = soundfile.read(path, dtype="float32")
    return np.asarray(soxr.resample(sound, rate, RATE, "HQ"), dtype=np.float32)


CONDITIONS = ("clean", "20 dB", "10 dB", "telephone", "room", "slower", "faster", "soft")


def mixture(recordings: Sequence[Recording], order: Sequence[int], condition: str, seed: int = 0) -> Mixture:
    """Recordings in an order, 0.6 s apart, as a condition makes them sound."""
    random = np.random.default_rng(seed)
    parts, spans, at = [np.zeros(RATE // 2)], [], 0.5
    pace = {"slower": 0.88, "faster": 1.15}.get(condition, 1.0)
    for number in order:
        one = recordings[number]
        sound = soxr.resample(one.sound, RATE * pace, RATE, "HQ") if pace != 1 else one.sound
        level = 10 ** (random.uniform(-4, 4) / 20)
        spans.append(tuple((at + a / pace, at + b / pace) for a, b in one.words))
        parts += [sound * level, np.zeros(round(0.6 * RATE))]
        at += len(sound) / RATE + 0.6
    sound = np.concatenate(parts)
    speech_rms = float(np.sqrt((sound[np.abs(sound) > 0.02] ** 2).mean()))
    noise_db = {"20 dB": 20.0, "10 dB": 10.0}.get(condition, 45.0)
    if condition == "room":
        taps = np.arange(round(0.4 * RATE)) / RATE
        impulse = random.standard_normal(len(taps)) * 10 ** (-3 * taps / 0.4) * 0.3
        impulse[0] = 1.0
        sound = np.convolve(sound, impulse)[: len(sound)]
    if condition == "telephone":
        spectrum = np.fft.rfft(sound)
        hertz = np.fft.rfftfreq(len(sound), 1 / RATE)
        spectrum[(hertz < 300) | (hertz > 3400)] = 0
        sound = np.fft.irfft(spectrum, len(sound))
    sound = sound + random.standard_normal(len(sound)) * speech_rms * 10 ** (-noise_db / 20)
    if condition == "soft":
        sound = sound * 10 ** (-44 / 20)
    return Mixture(sound.astype(np.float32), tuple(recordings[k].text for k in order), tuple(spans))
