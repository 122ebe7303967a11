"""Calls to a service of another shape: requests filled in, jobs waited for, refusals understood."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import msgspec

from zweistimme.engines.body_templates import as_text, filled, filled_path, filled_texts
from zweistimme.engines.http_calls import Answer, HttpCaller, Waits
from zweistimme.engines.job_watch import JobWatch
from zweistimme.engines.jobs import JobState
from zweistimme.engines.json_paths import JsonPath
from zweistimme.engines.mapped_description import Asked, CallPart, PollPart, ServiceMap
from zweistimme.engines.protocol import Report
from zweistimme.engines.wire import Problem
from zweistimme.messages import tr
from zweistimme.project.errors import BadAnswer, EngineError


@dataclass(frozen=True, slots=True)
class SeenJob:
    """A job of another service as it is at a look, with what was answered."""

    state: JobState
    progress: float | None
    problem: Problem | None
    data: Any
    heartbeats: int | None = None


class MappedCalls:
    """The calls of one service."""

    def __init__(self, name: str, service: ServiceMap, token: str | None, waits: Waits) -> None:
        self.name, self._service = name, service
        shown = {service.token.header: service.token.form.replace("{token}", token)} if token else {}
        headers = {**service.headers, **shown}
        message = JsonPath(service.errors.message) if service.errors.message else None
        self.http = HttpCaller(
            name, service.address, headers, waits, secret=bool(token),
            says=partial(_problem, message) if message else None, means=service.errors.status,
        )  # fmt: skip

    def close(self) -> None:
        """Let the connections go."""
        self.http.close()

    def json(self, part: Asked, values: Mapping[str, Any], report: Report = lambda _share: None, *,
             file: Path | None = None, sound_s: float = 0.0) -> Any:  # fmt: skip
        """What the service says in JSON, once it is done if it makes a job of it."""
        data = self._parsed(self._ask(part.call, values, file))
        if part.poll is None:
            return data
        job = JsonPath(part.job).of(data)
        if job is None:
            raise self.lacks("job", part.job)
        return self._waited_for(part.poll, {**values, "job": as_text(job)}, report, sound_s)

    def body(self, part: Asked, values: Mapping[str, Any]) -> bytes:
        """What the service answers, as it is."""
        return self._ask(part.call, values, None).body

    @contextmanager
    def pieces(self, part: Asked, values: Mapping[str, Any]) -> Iterator[Iterator[bytes]]:
        """The same while it comes."""
        path, content, key = self._content(part.call, values, None)
        headers = {"Idempotency-Key": key, **content.pop("headers")}
        with self.http.asking(part.call.method, path, headers=headers, **content) as (_, pieces):
            yield pieces

    def got(self, path: str, query: Mapping[str, str], values: Mapping[str, Any]) -> Any:
        """What a GET says in JSON."""
        params = {name: value for name, value in filled_texts(query, values).items() if value}
        return self._parsed(self.http.ask("GET", filled_path(path, values), params=params))

    def lacks(self, what: str, path: str) -> BadAnswer:
        """The answer has not what the map says."""
        return BadAnswer("{name} answered without its {what} ({path}).", name=self.name, what=what, path=path)

    def _ask(self, call: CallPart, values: Mapping[str, Any], file: Path | None) -> Answer:
        path, content, key = self._content(call, values, file)
        headers = {"Idempotency-Key": key, **content.pop("headers")}
        if file is None:
            return self.http.ask(call.method, path, headers=headers, **content)
        with file.open("rb") as opened:
            if call.multipart is not None:
                parts = {name: (f"sound{file.suffix}", opened) for name in _sound_fields(call)}
                content["files"] = {**content.get("files", {}), **parts}
            elif call.body == "{sound}":
                content["content"] = iter(partial(opened.read, 1 << 16), b"")
            size = file.stat().st_size
            return self.http.ask(call.method, path, headers=headers, sent_bytes=size, **content)

    def _content(self, call: CallPart, values: Mapping[str, Any], file: Path | None) -> tuple[str, dict[str, Any], str]:
        """Path, what goes into the request, and the key of the question."""
        path = filled_path(call.path, values)
        content: dict[str, Any] = {"headers": filled_texts(call.headers, values)}
        params = filled_texts(call.query, values)
        if params:
            content["params"] = params
        if call.json is not None:
            content["content"] = msgspec.json.encode(filled(call.json, values))
            content["headers"].setdefault("Content-Type", "application/json")
        elif call.form is not None:
            content["data"] = filled_texts(call.form, values)
        elif call.multipart is not None:
            sounds = _sound_fields(call)
            texts = {name: text for name, text in call.multipart.items() if name not in sounds}
            content["files"] = {name: (None, value.encode()) for name, value in filled_texts(texts, values).items()}
        elif call.body is not None and call.body != "{sound}":
            content["content"] = as_text(filled(call.body, values)).encode()
        digest = hashlib.sha256(repr((call.method, path, content)).encode())
        digest.update(as_text(values.get("attempt")).encode())
        if file is not None:
            with file.open("rb") as opened:
                digest.update(hashlib.file_digest(opened, "sha256").digest())
        return path, content, digest.hexdigest()

    def _waited_for(self, poll: PollPart, values: Mapping[str, Any], report: Report, sound_s: float) -> Any:
        def look() -> tuple[SeenJob, float | None]:
            answer = self.http.ask("GET", filled_path(poll.path, values))
            return self._seen(poll, self._parsed(answer)), answer.retry_after_s

        watch = JobWatch(self.name, self.http.waits, sound_s)
        try:
            job = watch.ended(SeenJob(JobState.RUNNING, None, None, None), look, report)
        except BaseException:
            self._stopped(poll, values)
            raise
        return self._parsed(self.http.ask("GET", filled_path(poll.result, values))) if poll.result else job.data

    def _seen(self, poll: PollPart, data: Any) -> SeenJob:
        said = as_text(JsonPath(poll.state).of(data))
        state = JobState.DONE if said in poll.done else JobState.FAILED if said in poll.failed else JobState.RUNNING
        progress = JsonPath(poll.progress).of(data) if poll.progress else None
        share = min(1.0, max(0.0, progress / poll.progress_of)) if isinstance(progress, int | float) else None
        why = as_text(JsonPath(poll.error).of(data)) if poll.error and state is JobState.FAILED else ""
        problem = Problem(why[:300] or tr("it does not say why"), 400) if state is JobState.FAILED else None
        return SeenJob(state, share, problem, data)

    def _stopped(self, poll: PollPart, values: Mapping[str, Any]) -> None:
        if not poll.stop:
            return
        try:
            self.http.ask("DELETE", filled_path(poll.stop, values))
        except EngineError:
            return  # it is being left anyway; the reason for that is said instead

    def _parsed(self, answer: Answer) -> Any:
        try:
            return msgspec.json.decode(answer.body)
        except (msgspec.DecodeError, UnicodeDecodeError):
            raise BadAnswer("{who} answered with {why}.", who=self.name, why="something that is not JSON") from None


def _sound_fields(call: CallPart) -> list[str]:
    return [name for name, text in (call.multipart or {}).items() if text == "{sound}"]


def _problem(message: JsonPath, body: bytes) -> Problem | None:
    try:
        said = message.of(msgspec.json.decode(body))
    except (msgspec.DecodeError, UnicodeDecodeError):
        return None
    return Problem(as_text(said)[:300], 400) if said else None
