"""What engines have answered, by the fingerprint of the question, so that nothing is paid for twice."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

from zweistimme.media.atomic import written_bytes
from zweistimme.store.own_files import opened_own


class AnswerStore:
    """Small files named by the SHA-256 of what was asked. They survive undo, and emptying the cache."""

    def __init__(self, folder: Path, check: Callable[[], None] = lambda: None) -> None:
        self._folder, self._check = folder, check

    @staticmethod
    def key(*parts: bytes | str) -> str:
        """The name of a question: who was asked, and what."""
        digest = hashlib.sha256()
        for part in parts:
            data = part.encode() if isinstance(part, str) else part
            digest.update(len(data).to_bytes(8, "big") + data)
        return digest.hexdigest()

    def get(self, key: str) -> bytes | None:
        """The answer to a question, if it was answered before."""
        try:
            with os.fdopen(opened_own(self._path(key), os.O_RDONLY), "rb") as file:
                return file.read()
        except FileNotFoundError:
            return None

    def put(self, key: str, answer: bytes) -> None:
        """Keep an answer; it is whole on disk before anything relies on it."""
        self._check()
        written_bytes(self._path(key), answer)

    def _path(self, key: str) -> Path:
        return self._folder / key[:2] / f"{key}.json"
