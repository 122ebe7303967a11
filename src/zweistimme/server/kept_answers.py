"""Answers given before, for questions that come again under their key: on disk, the latest, up to a size."""

from __future__ import annotations

import threading
from collections import OrderedDict
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Final

_MOST_BYTES: Final = 2 << 30
_MOST: Final = 100_000


class KeptAnswers:
    """Bytes by their key. They are gone with the server."""

    def __init__(self, most_bytes: int = _MOST_BYTES) -> None:
        self._most_bytes, self._bytes = most_bytes, 0
        self._place = TemporaryDirectory(prefix="zweistimme-answers-")
        self._sizes: OrderedDict[str, int] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: str) -> bytes | None:
        """The answer under a key, if it is still kept."""
        with self._lock:
            if key not in self._sizes:
                return None
            return self._file(key).read_bytes()

    def put(self, key: str, answer: bytes) -> None:
        """Keep an answer; the oldest go where there are too many."""
        with self._lock:
            self._file(key).write_bytes(answer)
            self._bytes += len(answer) - self._sizes.pop(key, 0)
            self._sizes[key] = len(answer)
            while len(self._sizes) > 1 and (self._bytes > self._most_bytes or len(self._sizes) > _MOST):
                old, size = self._sizes.popitem(last=False)
                self._bytes -= size
                self._file(old).unlink()

    def _file(self, key: str) -> Path:
        return Path(self._place.name) / sha256(key.encode()).hexdigest()
