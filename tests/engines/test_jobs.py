"""Jobs: progress, results as they come, cancel, and how they end."""

from __future__ import annotations

import errno
import threading

from zweistimme.engines.jobs import Job, JobState
from zweistimme.project.errors import EngineError


def test_results_come_as_they_are_made() -> None:
    step, seen = threading.Event(), threading.Event()

    def work(job: Job) -> None:
        job.give(1)
        job.report(0.5)
        seen.set()
        step.wait(5)
        job.give(2)

    job = Job("Count", work)
    job.start()
    assert seen.wait(5)
    assert job.take() == [1]
    assert (job.progress, job.finished) == (0.5, False)
    step.set()
    assert job.wait(5)
    assert job.take() == [2]
    assert job.state is JobState.DONE


def test_cancel_stops_at_the_next_report_and_keeps_results() -> None:
    started, go = threading.Event(), threading.Event()

    def work(job: Job) -> None:
        job.give("kept")
        started.set()
        go.wait(5)
        job.report(0.1)
        job.give("never")

    job = Job("Long", work)
    job.start()
    started.wait(5)
    job.cancel()
    go.set()
    assert job.wait(5)
    assert job.state is JobState.STOPPED
    assert job.take() == ["kept"]


def test_failures_are_sentences_and_defects_say_so() -> None:
    def refuse(_job: Job) -> None:
        raise EngineError("The engine is away.")

    def break_(_job: Job) -> None:
        raise KeyError("x")

    def fill_up(_job: Job) -> None:
        raise OSError(errno.ENOSPC, "No space left on device", "/cache/cuts.npy")

    full = "/cache/cuts.npy: No space left on device. Check space and permissions."
    for work, words in ((refuse, "The engine is away."), (fill_up, full), (break_, "defect in Zweistimme (KeyError")):
        job = Job("Try", work)
        job.start()
        job.wait(5)
        assert job.state is JobState.FAILED
        assert words in job.message
    assert "Traceback" in job.details
