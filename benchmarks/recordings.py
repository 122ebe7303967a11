"""Recordings of people, small but real. They come with packages and are not shipped: eight of a woman with Debian's
``alsa-utils``, a read sentence of a man with the source distribution of ``pysptk``, and some hundred announcements each
of women in English and Spanish with Debian's ``asterisk-core-sounds-en`` and ``-es``, which have their texts with them.
``labelled`` and ``announcements`` fetch them by package name and unpack them into a folder of their own."""

from __future__ import annotations

import contextlib
import gzip
import re
import shutil
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import soundfile
import soxr

from zweistimme.sound.activity import clip_speech

RATE = 16_000
_KEPT = Path(tempfile.gettempdir()) / "zweistimme-recordings"
_PATIENCE_S = 60.0
ALL_LABELLED = 9
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
_SENTENCE = "And you always want to see it in the superlative degree."
_NOT_AS_WRITTEN = re.compile(r"[\d\[\](){}*#@]|\b\w \w \w\b|asteris[kc]|contrasenas|comadreja", re.IGNORECASE)
"""Announcements whose text is not what is said: with signs and numbers, spelled out, in another wording."""


@dataclass(frozen=True, slots=True)
class Recording:
    """Somebody says something: the text, the sound at 16 kHz, and the edges of its words in seconds; where no words are
    labelled, of the whole."""

    text: str
    sound: np.ndarray
    words: tuple[tuple[float, float], ...]

    @property
    def span(self) -> tuple[float, float]:
        return self.words[0][0], self.words[-1][1]


def labelled() -> list[Recording]:
    """Those with words labelled by hand; those that cannot be had are left out."""
    found = []
    there = _unpacked("alsa-utils") / "usr/share/sounds/alsa"
    for name, text, words in _LABELS:
        if (there / f"{name}.wav").is_file():
            found.append(Recording(text, _read(there / f"{name}.wav"), words))
    sentence = _sentence()
    if sentence is not None:
        found.append(Recording(_SENTENCE, _read(sentence), ((0.40, 3.50),)))
    return found


def announcements(language: str) -> list[Recording]:
    """Announcements of two words and more, from where they are first heard to where they are last; none where they
    cannot be had."""
    package = f"asterisk-core-sounds-{language}"
    texts = _unpacked(package) / f"usr/share/doc/{package}/core-sounds-{language}.txt.gz"
    folders = list(_unpacked(f"{package}-g722").glob(f"usr/share/asterisk/sounds/{language}_*"))
    if not texts.is_file() or not folders:
        return []
    found: dict[str, Recording] = {}
    for name, text in _named_texts(gzip.decompress(texts.read_bytes())):
        words = text.split()
        file = folders[0] / f"{name}.g722"
        if _NOT_AS_WRITTEN.search(text) or not 2 <= len(words) <= 25 or text in found or not file.is_file():
            continue
        sound = _g722(file)
        speech = clip_speech(sound, RATE)
        seconds = (speech.end - speech.start) / RATE
        if 0.03 * len(text) < seconds < 1.2 * len(words):  # else the text belongs to something else
            found[text] = Recording(text, sound, ((speech.start / RATE, speech.end / RATE),))
    return list(found.values())


def _named_texts(written: bytes) -> Iterator[tuple[str, str]]:
    try:
        text = written.decode()
    except UnicodeDecodeError:
        text = written.decode("latin-1")
    for line in text.splitlines():
        match = re.match(r"^([\w/-]+):\s*(.+)$", line)
        if match:
            yield match[1], match[2].strip().strip('“”"')


def _unpacked(package: str) -> Path:
    """The files of a Debian package, fetched where they are not there yet; nothing is installed."""
    folder = _KEPT / package
    if not folder.is_dir() and shutil.which("apt-get"):
        _KEPT.mkdir(exist_ok=True)
        with tempfile.TemporaryDirectory(dir=_KEPT) as place:
            _asked(["apt-get", "download", "-qq", package], Path(place))
            for archive in Path(place).glob("*.deb"):
                subprocess.run(["dpkg", "-x", archive.name, "files"], cwd=place, check=True)
                with contextlib.suppress(OSError):  # somebody else was quicker: whole or not at all
                    (Path(place) / "files").rename(folder)
    return folder


def _asked(command: list[str], place: Path) -> None:
    """Run a package client; where it has nothing, or does not answer, there is nothing."""
    with contextlib.suppress(subprocess.TimeoutExpired):
        subprocess.run(command, cwd=place, check=False, capture_output=True, timeout=_PATIENCE_S)


def _sentence() -> Path | None:
    target = _KEPT / "arctic_a0007.wav"
    if not target.is_file():
        _KEPT.mkdir(exist_ok=True)
        with tempfile.TemporaryDirectory(dir=_KEPT) as place:
            command = [sys.executable, "-m", "pip", "download", "--no-deps", "--no-binary", "pysptk", "pysptk==1.0.1"]
            _asked([*command, "-q"], Path(place))
            for archive in Path(place).glob("pysptk-*.tar.gz"):
                _take_out(archive, target.name, Path(place) / "taken").rename(target)
    return target if target.is_file() else None


def _take_out(archive: Path, name: str, target: Path) -> Path:
    with tarfile.open(archive) as packed:
        for member in packed.getmembers():
            file = packed.extractfile(member) if member.name.endswith(name) else None
            if file is not None:
                target.write_bytes(file.read())
    return target


def _read(path: Path) -> np.ndarray:
    sound, rate = soundfile.read(path, dtype="float32")
    return np.asarray(soxr.resample(sound, rate, RATE, "HQ"), dtype=np.float32)


def _g722(path: Path) -> np.ndarray:
    with av.open(str(path), format="g722") as container:
        blocks = [frame.to_ndarray().ravel() for frame in container.decode(container.streams.audio[0])]
    return np.concatenate(blocks).astype(np.float32) / 32_768
