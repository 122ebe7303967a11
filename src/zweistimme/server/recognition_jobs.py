"""Recognitions under way on the server."""

from __future__ import annotations

import shutil
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Final
from uuid import uuid4

from starlette.exceptions import HTTPException

from zweistimme.engines.jobs import Job, JobState
from zweistimme.engines.offers import Cost
from zweistimme.engines.protocol import Engine, Recognition, RecognitionQuestion, SoundSource
from zweistimme.engines.wire import Problem, RecognitionJob
from zweistimme.media.probe import probe
from zweistimme.media.sound_reader import SoundReader
from zweistimme.media.working_copy import working_copy
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE

_KEPT: Final = 100
_AT_ONCE: Final = 2


@dataclass(slots=True)
class _Run:
    job: Job
    result: list[Recognition] = field(default_factory=list)


class Listening:
    """Jobs by id; the latest are kept until they are asked for."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._runs: OrderedDict[str, _Run] = OrderedDict()
        self._by_key: dict[str, str] = {}
        self._lock = threading.Lock()
        self._turns = threading.Semaphore(_AT_ONCE)

    def begin(
        self,
        sound: IO[bytes],
        question: RecognitionQuestion,
        charge: Callable[[int, float], Cost],
        *,
        key: str | None,
        stuck: bool,
    ) -> RecognitionJob:
        """Take the sound over and begin, unless the same is under way or done under this *key*. *stuck* makes a job
        that never gets anywhere."""
        with self._lock:
            known = self._by_key.get(key or "", "")
            if known in self._runs and self._runs[known].job.state not in (JobState.FAILED, JobState.STOPPED):
                return self.job(known)
            job_id = uuid4().hex
            self._runs[job_id] = run = self._made(sound, question, charge, stuck=stuck)
            if key:
                self._by_key[key] = job_id
            self._forget_the_oldest()
        run.job.start()
        return self.job(job_id)

    def _made(
        self, sound: IO[bytes], question: RecognitionQuestion, charge: Callable[[int, float], Cost], *, stuck: bool
    ) -> _Run:
        place = TemporaryDirectory(prefix="zweistimme-heard-")
        given = Path(place.name) / "sound"
        with given.open("wb") as file:
            shutil.copyfileobj(sound, file)

        def work(job: Job) -> None:
            with place:
                while stuck:
                    job.report(0.0)
                    time.sleep(0.05)
                run.result.append(self._heard(job, given, question, charge))

        run = _Run(Job("Recognise", work))
        return run

    def _forget_the_oldest(self) -> None:
        while len(self._runs) > _KEPT:
            dropped, old = self._runs.popitem(last=False)
            old.job.cancel()
            self._by_key = {key: kept for key, kept in self._by_key.items() if kept != dropped}

    def _heard(
        self, job: Job, given: Path, question: RecognitionQuestion, charge: Callable[[int, float], Cost]
    ) -> Recognition:
        while not self._turns.acquire(timeout=0.1):
            job.report(0.0)
        try:
            copy = given.with_name("working-copy.wav")
            made = working_copy(probe(given), SoundPick(), copy, lambda share: job.report(0.1 * share))
            cost = charge(0, made.samples / RATE)
            with SoundReader(copy) as reader:
                source = SoundSource(reader.mono, reader.length)
                heard = self._engine.recognise(source, question, lambda share: job.report(0.1 + 0.9 * share))
        finally:
            self._turns.release()
        return Recognition(heard.language, heard.probability, heard.segments, cost)

    def job(self, job_id: str) -> RecognitionJob:
        """How far a job is."""
        run = self._runs.get(job_id)
        if run is None:
            raise HTTPException(404, f"There is no job {job_id[:40]}.")
        state = run.job.state
        problem = Problem("Not recognised", 400, run.job.message) if state is JobState.FAILED else None
        result = run.result[0] if run.result and state is JobState.DONE else None
        return RecognitionJob(job_id, state, min(max(run.job.progress, 0.0), 1.0), result=result, problem=problem)

    def stop(self, job_id: str) -> RecognitionJob:
        """Stop a job."""
        found = self.job(job_id)
        self._runs[job_id].job.cancel()
        return found
