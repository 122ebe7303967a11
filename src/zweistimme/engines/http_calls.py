"""Asking a service over HTTP: bounded in time and size, each way to fail a sentence of its own."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Final

from zweistimme.engines.cancellation import check_stopped
from zweistimme.engines.refusals import Says, own_meaning, refusal, retry_after_s
from zweistimme.engines.secrets import check_private
from zweistimme.project.errors import BadAnswer, EngineAway, EngineCutOff, EngineFault, EngineRefused

if TYPE_CHECKING:
    import httpx

LARGEST_ANSWER: Final = 256 << 20
"""In bytes: twenty minutes of sound in base64."""
_SLOWEST_BYTES_A_SECOND: Final = 16 << 10
"""What is sent may take as long as it takes at this pace; the wait for the answer comes after."""


@dataclass(frozen=True, slots=True)
class Waits:
    """How long a service is waited for, in seconds: to connect; for a whole answer; at first and at most between two
    looks at a job; for a job that says how far it is and gets no further; without any news of a job, as while the
    network is away; and for a whole job, for each second of sound and at least."""

    connect: float = 10.0
    answer: float = 120.0
    look: float = 0.2
    look_most: float = 5.0
    stuck: float = 300.0
    lost: float = 300.0
    job_a_second: float = 30.0
    job_least: float = 1_800.0


@dataclass(frozen=True, slots=True)
class Answer:
    """What came back, whole."""

    status: int
    headers: Mapping[str, str]
    body: bytes

    @property
    def retry_after_s(self) -> float | None:
        """How long the service asks to wait before the next request, if it does."""
        return retry_after_s(self.headers.get("Retry-After", ""))


class HttpCaller:
    """Connections to one service, used by several threads at once."""

    def __init__(
        self,
        name: str,
        address: str,
        headers: Mapping[str, str],
        waits: Waits,
        *,
        secret: bool,
        says: Says | None = None,
        means: Mapping[str, str] | None = None,
    ) -> None:
        """*secret*: the headers hold a token. *says* finds the reason in a refusal, *means* says what a status means
        where a service uses it in its own way."""
        self.name, self.address, self.waits = name, address.rstrip("/"), waits
        self._headers, self._secret, self._says, self._means = headers, secret, says, means or {}
        self._made: httpx.Client | None = None
        self._making = threading.Lock()

    @property
    def _client(self) -> httpx.Client:
        import httpx

        from zweistimme.engines.punctual_transport import PunctualTransport

        with self._making:
            if self._made is None:
                if self._secret:
                    check_private(self.name, self.address)
                self._made = httpx.Client(
                    base_url=self.address,
                    headers={"User-Agent": "Zweistimme", **self._headers},
                    timeout=httpx.Timeout(self.waits.answer, connect=self.waits.connect),
                    transport=PunctualTransport(self.address, connections=80),
                    follow_redirects=False,
                )
            return self._made

    def close(self) -> None:
        """Let the connections go."""
        with self._making:
            if self._made is not None:
                self._made.close()
                self._made = None

    def ask(self, method: str, path: str, *, sent_bytes: int = 0, **content: Any) -> Answer:
        """The answer to one request, whole. EngineError if there is none that can be used; what a service says by its
        status becomes the error that says whether asking again helps."""
        with self.asking(method, path, sent_bytes=sent_bytes, **content) as (head, pieces):
            return replace(head, body=b"".join(pieces))

    @contextmanager
    def asking(
        self, method: str, path: str, *, sent_bytes: int = 0, **content: Any
    ) -> Iterator[tuple[Answer, Iterator[bytes]]]:
        """The same as it comes: the head of an answer, without its body, and the body in pieces."""
        from zweistimme.engines.punctual_transport import ends_within

        whole_s = self.waits.answer + sent_bytes / _SLOWEST_BYTES_A_SECOND
        with self._in_sentences(), ends_within(whole_s), self._sent(method, path, content) as response:
            if response.status_code >= 300:
                body = b"".join(self._pieces(response))
                status = own_meaning(response.status_code, self._means)
                raise refusal(self.name, self.address, status, response.headers, body, self._says)
            yield Answer(response.status_code, response.headers, b""), self._pieces(response)

    @contextmanager
    def _sent(self, method: str, path: str, content: Mapping[str, Any]) -> Iterator[httpx.Response]:
        """The response to a request that goes where this service is, and nowhere else, whatever its description or an
        answer says: a token, and what a programme says, are given to one origin."""
        import httpx

        request = self._client.build_request(method, path, **content)
        here, there = httpx.URL(self.address), request.url
        if (there.scheme, there.host, there.port) != (here.scheme, here.host, here.port):
            raise EngineRefused(
                "{name} is at {here}, and its description would have {there} asked. Nothing was sent.",
                name=self.name,
                here=self.address,
                there=f"{there.scheme}://{there.netloc.decode()}",
            )
        response = self._client.send(request, stream=True)
        try:
            yield response
        finally:
            response.close()

    def _pieces(self, response: httpx.Response) -> Iterator[bytes]:
        """The body, bounded, whatever it claims to be."""
        size = 0
        announced = response.headers.get("Content-Length", "")
        if announced.isascii() and announced.isdigit() and int(announced[:20]) > LARGEST_ANSWER:
            raise self._too_large()
        for part in response.iter_bytes():
            check_stopped()
            size += len(part)
            if size > LARGEST_ANSWER:
                raise self._too_large()
            yield part

    def _too_large(self) -> BadAnswer:
        return BadAnswer(
            "{name} answered with more than {largest_answer} MiB; it was not read.",
            name=self.name,
            largest_answer=LARGEST_ANSWER >> 20,
        )

    @contextmanager
    def _in_sentences(self) -> Iterator[None]:
        import httpx

        name, address = self.name, self.address
        try:
            yield
        except httpx.ConnectTimeout as error:
            raise EngineAway(
                "{name} did not answer at {address}. Is the address right?", name=name, address=address
            ) from error
        except httpx.TimeoutException as error:
            raise EngineCutOff(
                "{name} did not answer in {answer:.0f} s.", name=name, answer=self.waits.answer
            ) from error
        except httpx.ConnectError as error:
            raise self._away(error) from error
        except (httpx.RemoteProtocolError, httpx.ReadError, httpx.WriteError) as error:
            raise EngineCutOff("{name} broke the connection off in the middle.", name=name) from error
        except httpx.DecodingError as error:
            raise BadAnswer("{name} answered with something whose packing cannot be read.", name=name) from error
        except (httpx.InvalidURL, httpx.UnsupportedProtocol) as error:
            raise EngineAway(
                "“{address}” is no address of a service. It begins with https:// or http://.", address=address
            ) from error
        except httpx.HTTPError as error:
            raise EngineFault("{name} could not be asked ({kind}).", name=name, kind=type(error).__name__) from error

    def _away(self, error: Exception) -> EngineAway:
        reason: BaseException | None = error
        while reason is not None:
            if isinstance(reason, socket.gaierror):
                return EngineAway(
                    "{name}: the name in {address} is not known. Check the address and the network.",
                    name=self.name,
                    address=self.address,
                )
            reason = reason.__cause__ or reason.__context__
        return EngineAway(
            "{name}: nothing answers at {address}. Start the service, or check the address.",
            name=self.name,
            address=self.address,
        )
