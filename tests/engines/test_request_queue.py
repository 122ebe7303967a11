"""Asking many things: pace, patience, failures that stop nothing, and stopping within a moment."""

from __future__ import annotations

import threading
import time

import pytest

from engines.asking import long_answers
from zweistimme.engines.cancellation import check_stopped
from zweistimme.engines.offers import Limits
from zweistimme.engines.request_queue import Patience, ask_all
from zweistimme.project.errors import BadAnswer, Cancelled, EngineBusy, EngineError, EngineFault, EngineRefused

IMPATIENT = Patience(first=0.01, most=0.02)


def collect(questions, ask, limits=Limits(at_once=4), **more):  # type: ignore[no-untyped-def]
    answers: dict[object, object] = {}
    failures = ask_all(
        questions, ask, limits=limits, took=answers.__setitem__, report=lambda _share: None, patience=IMPATIENT, **more
    )
    return answers, failures


def test_as_many_at_once_as_the_engine_allows() -> None:
    running, most, lock = 0, 0, threading.Lock()

    def ask(question: int) -> int:
        nonlocal running, most
        with lock:
            running += 1
            most = max(most, running)
        time.sleep(0.02)
        with lock:
            running -= 1
        return question * 2

    answers, failures = collect(range(24), ask)
    assert answers == {k: 2 * k for k in range(24)}
    assert not failures
    assert most == 4


def test_answers_nobody_has_taken_over_do_not_pile_up() -> None:
    answered, most = 0, 0

    def ask(question: int) -> int:
        nonlocal answered
        answered += 1
        return question

    def took(_question: int, _answer: int) -> None:
        nonlocal taken, most
        time.sleep(0.002)
        taken += 1
        most = max(most, answered - taken)

    taken = 0
    ask_all(range(60), ask, limits=Limits(at_once=2), took=took, report=lambda _share: None)
    assert taken == 60
    assert most <= 4


def test_a_fault_that_passes_is_waited_out_and_one_that_stays_is_said() -> None:
    tries: dict[str, int] = {}

    def ask(question: str) -> str:
        tries[question] = tries.get(question, 0) + 1
        if question == "broken":
            raise EngineFault("It failed.")
        if question == "garbage":
            raise BadAnswer("Nonsense.")
        if question == "impossible":
            raise EngineError("No.")
        if question == "shaky" and tries[question] < 3:
            raise EngineFault("Not yet.")
        return question

    answers, failures = collect(["fine", "broken", "garbage", "impossible", "shaky"], ask)
    assert set(answers) == {"fine", "shaky"}
    assert {f.question: str(f.error) for f in failures} == {
        "broken": "It failed.", "garbage": "Nonsense.", "impossible": "No.",
    }  # fmt: skip
    assert tries == {"fine": 1, "broken": 5, "garbage": 3, "impossible": 1, "shaky": 3}


def test_an_engine_that_asks_to_wait_is_obeyed_by_all() -> None:
    times: list[float] = []
    lock, refused = threading.Lock(), threading.Event()

    def ask(question: int) -> int:
        with lock:
            times.append(time.monotonic())
            if not refused.is_set():
                refused.set()
                raise EngineBusy("Wait.", 0.5)
        return question

    answers, _ = collect(range(12), ask, Limits(at_once=2))
    assert len(answers) == 12
    late = [moment for moment in times[1:] if moment - times[0] < 0.4]
    assert len(late) <= 2, "only what was under way already may come before the pause is over"


def test_requests_are_spaced() -> None:
    began = time.monotonic()
    collect(range(6), lambda question: question, Limits(at_once=6, requests_a_minute=600))
    assert time.monotonic() - began >= 0.5


def test_what_would_befall_every_question_ends_the_run_and_keeps_what_came() -> None:
    kept: list[int] = []

    def ask(question: int) -> int:
        if question == 5:
            raise EngineRefused("Nothing is left.")
        return question

    with pytest.raises(EngineRefused, match="Nothing is left"):
        ask_all(range(1000), ask, limits=Limits(), took=lambda _q, a: kept.append(a), report=lambda _s: None)
    assert kept == [0, 1, 2, 3, 4]


def test_cancelling_waits_for_nobody() -> None:
    release = threading.Event()

    def ask(_question: int) -> None:
        release.wait(30)

    def report(_share: float) -> None:
        if time.monotonic() - began > 0.2:
            raise Cancelled

    began = time.monotonic()
    with pytest.raises(Cancelled):
        ask_all(range(100), ask, limits=Limits(at_once=8), took=lambda _q, _a: None, report=report)
    assert time.monotonic() - began < 1.0 + 0.2
    release.set()


def test_a_defect_of_ours_is_said_at_its_question() -> None:
    answers, failures = collect([2, 0, 1], lambda question: 1 // question)
    assert set(answers) == {1, 2}
    assert "A defect in Zweistimme while asking (ZeroDivisionError" in str(failures[0].error)


def test_one_long_question_reports_and_is_tried_again() -> None:
    shares: list[float] = []
    tries: list[int] = []

    def ask(_question: int, report) -> str:  # type: ignore[no-untyped-def]
        tries.append(1)
        report(0.25)
        time.sleep(0.12)
        if len(tries) < 3:
            raise EngineFault("Not yet.")
        return "heard"

    assert long_answers([1], ask, shares.append, patience=IMPATIENT) == ["heard"]
    assert len(tries) == 3
    assert 0.25 in shares


def test_one_long_question_that_fails_says_why_and_one_that_is_stopped_takes_it_back() -> None:
    def fail(_question: int, _report: object) -> None:
        raise EngineError("It cannot be heard.")

    with pytest.raises(EngineError, match="cannot be heard"):
        long_answers([1], fail, lambda _share: None)
    taken_back: list[bool] = []

    def ask(_question: int, report) -> None:  # type: ignore[no-untyped-def]
        try:
            while True:
                report(0.1)
                time.sleep(0.01)
        except Cancelled:
            taken_back.append(True)
            raise

    def stop(share: float) -> None:
        if share > 0:
            raise Cancelled

    with pytest.raises(Cancelled):
        long_answers([1], ask, stop)
    assert taken_back == [True]


def test_a_wait_longer_than_a_run_is_worth_counts_as_failed() -> None:
    def ask(_question: int) -> None:
        raise EngineBusy("Come back tomorrow.", 86_400)

    began = time.monotonic()
    _, failures = collect([1], ask)
    assert str(failures[0].error) == "Come back tomorrow."
    assert time.monotonic() - began < 5


def test_what_waits_deep_inside_a_run_hears_that_it_was_stopped() -> None:
    heard = threading.Event()

    def ask(_question: int) -> None:
        try:
            while True:
                check_stopped()
                time.sleep(0.01)
        except Cancelled:
            heard.set()
            raise

    def report(_share: float) -> None:
        raise Cancelled

    check_stopped()
    with pytest.raises(Cancelled):
        ask_all([1], ask, limits=Limits(), took=lambda _q, _a: None, report=report)
    assert heard.wait(2)


def test_long_questions_are_asked_at_once_and_say_together_how_far_they_are() -> None:
    shares: list[float] = []
    together = threading.Barrier(3, timeout=10)

    def ask(question: int, report) -> int:  # type: ignore[no-untyped-def]
        report(0.5)
        together.wait()
        time.sleep(0.12)
        return question

    assert sorted(long_answers([1, 2, 3], ask, shares.append, limits=Limits(at_once=3))) == [1, 2, 3]
    assert 0.5 in shares
