"""The engines a person has connected: a list of names, kinds and places, kept among the desk's settings. No secrets."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Final
from urllib.parse import urlsplit

import msgspec
import platformdirs

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import EngineError, StoreError

BUNDLED: Final = "bundled"


class Kind(StrEnum):
    """How an engine is reached."""

    BUNDLED = "bundled"
    SERVICE = "service"
    PROGRAM = "program"


@dataclass(frozen=True, slots=True)
class Connection:
    """One engine: *place* is the address of a service, or the TOML file of a program."""

    name: str
    kind: Kind
    place: str = ""


def settings_file() -> Path:
    """Where the list is kept."""
    return Path(platformdirs.user_config_dir("zweistimme")) / "engines.json"


def connections() -> list[Connection]:
    """All connections, the bundled engine first."""
    file = settings_file()
    first = [Connection(BUNDLED, Kind.BUNDLED)]
    try:
        data = file.read_bytes()
    except FileNotFoundError:
        return first
    except OSError as error:
        raise StoreError(
            "{file} cannot be read: {why}. Check its permissions.", file=file, why=error.strerror
        ) from error
    try:
        return first + msgspec.json.decode(data, type=list[Connection])
    except msgspec.MsgspecError as error:
        raise StoreError(
            "{file} is damaged: {why}. Correct it, or remove it and connect the engines anew.", file=file, why=error
        ) from error


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
    kept = [known for known in connections()[1:] if known.name != name]
    made = Connection(name, connection.kind, connection.place.strip())
    _write([*kept, made])
    return made


def disconnect(name: str) -> None:
    """Remove a connection."""
    known = connections()[1:]
    if name not in {connection.name for connection in known}:
        there = ", ".join(connection.name for connection in known) or "none"
        raise EngineError("There is no connection called {name} to remove. Connected: {there}.", name=name, there=there)
    _write([connection for connection in known if connection.name != name])


def _write(kept: list[Connection]) -> None:
    written_text(settings_file(), msgspec.json.format(msgspec.json.encode(kept)).decode() + "\n")


def _check_address(address: str) -> None:
    try:
        parts = urlsplit(address)
    except ValueError:  # a bracket that is not closed
        parts = urlsplit("")
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise EngineError(
            "“{address}” is no address of a service. It begins with https:// or http://.", address=address
        )
    if parts.username or parts.password or parts.query:
        raise EngineError("An address holds no name, password or token; the token is kept in the secret store.")
