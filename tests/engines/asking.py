"""Long questions for tests."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from zweistimme.engines.offers import Limits
from zweistimme.engines.protocol import Report
from zweistimme.engines.request_queue import PATIENCE, Patience, ask_long

Q = TypeVar("Q")
A = TypeVar("A")


def long_answers(
    questions: Sequence[Q],
    ask: Callable[[Q, Report], A],
    report: Report,
    *,
    limits: Limits | None = None,
    patience: Patience = PATIENCE,
) -> list[A]:
    """The answers in the order in which they came; the first error, if one failed."""
    answers: list[A] = []
    failures = ask_long(
        questions, ask, limits=limits or Limits(), took=lambda _question, answer: answers.append(answer), report=report,
        patience=patience,
    )  # fmt: skip
    if failures:
        raise failures[0].error
    return answers
