"""Ten thousand requests to a service of which a fifth goes wrong in one way or another."""

from __future__ import annotations

import resource
import time
from collections.abc import Callable
from contextlib import suppress

from benchmarks.timing import Row, Rows
from zweistimme.engines.offers import Limits, Price
from zweistimme.engines.protocol import Translation, TranslationItem, TranslationRequest
from zweistimme.engines.request_queue import Patience, ask_all
from zweistimme.engines.service import ServiceEngine
from zweistimme.project.errors import Cancelled
from zweistimme.server import Faults, Serving, Terms, running

COUNT = 10_000
KINDS = ("limit", "busy", "server-error", "cut", "not-json", "wrong-field", "missing-field", "duplicate-ids",
         "missing-ids", "no-language")  # fmt: skip


def storm() -> Rows:
    """Every line ends done or named, nothing is charged twice, memory stays flat, and stopping takes a moment."""
    terms = Terms(price=Price(1.0, 0.0, "EUR"), limits=Limits(at_once=8))
    faults = Faults(dict.fromkeys(KINDS, 0.02), seed=11, retry_after_s=0)
    done: set[int] = set()
    with running(Serving(faults=faults, terms=terms)) as address:
        quay = ServiceEngine("quay", address)

        def ask(number: int) -> Translation:
            items = (TranslationItem(str(number), f"Line {number}."),)
            return quay.translate(TranslationRequest("en-GB", "de-DE", items))

        def asked(numbers: range) -> int:
            patience = Patience(0.001, 0.01)
            failures = ask_all(
                numbers, ask, limits=Limits(at_once=8), took=lambda n, _a: done.add(n), report=lambda _s: None,
                patience=patience,
            )  # fmt: skip
            return len(failures)

        failed = asked(range(COUNT // 10))
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        began = time.monotonic()
        failed += asked(range(COUNT // 10, COUNT))
        taken = time.monotonic() - began
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        used = quay.usage().used.characters
        stopped = _stopping(ask)
        quay.close()
    least = sum(len(f"Line {number}.") for number in done)
    whole = sum(len(f"Line {number}.") for number in range(COUNT))
    yield Row("lines done", f"{len(done):,} and {failed:,} with a named reason", f"{COUNT:,} asked, 20 % faults")
    yield Row("charged", f"{used:,} characters", f"done {least:,}, all {whole:,}")
    yield Row("pace", f"{0.9 * COUNT / taken:.0f} lines a second", "server and client in one process")
    yield Row("memory grown", f"{grown:.1f} MB", "over the last 9,000; the server keeps their answers")
    yield Row("stopping", f"{stopped:.2f} s", "wanted: 1 s")


def _stopping(ask: Callable[[int], Translation]) -> float:
    """How long it takes from the wish to stop to having stopped."""
    began = time.monotonic()

    def report(_share: float) -> None:
        if time.monotonic() - began > 0.5:
            raise Cancelled

    with suppress(Cancelled):
        ask_all(range(COUNT, 2 * COUNT), ask, limits=Limits(at_once=8), took=lambda _n, _a: None, report=report)
    return time.monotonic() - began - 0.5
