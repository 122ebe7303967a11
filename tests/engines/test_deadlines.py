"""Answers that never end, or never should have begun, are over within their time; jobs are waited for in patience."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace

import pytest

from engines.servers import HELLO, service, translated
from zweistimme.engines.http_calls import Waits
from zweistimme.engines.job_watch import JobWatch
from zweistimme.engines.jobs import JobState
from zweistimme.engines.refusals import retry_after_s
from zweistimme.engines.wire import Problem
from zweistimme.project.errors import BadAnswer, EngineBusy, EngineCutOff, EngineError, EngineRefused


@pytest.mark.parametrize(
    ("fault", "kind", "sentence"),
    [
        ("drip", EngineCutOff, "did not answer in 2 s"),
        ("endless", BadAnswer, "answered with more than 256 MiB; it was not read"),
        ("gzip-bomb", BadAnswer, "answered with more than 256 MiB; it was not read"),
        ("redirect", EngineRefused, "sends the desk on to another address"),
    ],
)
def test_answers_end_within_their_time(fault: str, kind: type[Exception], sentence: str) -> None:
    with service(fault, waits=Waits(answer=2.0)) as quay:
        for ask in (lambda: quay.speak(HELLO), lambda: translated(quay, "Good morning.")):
            began = time.monotonic()
            with pytest.raises(kind, match=sentence):
                ask()
            assert time.monotonic() - began < 20.0  # it would be minutes


@pytest.mark.parametrize("value", ["²", "-1", "1e9", "9" * 400, "soon", "Wed, 99 Foo 2026", ""])
def test_waits_that_are_none(value: str) -> None:
    assert retry_after_s(value) is None


@dataclass(frozen=True, slots=True)
class Look:
    """A job at a look."""

    state: JobState = JobState.RUNNING
    progress: float | None = None
    heartbeats: int | None = None
    problem: Problem | None = None


QUICK = Waits(look=0.01, look_most=0.02, stuck=0.2, lost=20.0, job_a_second=0.0, job_least=60.0)


def watched(looks: list[Look | EngineError], waits: Waits = QUICK) -> Look:
    """Wait for a job that is seen so, the last look over and over."""
    number = 0

    def look() -> tuple[Look, float | None]:
        nonlocal number
        seen = looks[min(number, len(looks) - 1)]
        number += 1
        if isinstance(seen, EngineError):
            raise seen
        return seen, None

    return JobWatch("quay", waits, 0.0).ended(Look(), look, lambda _share: None)


DONE = Look(JobState.DONE)


def test_a_job_that_cannot_tell_how_far_it_is_has_time() -> None:
    """Nothing said of progress is no reason to give up, as long as the whole takes no longer than it may."""
    began = time.monotonic()
    assert watched([Look()] * 25 + [DONE]) == DONE
    assert time.monotonic() - began > QUICK.stuck
    with pytest.raises(EngineError, match="was not done after"):
        watched([Look()], replace(QUICK, job_least=0.3))


def test_a_job_that_gets_no_further_is_given_up_unless_its_heart_beats() -> None:
    with pytest.raises(EngineError, match="made no progress"):
        watched([Look(progress=0.4)])
    beating: list[Look | EngineError] = [Look(progress=0.4, heartbeats=k) for k in range(25)]
    assert watched([*beating, DONE]) == DONE


def test_a_network_that_is_away_for_a_while_ends_no_job() -> None:
    away = EngineCutOff("{name} broke off.", name="quay")
    assert watched([away] * 8 + [EngineBusy("Wait.", 0.02), DONE]) == DONE
    with pytest.raises(EngineCutOff):
        watched([away], replace(QUICK, lost=0.2))
    with pytest.raises(EngineRefused):
        watched([EngineRefused("No."), DONE])


def test_a_service_says_when_it_wants_to_be_asked_again() -> None:
    seen: list[float] = []

    def look() -> tuple[Look, float | None]:
        seen.append(time.monotonic())
        return (DONE if len(seen) == 2 else Look()), 0.4

    JobWatch("quay", Waits(look=0.01), 0.0).ended(Look(), look, lambda _share: None)
    assert seen[1] - seen[0] >= 0.39
