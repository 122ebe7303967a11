"""Making and ending connections: a description is looked at before it is kept, a token goes where it belongs."""

from __future__ import annotations

from pathlib import Path

from zweistimme.engines.connections import Connection, Kind, connect, disconnect
from zweistimme.engines.described import checksum_of, toml_in
from zweistimme.engines.mapped_description import service_map_from
from zweistimme.engines.program_description import description_from
from zweistimme.engines.python_engine import loaded
from zweistimme.engines.registry import address_of
from zweistimme.engines.secrets import check_private, forget_token, keep_token
from zweistimme.project.errors import EngineError, FormatError


def connect_service(name: str, address: str, token: str = "") -> Connection:
    """Connect a service that speaks the protocol."""
    return _kept(Connection(name, Kind.SERVICE, address), token)


def connect_described(name: str, file: Path, token: str = "") -> Connection:
    """Connect what a TOML file describes: a service of another shape if it has an address, else a program."""
    place = file.expanduser().resolve()
    if "address" in toml_in(place):
        service_map_from(place)
        return _kept(Connection(name, Kind.MAPPED, str(place), agreed=checksum_of(place)), token)
    description_from(place)
    return _kept(Connection(name, Kind.PROGRAM, str(place)), token)


def connect_python(name: str, factory: str) -> Connection:
    """Connect a Python engine by its factory."""
    module, colon, rest = factory.rpartition(":")
    if module.endswith(".py"):
        factory = f"{Path(module).expanduser().resolve()}{colon}{rest}"
    loaded(name, factory)
    return _kept(Connection(name, Kind.PYTHON, factory), "")


def remove_connection(name: str) -> Connection:
    """Remove a connection and its token; what it was."""
    gone = disconnect(name)
    try:
        address = address_of(gone)
    except FormatError:  # the description is gone as well, and with it the address
        address = ""
    if address:
        forget_token(name, address)
    return gone


def keep_token_of(connection: Connection, token: str) -> None:
    """Keep the token of a connection; EngineError if it is none that has one."""
    address = address_of(connection)
    if not address:
        raise EngineError("{name} is no service; only a service has a token.", name=connection.name)
    keep_token(connection.name, address, token)


def _kept(connection: Connection, token: str) -> Connection:
    if token:  # else there would be a connection whose token nobody has
        check_private(connection.name, address_of(connection))
    made = connect(connection)
    if token:
        keep_token_of(made, token)
    return made
