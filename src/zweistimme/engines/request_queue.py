"""Asking an engine many things: at once up to its limit, paced, patient with faults, stopped within a moment.

One question that fails does not stop the others. Answers reach the caller's thread the moment they are there.
"""

from __future__ import annotations

import queue
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING, Final, Generic, TypeVar

from zweistimme.engines.cancellation import belongs_to, check_stopped
from zweistimme.engines.offers import Limits
from zweistimme.engines.protocol import Report
from zweistimme.project.errors import Cancelled, EngineBusy, EngineError, StoreError, ZweistimmeError

if TYPE_CHECKING:
    from tenacity import RetryCallState

Q = TypeVar("Q")
A = TypeVar("A")
_LOOK_S: Final = 0.05
_TAKING_BACK_S: Final = 0.8
_AHEAD: Final = 2
"""Questions, for each that may be asked at once, that are asked or answered and not yet taken over."""


@dataclass(frozen=True, slots=True)
class Patience:
    """How long to wait before asking again, in seconds: growing, and never longer than *most*."""

    first: float = 0.5
    most: float = 30.0
    most_asked_for: float = 300.0
    """The longest wait an engine may ask for; beyond it the question counts as failed."""


PATIENCE: Final = Patience()


@dataclass(frozen=True, slots=True)
class Failure(Generic[Q]):
    """A question that was not answered, and why."""

    question: Q
    error: EngineError


class Pacer:
    """Lets requests through no faster than an engine allows; all wait when it asks for a pause."""

    def __init__(self, requests_a_minute: float | None) -> None:
        self._gap = 60.0 / requests_a_minute if requests_a_minute else 0.0
        self._next = 0.0
        self._lock = threading.Lock()

    def wait(self, stop: threading.Event) -> None:
        """Wait for one's turn; Cancelled if *stop* is set meanwhile."""
        with self._lock:
            now = time.monotonic()
            mine = max(now, self._next)
            self._next = mine + self._gap
        if stop.wait(max(0.0, mine - now)):
            raise Cancelled

    def pause(self, seconds: float) -> None:
        """Let nobody through for a while."""
        with self._lock:
            self._next = max(self._next, time.monotonic() + seconds)


def ask_all(
    questions: Sequence[Q],
    ask: Callable[[Q], A],
    *,
    limits: Limits,
    took: Callable[[Q, A], None],
    report: Report,
    patience: Patience = PATIENCE,
    repeats_cost: bool = False,
) -> list[Failure[Q]]:
    """Ask every question and hand each answer to *took*, on this thread, as it arrives; the failures, in order. With
    *repeats_cost* nothing is asked again that may have been paid for already.

    An error that would befall every question (no connection, a refused token, a used-up quota) ends the run: it is
    raised once the answers that were under way are handed over. *report* may raise Cancelled: questions still under
    way are then left to themselves.
    """
    run = _Run(questions, ask, limits, patience, repeats_cost=repeats_cost)
    failures: list[Failure[Q]] = []
    settled = 0
    try:
        while settled < len(questions) and not run.over:
            try:
                question, answer, error = run.results.get(timeout=_LOOK_S)
            except queue.Empty:
                report(settled / len(questions))
                continue
            run.taken()
            settled += 1
            if error is not None:
                failures.append(Failure(question, error))
            else:
                took(question, answer)  # type: ignore[arg-type]
            report(settled / len(questions))
    finally:
        run.stop.set()
    if run.ended_by is not None:
        raise run.ended_by
    return failures


def ask_long(
    questions: Sequence[Q],
    ask: Callable[[Q, Report], A],
    *,
    limits: Limits,
    took: Callable[[Q, A], None],
    report: Report,
    patience: Patience = PATIENCE,
    repeats_cost: bool = False,
) -> list[Failure[Q]]:
    """Long questions, asked as many short ones are. *ask* gets a report of its own, which raises Cancelled once the run
    was stopped; what the engine was told to do is then taken back before this returns, if it can be soon."""
    shares, count = [0.0] * len(questions), max(1, len(questions))
    busy, idle = 0, threading.Condition()

    def asked(number: int) -> A:
        nonlocal busy

        def told(done: float) -> None:
            shares[number] = done
            check_stopped()

        with idle:
            busy += 1
        try:
            return ask(questions[number], told)
        finally:
            with idle:
                busy -= 1
                idle.notify_all()

    def answered(number: int, answer: A) -> None:
        shares[number] = 1.0
        took(questions[number], answer)

    try:
        failures = ask_all(
            range(len(questions)),
            asked,
            limits=limits,
            took=answered,
            report=lambda _share: report(sum(shares) / count),
            patience=patience,
            repeats_cost=repeats_cost,
        )
    except Cancelled:
        with idle:
            idle.wait_for(lambda: not busy, _TAKING_BACK_S)
        raise
    return [Failure(questions[failure.question], failure.error) for failure in failures]


class _Run(Generic[Q, A]):
    """The threads of one run. They are daemons: a question that hangs holds nothing up, not even the exit."""

    def __init__(
        self, questions: Sequence[Q], ask: Callable[[Q], A], limits: Limits, patience: Patience, *, repeats_cost: bool
    ) -> None:
        self.results: queue.SimpleQueue[tuple[Q, A | None, EngineError | None]] = queue.SimpleQueue()
        self.stop = threading.Event()
        self.ended_by: ZweistimmeError | None = None
        self._waiting = deque(questions)
        self._ask, self._patience, self._repeats_cost = ask, patience, repeats_cost
        self._pacer = Pacer(limits.requests_a_minute)
        count = max(1, min(limits.at_once, len(questions)))
        self._room = threading.Semaphore(_AHEAD * count)
        self._threads = [threading.Thread(target=self._work, name="asking", daemon=True) for _ in range(count)]
        for thread in self._threads:
            thread.start()

    @property
    def over(self) -> bool:
        """Whether the run was ended and everything that was under way has been handed over."""
        return self.ended_by is not None and not any(t.is_alive() for t in self._threads) and self.results.empty()

    def taken(self) -> None:
        """An answer was taken over: one more question may be asked."""
        self._room.release()

    def _work(self) -> None:
        belongs_to(self.stop)
        while not self.stop.is_set():
            if not self._room.acquire(timeout=_LOOK_S):  # what nobody has taken over yet fills memory
                continue
            try:
                question = self._waiting.popleft()
            except IndexError:
                return
            try:
                self.results.put((question, self._answered(question), None))
            except Cancelled:
                return
            except EngineError as error:
                if error.ends_run:
                    self.ended_by = self.ended_by or error
                    self.stop.set()
                    return
                self.results.put((question, None, error))
            except (ZweistimmeError, OSError) as error:  # of the disk: nothing can be kept, so nothing more is asked
                self.ended_by = self.ended_by or _as_sentence(error)
                self.stop.set()
                return
            except Exception as error:  # a defect of ours: said at this question, the others go on
                defect = EngineError(
                    "A defect in Zweistimme while asking ({kind}: {error}).",
                    kind=type(error).__name__,
                    error=str(error),
                )
                self.results.put((question, None, defect))

    def _answered(self, question: Q) -> A:
        from tenacity import Retrying, retry_if_exception_type

        retrying = Retrying(
            retry=retry_if_exception_type(EngineError),
            stop=partial(_tried_enough, self._patience, self._repeats_cost),
            wait=partial(_pause_s, self._patience),
            sleep=self._sleep,
            before_sleep=self._hold_others,
            reraise=True,
        )
        return retrying(self._once, question)

    def _once(self, question: Q) -> A:
        self._pacer.wait(self.stop)
        return self._ask(question)

    def _sleep(self, seconds: float) -> None:
        if self.stop.wait(seconds):
            raise Cancelled

    def _hold_others(self, state: RetryCallState) -> None:
        """An engine that asks for a pause asks everybody."""
        error = state.outcome.exception() if state.outcome else None
        if isinstance(error, EngineBusy) and state.next_action is not None:
            self._pacer.pause(state.next_action.sleep)


def _as_sentence(error: ZweistimmeError | OSError) -> ZweistimmeError:
    if isinstance(error, ZweistimmeError):
        return error
    return StoreError(
        "{filename} cannot be kept: {why}. Make room and go on.",
        filename=error.filename or "An answer",
        why=error,
    )


def _tried_enough(patience: Patience, repeats_cost: bool, state: RetryCallState) -> bool:
    error = state.outcome.exception() if state.outcome else None
    if not isinstance(error, EngineError) or (repeats_cost and error.may_have_cost):
        return True
    if isinstance(error, EngineBusy) and (error.after_s or 0) > patience.most_asked_for:
        return True
    return state.attempt_number >= error.tries


def _pause_s(patience: Patience, state: RetryCallState) -> float:
    """Growing pauses; longer if the engine says so."""
    error = state.outcome.exception() if state.outcome else None
    grown = min(patience.first * 2.0 ** (state.attempt_number - 1), patience.most)
    if isinstance(error, EngineBusy) and error.after_s is not None:
        return error.after_s
    return float(grown)
