"""Clips: content-addressed sound files. A clip is whole on disk before anything speaks of it."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt

from zweistimme.media.atomic import written_whole
from zweistimme.project.errors import StoreError
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import steps_24

_NAME = re.compile("[0-9a-f]{64}")
Samples = npt.NDArray[np.float32]


class ClipStore:
    """Mono clips at 48 kHz, 24 bit FLAC, named by the SHA-256 of their samples."""

    def __init__(self, folder: Path, check: Callable[[], None] = lambda: None) -> None:
        self._folder, self._check = folder, check

    def path(self, name: str) -> Path:
        """Where a clip lies; a name that is no checksum, as in a project that somebody sent, leads nowhere."""
        if not _NAME.fullmatch(name):
            raise StoreError(
                "“{name}” is no name of a clip. The project is damaged; restore it from a copy.", name=name[:40]
            )
        return self._folder / name[:2] / f"{name}.flac"

    def __contains__(self, name: str) -> bool:
        return self.path(name).is_file()

    def put(self, samples: Samples) -> str:
        """Keep a clip (shape ``(n,)``, within -1..1) and return its name. The same samples are kept once."""
        import soundfile

        if samples.ndim != 1 or not len(samples):
            raise StoreError("A clip must be one channel of sound that is not empty.")
        self._check()
        steps = steps_24(samples)
        name = _name_of(steps)
        if name not in self or not self._is_whole(name):
            write: Callable[[Path], None] = lambda path: soundfile.write(  # noqa: E731
                path, steps << 8, RATE, subtype="PCM_24", format="FLAC"
            )
            written_whole(self.path(name), write)
        return name

    def get(self, name: str) -> Samples:
        """The samples of a clip, shape ``(n,)``. What was read is compared with its name."""
        import soundfile

        try:
            samples, _ = soundfile.read(self.path(name), dtype="float32")
        except soundfile.LibsndfileError as error:
            raise self._damaged(name) from error
        if samples.ndim != 1 or _name_of(steps_24(samples)) != name:
            raise self._damaged(name)
        return np.asarray(samples, dtype=np.float32)

    def _is_whole(self, name: str) -> bool:
        try:
            self.get(name)
        except StoreError:
            return False
        return True

    def _damaged(self, name: str) -> StoreError:
        return StoreError(
            "The clip {self_} is missing or damaged. Make the take again, or restore the file.", self_=self.path(name)
        )


def _name_of(steps: npt.NDArray[np.int32]) -> str:
    return hashlib.sha256(steps.tobytes()).hexdigest()
