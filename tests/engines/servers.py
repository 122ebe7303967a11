"""Servers on loopback for tests, and the shortest things to ask of them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from helpers import speech
from zweistimme.engines.protocol import Translation, TranslationItem, TranslationRequest
from zweistimme.engines.service import ServiceEngine, Waits
from zweistimme.server import Serving, Terms, parsed_faults, running

QUICK = Waits(connect=10.0, answer=30.0, look=0.02, stuck=60.0)
HELLO = speech("Guten Morgen.", "de-DE", "alva")


@contextmanager
def service(
    faults: str = "",
    *,
    token: str | None = None,
    shown: str | None = None,
    terms: Terms | None = None,
    waits: Waits = QUICK,
) -> Iterator[ServiceEngine]:
    """A client of a server that runs meanwhile; *shown* is the token it shows."""
    with running(Serving(token=token, faults=parsed_faults(faults), terms=terms or Terms())) as address:
        engine = ServiceEngine("quay", address, shown, waits)
        try:
            yield engine
        finally:
            engine.close()


def translated(engine: ServiceEngine, *texts: str) -> Translation:
    """Translate English texts into German."""
    items = tuple(TranslationItem(str(k), text) for k, text in enumerate(texts))
    return engine.translate(TranslationRequest("en-GB", "de-DE", items))
