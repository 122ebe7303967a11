"""The engines a person has connected: a list of names, kinds and places, kept among the desk's settings. No secrets."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from importlib.metadata import entry_points
from pathlib import Path
from typing import Final
from urllib.parse import urlsplit

import msgspec
import platformdirs

from zweistimme.engines.origin import origin_of
from zweistimme.media.atomic import written_text
from zweistimme.project.errors import EngineError, StoreError

BUNDLED: Final = "bundled"
GROUP: Final = "zweistimme.engines"


class Kind(StrEnum):
    """How an engine is reached."""

    BUNDLED = "bundled"
    SERVICE = "service"
    PROGRAM = "program"
    MAPPED = "mapped"
    PYTHON = "python"


@dataclass(frozen=True, slots=True)
class Connection:
    """One engine: *place* is the address of a service, the TOML file of a program or of a service of another shape,
    or the factory of a Python engine; *agreed* is the SHA-256 of the description of a mapped service as it was when it
    was connected."""

    name: str
    kind: Kind
    place: str = ""
    agreed: str = ""


def settings_file() -> Path:
    """Where the list is kept."""
    return Path(platformdirs.user_config_dir("zweistimme")) / "engines.json"


def connections() -> list[Connection]:
    """All connections: the bundled engine, those of installed packages, those a person has made."""
    file = settings_file()
    first = [Connection(BUNDLED, Kind.BUNDLED), *installed()]
    try:
        data = file.read_bytes()
    except FileNotFoundError:
        return first
    except OSError as error:
        raise StoreError("{file} cannot be read: {why}. Check its permissions.", file=file, why=error) from error
    try:
        return first + [one for one in msgspec.json.decode(data, type=list[Connection]) if one not in first]
    except msgspec.MsgspecError as error:
        raise StoreError(
            "{file} is damaged: {why}. Correct it, or remove it and connect the engines anew.", file=file, why=error
        ) from error


@lru_cache(maxsize=1)
def installed() -> tuple[Connection, ...]:
    """The engines that installed packages offer, by the entry point group ``zweistimme.engines``."""
    points = sorted(entry_points(group=GROUP), key=lambda point: point.name)
    return tuple(Connection(point.name, Kind.PYTHON, point.value) for point in points if point.name != BUNDLED)


def find_connection(name: str) -> Connection:
    """The connection of this name; EngineError lists those there are."""
    known = connections()
    for connection in known:
        if connection.name == name:
            return connection
    raise EngineError(
        "There is no engine called {name}. Connected: {names}.", name=name, names=", ".join(c.name for c in known)
    )


def connect(connection: Connection) -> Connection:
    """Add a connection, or replace the one of its name; the connection as it is kept."""
    name = connection.name.strip()
    if not name or name == BUNDLED or len(name) > 60:
        raise EngineError(
            "A connection needs a name of its own, at most 60 letters long and not “{bundled}”.", bundled=BUNDLED
        )
    if not name.isprintable():
        raise EngineError("The name of a connection is one line, without signs that cannot be seen.")
    if "/" in name or "=" in name:
        raise EngineError("The name of a connection has no “/” or “=” in it; casts and commands need them.")
    if connection.kind is Kind.SERVICE:
        _check_address(connection.place)
    if name in {one.name for one in installed()}:
        raise EngineError("An installed package offers an engine called {name}. Choose another name.", name=name)
    kept = [known for known in _kept() if known.name != name]
    made = Connection(name, connection.kind, connection.place.strip(), connection.agreed)
    _write([*kept, made])
    return made


def disconnect(name: str) -> Connection:
    """Remove a connection; what it was."""
    known = _kept()
    if name not in {connection.name for connection in known}:
        there = ", ".join(connection.name for connection in known) or "none"
        raise EngineError("There is no connection called {name} to remove. Connected: {there}.", name=name, there=there)
    _write([connection for connection in known if connection.name != name])
    return next(connection for connection in known if connection.name == name)


def _kept() -> list[Connection]:
    """Those a person has made."""
    return connections()[1 + len(installed()) :]


def _write(kept: list[Connection]) -> None:
    written_text(settings_file(), msgspec.json.format(msgspec.json.encode(kept)).decode() + "\n")


def _check_address(address: str) -> None:
    origin_of(address)
    parts = urlsplit(address)
    if parts.username or parts.password or parts.query:
        raise EngineError("An address holds no name, password or token; the token is kept in the secret store.")
