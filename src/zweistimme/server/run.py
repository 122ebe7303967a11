"""Running the server: until it is stopped, or around a block of code."""

from __future__ import annotations

import ipaddress
import logging
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.protocol import Engine
from zweistimme.engines.registry import engine
from zweistimme.project.errors import EngineError
from zweistimme.server.account import Terms
from zweistimme.server.app import make_app
from zweistimme.server.faults import Faults, FaultyApp

if TYPE_CHECKING:
    import uvicorn


@dataclass(frozen=True, slots=True)
class Serving:
    """What is offered, where, to whom, and with which faults."""

    engine: str = BUNDLED
    address: str = "127.0.0.1"
    port: int = 0
    token: str | None = None
    faults: Faults = field(default_factory=Faults)
    terms: Terms = field(default_factory=Terms)


def _is_open(address: str) -> bool:
    """Whether others than this machine can reach an address."""
    try:
        return not ipaddress.ip_address(address).is_loopback
    except ValueError:
        return address != "localhost"


def serve_engine(serving: Serving, say: Callable[[str], None], offered: Engine | None = None) -> None:
    """Serve until stopped by Ctrl-C."""
    server, listening = _prepared(serving, _app(serving, offered or engine(serving.engine)))
    place, port = listening.getsockname()[:2]
    say(f"{serving.engine} is offered at http://{place}:{port} (stop with Ctrl-C)")
    if serving.faults.shares:
        say("With faults: " + ", ".join(f"{name} {share:.0%}" for name, share in serving.faults.shares.items()))
    server.run([listening])


@contextmanager
def running(serving: Serving, offered: Engine | None = None) -> Iterator[str]:
    """The server on a thread of its own; its address."""
    with running_app(_app(serving, offered or engine(serving.engine)), serving) as address:
        yield address


@contextmanager
def running_app(app: Any, serving: Serving) -> Iterator[str]:
    """Any application on a thread of its own, at the address and with the faults of *serving*; its address."""
    server, listening = _prepared(serving, app)
    thread = threading.Thread(target=server.run, args=([listening],), name="server", daemon=True)
    thread.start()
    while not server.started and thread.is_alive():
        time.sleep(0.01)
    place, port = listening.getsockname()[:2]
    try:
        yield f"http://{place}:{port}"
    finally:
        server.should_exit = True
        server.force_exit = True
        thread.join(10)
        listening.close()


def _app(serving: Serving, offered: Engine) -> Any:
    return make_app(offered, token=serving.token, terms=serving.terms)


def _prepared(serving: Serving, app: Any) -> tuple[uvicorn.Server, socket.socket]:
    import uvicorn

    if serving.token is None and _is_open(serving.address):
        raise EngineError(
            "{address} can be reached from other machines, so a token is needed. Give --token-file.",
            address=serving.address,
        )
    if serving.faults.shares:
        app = FaultyApp(app, serving.faults)
    config = uvicorn.Config(app, log_level="warning", access_log=False, lifespan="off", timeout_keep_alive=30)
    if serving.faults.shares:
        logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)  # what breaks there is meant to
    family = socket.AF_INET6 if ":" in serving.address else socket.AF_INET
    listening = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # else small answers wait for an acknowledgement
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((serving.address, serving.port))
    except OSError as error:
        listening.close()
        raise EngineError(
            "{address}, port {port}, cannot be listened at ({why}). Choose another --port.",
            address=serving.address,
            port=serving.port,
            why=error,
        ) from error
    listening.listen(128)
    return uvicorn.Server(config), listening
