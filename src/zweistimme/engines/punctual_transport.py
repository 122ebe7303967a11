"""HTTP whose answers end in time: a limit for each whole answer, however slowly its bytes come.

The usual limits hold for a single read. A service that sends a byte every few seconds keeps every one of them and is
never done; here each read waits only as long as the whole answer still may.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, Final
from urllib.parse import urlsplit
from urllib.request import getproxies, proxy_bypass

import httpcore
import httpx

from zweistimme.store.settings import PROXY, read_settings

_end: Final[ContextVar[float | None]] = ContextVar("end", default=None)


@contextmanager
def ends_within(seconds: float) -> Iterator[None]:
    """What this thread asks in here is answered in whole within so many seconds, or httpx.ReadTimeout is raised."""
    token = _end.set(time.monotonic() + seconds)
    try:
        yield
    finally:
        _end.reset(token)


def _left(usual: float | None, error: type[Exception]) -> float | None:
    """How long one step may take: as usual, but not beyond the end of the whole."""
    end = _end.get()
    if end is None:
        return usual
    left = end - time.monotonic()
    if left <= 0:
        raise error("the whole answer took too long")
    return left if usual is None else min(left, usual)


class _Stream(httpcore.NetworkStream):
    def __init__(self, stream: httpcore.NetworkStream) -> None:
        self._stream = stream

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        return self._stream.read(max_bytes, _left(timeout, httpcore.ReadTimeout))

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self._stream.write(buffer, _left(timeout, httpcore.WriteTimeout))

    def close(self) -> None:
        self._stream.close()

    def start_tls(self, *args: Any, **more: Any) -> httpcore.NetworkStream:
        return _Stream(self._stream.start_tls(*args, **more))

    def get_extra_info(self, info: str) -> Any:
        return self._stream.get_extra_info(info)


_HERE: Final = ("localhost", "127.0.0.1", "::1")
"""What is reached without the proxy that is set for what is elsewhere."""


class _Network(httpcore.NetworkBackend):
    def __init__(self) -> None:
        self._network = httpcore.SyncBackend()

    def connect_tcp(self, *args: Any, **more: Any) -> httpcore.NetworkStream:
        return _Stream(self._network.connect_tcp(*args, **more))


class PunctualTransport(httpx.BaseTransport):
    """Connections to one address, by the proxy that is set or that the environment names for it."""

    def __init__(self, address: str, connections: int) -> None:
        proxy = _proxy_for(address)
        self._pool = httpcore.ConnectionPool(
            ssl_context=httpx.create_ssl_context(),
            proxy=httpcore.Proxy(proxy) if proxy else None,
            max_connections=connections,
            keepalive_expiry=5.0,
            network_backend=_Network(),
        )

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        """Send a request; its body is read by whoever holds the answer."""
        assert isinstance(request.stream, httpx.SyncByteStream)
        with _as_httpx_says():
            answer = self._pool.handle_request(
                httpcore.Request(
                    method=request.method,
                    url=httpcore.URL(
                        scheme=request.url.raw_scheme,
                        host=request.url.raw_host,
                        port=request.url.port,
                        target=request.url.raw_path,
                    ),
                    headers=request.headers.raw,
                    content=request.stream,
                    extensions=request.extensions,
                )
            )
        assert isinstance(answer.stream, Iterable)
        return httpx.Response(
            answer.status, headers=answer.headers, stream=_Body(answer.stream), extensions=answer.extensions
        )

    def close(self) -> None:
        """Let the connections go."""
        self._pool.close()


class _Body(httpx.SyncByteStream):
    def __init__(self, stream: Iterable[bytes]) -> None:
        self._stream = stream

    def __iter__(self) -> Iterator[bytes]:
        with _as_httpx_says():
            yield from self._stream

    def close(self) -> None:
        if hasattr(self._stream, "close"):
            self._stream.close()


@contextmanager
def _as_httpx_says() -> Iterator[None]:
    """The errors of the layer below bear the same names."""
    try:
        yield
    except (httpcore.TimeoutException, httpcore.NetworkError, httpcore.ProtocolError, httpcore.ProxyError) as error:
        raise getattr(httpx, type(error).__name__, httpx.TransportError)(str(error)) from error
    except httpcore.UnsupportedProtocol as error:
        raise httpx.UnsupportedProtocol(str(error)) from error


def _proxy_for(address: str) -> str | None:
    parts = urlsplit(address)
    host = parts.hostname or ""
    if proxy_bypass(host):
        return None
    chosen = read_settings().text(PROXY)
    if chosen:
        return None if host in _HERE or host.endswith(".localhost") else chosen
    known = getproxies()
    return known.get(parts.scheme) or known.get("all")
