"""What a server charges, on what terms, and what it has answered already."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Header
from fastapi.responses import Response
from starlette.exceptions import HTTPException

from zweistimme.engines.offers import FREE, Cost, Limits, Price, Usage
from zweistimme.engines.wire import written
from zweistimme.server.kept_answers import KeptAnswers


@dataclass(slots=True)
class Terms:
    """On what terms an engine is offered: limits and price instead of its own, and a quota of characters."""

    limits: Limits | None = None
    price: Price = FREE
    quota_characters: int | None = None
    charges_again: bool = False
    """Whether a question that comes again under its key is answered, and charged, once more."""


@dataclass(slots=True)
class Account:
    """What was used. A question that carries the key of one answered before is not charged again."""

    terms: Terms
    used: Cost = field(default_factory=Cost)
    _answers: KeptAnswers = field(default_factory=KeptAnswers)
    _under_way: dict[str, threading.Lock] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def charged(self, characters: int = 0, seconds: float = 0.0) -> Cost:
        """Charge for a call, or refuse it."""
        quota, cost = self.terms.quota_characters, self.terms.price.of(characters, seconds)
        with self._lock:
            if quota is not None and self.used.characters + characters > quota:
                raise HTTPException(402, "Nothing is left of the quota.")
            self.used += cost
        return cost

    def once(self, key: str | None, answer: Callable[[], object]) -> bytes:
        """The answer under this key: given before, or made now. Who asks again while it is being made waits for it."""
        if not key or self.terms.charges_again:
            return written(answer())
        with self._lock:
            turn = self._under_way.setdefault(key, threading.Lock())
        try:
            with turn:
                kept = self._answers.get(key)
                if kept is None:
                    kept = written(answer())
                    self._answers.put(key, kept)
                return kept
        finally:
            with self._lock:
                self._under_way.pop(key, None)

    def usage(self) -> Usage:
        quota = self.terms.quota_characters
        return Usage(self.used, None if quota is None else max(0, quota - self.used.characters))

    def within(self, characters: int, items: int = 1) -> None:
        """Refuse what is larger than the limits."""
        limits = self.terms.limits
        if limits and limits.characters is not None and characters > limits.characters:
            raise HTTPException(413, f"{characters:,} characters; at most {limits.characters:,} are taken.")
        if limits and items > limits.items:
            raise HTTPException(413, f"{items:,} texts; at most {limits.items:,} are taken.")


Key = Annotated[str | None, Header(alias="Idempotency-Key", max_length=200)]


def once(account: Account, key: str | None, answer: Callable[[], object]) -> Response:
    """The answer to a question, in JSON, given or charged once."""
    return Response(account.once(key, answer), media_type="application/json")
