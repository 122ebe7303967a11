"""An engine behind HTTP: the protocol as a client. Every way a service can fail becomes a sentence of its own."""

from __future__ import annotations

import base64
import hashlib
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from typing import IO, Any, TypeVar
from urllib.parse import quote

from zweistimme.engines.extra_roles import Answered, Asked, call_of
from zweistimme.engines.http_calls import HttpCaller, Waits
from zweistimme.engines.job_watch import JobWatch
from zweistimme.engines.offers import UNDERSTOOD, EngineInfo, Usage
from zweistimme.engines.protocol import (
    DialogueRequest,
    Hear,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.sounds import longest_s, written_sound
from zweistimme.engines.translations import checked_translation
from zweistimme.engines.wav import SoundAsItComes
from zweistimme.engines.wire import (
    STREAM_TYPE,
    TOLD_LATER,
    DialogueAnswer,
    RecognitionJob,
    SpeechAnswer,
    lines_of,
    read,
    speech_from,
    written,
)
from zweistimme.project.errors import BadAnswer, EngineError, EngineRefused
from zweistimme.project.times import RATE

T = TypeVar("T")


class ServiceEngine:
    """A connection to one service; used by several threads at once."""

    def __init__(self, name: str, address: str, token: str | None = None, waits: Waits | None = None) -> None:
        self.name, self.address = name, address.rstrip("/")
        self._waits = waits or Waits()
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        self._calls = HttpCaller(name, self.address, headers, self._waits, secret=bool(token))
        self._known: EngineInfo | None = None

    def close(self) -> None:
        """Let the connections go."""
        self._calls.close()

    # what it says of itself

    @property
    def identity(self) -> str:
        """The service at its address."""
        return f"service {self.name} {self.address}"

    def info(self, *, anew: bool = False) -> EngineInfo:
        """Asked once, or *anew*; a service of another protocol version is refused."""
        if self._known is None or anew:
            info = self._asked(EngineInfo, "GET", "/v1/engine")
            if info.protocol not in UNDERSTOOD:
                raise EngineRefused(
                    "{name} speaks version {protocol} of the protocol; this desk speaks {version}.",
                    name=self.name,
                    protocol=info.protocol,
                    version=max(UNDERSTOOD),
                )
            self._known = info
        return self._known

    def usage(self) -> Usage:
        """What was used and what is left."""
        return self._asked(Usage, "GET", "/v1/usage")

    # calls

    def translate(self, request: TranslationRequest) -> Translation:
        """Translate; an answer with unknown or repeated ids is refused, one that leaves some out is kept as it is."""
        answer = self._asked_for(Translation, "/v1/translations", request)
        return checked_translation(request, answer, self.name)

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """Speak one line; in pieces, if somebody listens and the service lets it out while it speaks."""
        voice = self.info().voice(request.voice)
        if hear is not None and self.info().streams:
            answer = self._spoken_in_pieces(request, hear)
        else:
            answer = self._asked_for(SpeechAnswer, "/v1/speech", request)
        return speech_from(answer, voice.sample_rate, longest_s(request.ssml), self.name)

    def _spoken_in_pieces(self, request: SpeechRequest, hear: Hear) -> SpeechAnswer:
        """A speech answer that comes as lines of JSON: parts of a sound file, then the rest of the answer."""
        content, key = self._content("/v1/speech", request)
        came, sound = SoundAsItComes(hear), bytearray()
        last = SpeechAnswer("")
        headers = {**content.pop("headers"), "Idempotency-Key": key, "Accept": STREAM_TYPE}
        with self._calls.asking("POST", "/v1/speech", headers=headers, **content) as (head, pieces):
            if not head.headers.get("Content-Type", "").startswith(STREAM_TYPE):
                return read(SpeechAnswer, b"".join(pieces), self.name)
            for line in filter(None, lines_of(pieces)):
                last = read(SpeechAnswer, line, self.name)
                try:
                    part = base64.b64decode(last.sound, validate=True)
                except ValueError:
                    raise BadAnswer("{who} answered with sound that is not base64.", who=self.name) from None
                sound += part
                came.came(part)
        return replace(last, sound=base64.b64encode(bytes(sound)).decode())

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """Speak several speakers' lines together."""
        voices = [self.info().voice(turn.voice) for turn in request.turns]
        answer = self._asked_for(DialogueAnswer, "/v1/dialogues", request)
        if len(answer.turns) != len(request.turns):
            raise BadAnswer(
                "{name} answered with {clips} clips for {turns} turns.",
                name=self.name,
                clips=len(answer.turns),
                turns=len(request.turns),
            )
        return tuple(
            speech_from(turn, voice.sample_rate, longest_s(asked.ssml), self.name)
            for turn, voice, asked in zip(answer.turns, voices, request.turns, strict=True)
        )

    def ask(self, request: Asked) -> Answered:
        """One of the other questions."""
        call = call_of(request)
        answer: Answered = self._asked_for(call.answer, call.path, request)
        return answer

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Send the sound, then look after the job until it is done; a cancelled run cancels the job there too."""
        asked = written(question)
        with _as_file(sound, lambda share: report(0.1 * share)) as file:
            job = self._asked(
                RecognitionJob,
                "POST",
                "/v1/recognitions",
                hashlib.sha256(asked + _digest(file)).hexdigest(),
                sent_bytes=os.fstat(file.fileno()).st_size,
                data={"question": asked.decode()},
                files={"sound": ("sound.flac", file, "audio/flac")},
            )
        watch = JobWatch(self.name, self._waits, sound.length_samples / RATE)
        try:
            job = watch.ended(job, partial(self._look, job.id), lambda share: report(0.1 + 0.9 * share))
        except BaseException:
            self._stopped(job)
            raise
        if job.result is None:
            raise BadAnswer("{name} says the recognition is done but gives no result.", name=self.name)
        return job.result

    def _look(self, job_id: str) -> tuple[RecognitionJob, float | None]:
        """A job as it is now, and how long the service asks to wait before the next look."""
        answer = self._calls.ask("GET", f"/v1/jobs/{quote(job_id, safe='')}")
        return read(RecognitionJob, answer.body, self.name), answer.retry_after_s

    def _stopped(self, job: RecognitionJob) -> None:
        try:
            self._asked(RecognitionJob, "DELETE", f"/v1/jobs/{quote(job.id, safe='')}")
        except EngineError:
            return  # it is being left anyway; the reason for that is said instead

    # HTTP

    def _asked_for(self, kind: type[T], path: str, request: object) -> T:
        """The answer to a request in JSON."""
        content, key = self._content(path, request)
        return self._asked(kind, "POST", path, key, **content)

    def _content(self, path: str, request: object) -> tuple[dict[str, Any], str]:
        """A request as it is sent, and its key; an engine of version 1 is not told what came later."""
        later = TOLD_LATER if self.info().protocol == 1 else None
        body = written(request, without=later)
        key = hashlib.sha256(path.encode() + body).hexdigest()
        return {"content": body, "headers": {"Content-Type": "application/json"}}, key

    def _asked(self, kind: type[T], method: str, path: str, key: str = "", **content: Any) -> T:
        """Ask. The same question carries the same *key*, so that a service need not charge for it twice."""
        headers = {**content.pop("headers", {}), **({"Idempotency-Key": key} if key else {})}
        return read(kind, self._calls.ask(method, path, headers=headers, **content).body, self.name)


def _digest(file: IO[bytes]) -> bytes:
    """SHA-256 of a file from its beginning, where it stands again afterwards."""
    digest = hashlib.file_digest(file, "sha256").digest()  # type: ignore[arg-type]
    file.seek(0)
    return digest


@contextmanager
def _as_file(sound: SoundSource, report: Report) -> Iterator[IO[bytes]]:
    """The sound as a FLAC file on disk."""
    with tempfile.TemporaryFile(suffix=".flac") as file:
        written_sound(sound, file, "flac", RATE, report)
        file.seek(0)
        yield file
