"""An engine behind HTTP: protocol v1 as a client. Every way a service can fail becomes a sentence of its own."""

from __future__ import annotations

import hashlib
import socket
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from typing import IO, TYPE_CHECKING, Any, Final, TypeVar

from zweistimme.engines.jobs import JobState
from zweistimme.engines.offers import VERSION, EngineInfo, Usage
from zweistimme.engines.protocol import (
    DialogueRequest,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.refusals import refusal
from zweistimme.engines.sounds import written_flac
from zweistimme.engines.wire import (
    DialogueAnswer,
    RecognitionJob,
    SpeechAnswer,
    read,
    speech_from,
    written,
)
from zweistimme.project.errors import (
    BadAnswer,
    EngineAway,
    EngineCutOff,
    EngineError,
    EngineFault,
    EngineRefused,
)

if TYPE_CHECKING:
    import httpx

T = TypeVar("T")
LARGEST_ANSWER: Final = 256 << 20
_CHARACTER_S: Final = 0.5
"""No voice takes longer for a character, pauses between sentences included."""


@dataclass(frozen=True, slots=True)
class Waits:
    """How long a service is waited for, in seconds: to connect, for a whole answer, between two looks at a job,
    and for a job that makes no progress."""

    connect: float = 10.0
    answer: float = 120.0
    look: float = 0.2
    stuck: float = 300.0


class ServiceEngine:
    """A connection to one service; used by several threads at once."""

    def __init__(self, name: str, address: str, token: str | None = None, waits: Waits | None = None) -> None:
        self.name, self.address = name, address.rstrip("/")
        self._token, self._waits = token, waits or Waits()
        self._known: EngineInfo | None = None
        self._made: httpx.Client | None = None
        self._making = threading.Lock()

    @property
    def _client(self) -> httpx.Client:
        import httpx

        with self._making:
            if self._made is None:
                headers = {"Authorization": f"Bearer {self._token}"} if self._token else {}
                self._made = httpx.Client(
                    base_url=self.address,
                    headers=headers,
                    timeout=httpx.Timeout(self._waits.answer, connect=self._waits.connect),
                    limits=httpx.Limits(max_connections=80),
                    follow_redirects=False,
                )
            return self._made

    def close(self) -> None:
        """Let the connections go."""
        if self._made is not None:
            self._made.close()

    # what it says of itself

    @property
    def identity(self) -> str:
        """The service at its address."""
        return f"service {self.name} {self.address}"

    def info(self) -> EngineInfo:
        """Asked once; a service of another protocol version is refused."""
        if self._known is None:
            info = self._asked(EngineInfo, "GET", "/v1/engine")
            if info.protocol != VERSION:
                raise EngineRefused(
                    "{name} speaks version {protocol} of the protocol; this desk speaks {version}.",
                    name=self.name,
                    protocol=info.protocol,
                    version=VERSION,
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
        wanted, got = [item.id for item in request.items], [item.id for item in answer.items]
        if len(set(got)) != len(got):
            twice = next(key for key in got if got.count(key) > 1)
            raise BadAnswer("{name} answered twice for the text {twice}.", name=self.name, twice=twice)
        unasked = next((key for key in got if key not in set(wanted)), None)
        if unasked is not None:
            raise BadAnswer(
                "{name} answered for the text {unasked}, which nobody had asked for.", name=self.name, unasked=unasked
            )
        if wanted and not got:
            raise BadAnswer("{name} left out all {count} texts it was asked for.", name=self.name, count=len(wanted))
        return answer

    def speak(self, request: SpeechRequest) -> Speech:
        """Speak one line."""
        voice = self.info().voice(request.voice)
        answer = self._asked_for(SpeechAnswer, "/v1/speech", request)
        return speech_from(answer, voice.sample_rate, longest_s(request.ssml), self.name)

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

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Send the sound, then look after the job until it is done; a cancelled run cancels the job there too."""
        asked = written(question)
        with _as_file(sound, lambda share: report(0.1 * share)) as file:
            key = hashlib.sha256(asked + _digest(file)).hexdigest()
            job = self._asked(
                RecognitionJob,
                "POST",
                "/v1/recognitions",
                key,
                data={"question": asked.decode()},
                files={"sound": ("sound.flac", file, "audio/flac")},
            )
        try:
            return self._followed(job, report)
        except BaseException:
            self._stopped(job)
            raise

    def _followed(self, job: RecognitionJob, report: Report) -> Recognition:
        moved, progress = time.monotonic(), -1.0
        while True:
            if job.state is JobState.DONE:
                if job.result is None:
                    raise BadAnswer("{name} says the recognition is done but gives no result.", name=self.name)
                return job.result
            if job.state in (JobState.FAILED, JobState.STOPPED):
                said = (job.problem.detail or job.problem.title if job.problem else "") or "it does not say why"
                raise EngineError(
                    "{name} could not recognise the sound: {said}.", name=self.name, said=said.rstrip(".?")
                )
            if job.progress > progress:
                moved, progress = time.monotonic(), job.progress
            if time.monotonic() - moved > self._waits.stuck:
                raise EngineError(
                    "{name} made no progress for {stuck:.0f} s; it was told to stop.",
                    name=self.name,
                    stuck=self._waits.stuck,
                )
            job = self._looked_after(job, partial(report, 0.1 + 0.9 * job.progress))

    def _looked_after(self, job: RecognitionJob, still_there: Callable[[], None]) -> RecognitionJob:
        """How far the job is; a look that fails is tried again, since the job goes on whatever befalls a look."""
        failed = 0
        while True:
            still_there()
            time.sleep(min(self._waits.look * 2**failed, 5.0))
            try:
                return self._asked(RecognitionJob, "GET", f"/v1/jobs/{job.id}")
            except EngineError as error:
                failed += 1
                if failed >= error.tries:
                    raise

    def _stopped(self, job: RecognitionJob) -> None:
        try:
            self._asked(RecognitionJob, "DELETE", f"/v1/jobs/{job.id}")
        except EngineError:
            return  # it is being left anyway; the reason for that is said instead

    # HTTP

    def _asked_for(self, kind: type[T], path: str, request: object) -> T:
        """The answer to a request in JSON."""
        body = written(request)
        key = hashlib.sha256(path.encode() + body).hexdigest()
        return self._asked(kind, "POST", path, key, content=body)

    def _asked(self, kind: type[T], method: str, path: str, key: str = "", **content: Any) -> T:
        """Ask. The same question carries the same *key*, so that a service need not charge for it twice."""
        import httpx

        headers = {"Idempotency-Key": key} if key else {}
        if "content" in content:
            headers["Content-Type"] = "application/json"
        try:
            with self._client.stream(method, path, headers=headers, **content) as response:
                body = self._body(response)
        except httpx.TimeoutException as error:
            if isinstance(error, httpx.ConnectTimeout):
                raise EngineAway(
                    "{name} did not answer at {address}. Is the address right?", name=self.name, address=self.address
                ) from error
            raise EngineCutOff(
                "{name} did not answer in {answer:.0f} s.", name=self.name, answer=self._waits.answer
            ) from error
        except httpx.ConnectError as error:
            raise EngineAway(self._away(error)) from error
        except (httpx.RemoteProtocolError, httpx.ReadError, httpx.WriteError) as error:
            raise EngineCutOff("{name} broke the connection off in the middle.", name=self.name) from error
        except (httpx.InvalidURL, httpx.UnsupportedProtocol) as error:
            raise EngineAway(
                "“{address}” is no address of a service. It begins with https:// or http://.", address=self.address
            ) from error
        except httpx.HTTPError as error:
            raise EngineFault(
                "{name} could not be asked ({kind}).", name=self.name, kind=type(error).__name__
            ) from error
        if response.status_code >= 300:
            raise refusal(self.name, response, body)
        return read(kind, body, self.name)

    def _body(self, response: httpx.Response) -> bytes:
        """The whole body, bounded."""
        parts, size = [], 0
        for part in response.iter_bytes():
            size += len(part)
            if size > LARGEST_ANSWER:
                raise BadAnswer(
                    "{name} answered with more than {largest_answer} MiB; it was not read.",
                    name=self.name,
                    largest_answer=LARGEST_ANSWER >> 20,
                )
            parts.append(part)
        return b"".join(parts)

    def _away(self, error: httpx.ConnectError) -> str:
        reason: BaseException | None = error
        while reason is not None:
            if isinstance(reason, socket.gaierror):
                return f"{self.name}: the name in {self.address} is not known. Check the address and the network."
            reason = reason.__cause__ or reason.__context__
        return f"{self.name}: nothing answers at {self.address}. Start the service, or check the address."


def longest_s(ssml: str) -> float:
    """The longest a clip of this text may sensibly be."""
    return 10.0 + _CHARACTER_S * len(ssml)


def _digest(file: IO[bytes]) -> bytes:
    """SHA-256 of a file from its beginning, where it stands again afterwards."""
    digest = hashlib.sha256()
    while block := file.read(1 << 20):
        digest.update(block)
    file.seek(0)
    return digest.digest()


@contextmanager
def _as_file(sound: SoundSource, report: Report) -> Iterator[IO[bytes]]:
    """The sound as a FLAC file on disk."""
    with tempfile.TemporaryFile(suffix=".flac") as file:
        written_flac(sound, file, report)
        file.seek(0)
        yield file
