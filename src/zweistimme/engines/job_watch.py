"""Waiting for a job that goes on elsewhere: looked after ever more seldom, patiently while the network is away, and not
for ever.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Final, Protocol, TypeVar

from zweistimme.engines.cancellation import check_stopped
from zweistimme.engines.http_calls import Waits
from zweistimme.engines.jobs import JobState
from zweistimme.engines.protocol import Report
from zweistimme.engines.wire import Problem
from zweistimme.messages import tr
from zweistimme.project.errors import EngineBusy, EngineError, EngineRefused

_SELDOM: Final = 0.05
"""The pause between two looks, as a share of the time that has gone by: what it can add to the whole."""
_MOST_ASKED_FOR_S: Final = 60.0
"""The longest pause between two looks that a service may ask for."""
_STEP_S: Final = 0.1


class Seen(Protocol):
    """What is seen of a job at a look."""

    @property
    def state(self) -> JobState: ...
    @property
    def progress(self) -> float | None: ...
    @property
    def heartbeats(self) -> int | None: ...
    @property
    def problem(self) -> Problem | None: ...


J = TypeVar("J", bound=Seen)


class JobWatch:
    """The wait for one job of an engine called *name*; *sound_s* is how much it has to listen to."""

    def __init__(self, name: str, waits: Waits, sound_s: float) -> None:
        self._name, self._waits, self._listens = name, waits, sound_s > 0
        now = time.monotonic()
        self._whole_s = max(waits.job_least, waits.job_a_second * sound_s)
        self._end, self._moved, self._heard = now + self._whole_s, now, now
        self._sign: tuple[float | None, int | None] = (None, None)
        self._began = now

    def ended(self, job: J, look: Callable[[], tuple[J, float | None]], report: Report) -> J:
        """The job once it is done. *look* gives it as it is, and how long the service asks to wait; EngineError once
        it failed, gets no further, is not heard of any more, or takes beyond all measure."""
        asked_for: float | None = None
        while job.state is not JobState.DONE:
            self._check(job)
            self._wait(asked_for, job.progress or 0.0, report)
            try:
                job, asked_for = look()
            except EngineError as error:
                asked_for = self._lost(error)
            else:
                self._heard = time.monotonic()
        return job

    def _check(self, job: Seen) -> None:
        now = time.monotonic()
        if job.state in (JobState.FAILED, JobState.STOPPED):
            said = (job.problem.detail or job.problem.title if job.problem else "") or tr("it does not say why")
            raise EngineError(
                "{name} could not recognise the sound: {said}."
                if self._listens
                else "{name} could not do what it was asked: {said}.",
                name=self._name,
                said=said.rstrip(".?"),
            )
        sign = (job.progress, job.heartbeats)
        if sign != self._sign:
            self._moved, self._sign = now, sign
        if sign != (None, None) and now - self._moved > self._waits.stuck:
            raise EngineError(
                "{name} made no progress for {stuck:.0f} s; it was told to stop.",
                name=self._name,
                stuck=self._waits.stuck,
            )
        if now > self._end:
            raise EngineError(
                "{name} was not done after {minutes:.0f} minutes; it was told to stop.",
                name=self._name,
                minutes=self._whole_s / 60,
            )

    def _wait(self, asked_for: float | None, progress: float, report: Report) -> None:
        """Until the next look, in steps short enough to be stopped in."""
        now = time.monotonic()
        pause = min(_SELDOM * (now - self._began), self._waits.look_most)
        if asked_for is not None:
            pause = min(asked_for, _MOST_ASKED_FOR_S)
        end = now + max(pause, self._waits.look)
        while (left := end - time.monotonic()) > 0:
            check_stopped()
            report(progress)
            time.sleep(min(left, _STEP_S))
        report(progress)

    def _lost(self, error: EngineError) -> float | None:
        """A look that failed: the job goes on whatever befalls a look, unless a person must act, or nothing is heard
        for too long. How long the service asks to wait, if it does."""
        if isinstance(error, EngineRefused) or error.tries == 1:
            raise error
        if time.monotonic() - self._heard > self._waits.lost:
            raise error
        return error.after_s if isinstance(error, EngineBusy) else None
