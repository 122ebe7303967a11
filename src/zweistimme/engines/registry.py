"""Where engines are found: the bundled one by the entry point group ``zweistimme.engines``, others by connection."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from importlib.metadata import entry_points
from pathlib import Path

from zweistimme.engines.connections import BUNDLED, GROUP, Connection, Kind, find_connection
from zweistimme.engines.offers import EngineInfo, Usage, VoiceInfo
from zweistimme.engines.protocol import Engine
from zweistimme.engines.secrets import token_for
from zweistimme.engines.voices import split_voice
from zweistimme.project.errors import EngineError, ZweistimmeError


def engine(name: str = BUNDLED) -> Engine:
    """The engine of this name; EngineError lists those there are."""
    if name == BUNDLED:
        return _bundled()
    return _connected(find_connection(name))


def answering(names: Iterable[str]) -> dict[str, Engine]:
    """Those of the named engines that are there and say what they offer; why another does not is for its test."""
    there: dict[str, Engine] = {}
    for name in names:
        try:
            asked = engine(name)
            asked.info()
        except ZweistimmeError:
            continue
        there[name] = asked
    return there


@lru_cache(maxsize=1)
def _bundled() -> Engine:
    for point in entry_points(group=GROUP, name=BUNDLED):
        made: Engine = point.load()()
        return made
    raise EngineError("The bundled engine is not installed. Run make setup once more.")


_clients: dict[str, tuple[tuple[object, ...], Engine]] = {}


def _connected(connection: Connection) -> Engine:
    """A client is made once for a place and a token, or a description; when one of these changes, a new one is."""
    address, changed = address_of(connection), 0.0
    token = token_for(connection.name, address) if address else None
    if Path(connection.place).is_file():
        changed = Path(connection.place).stat().st_mtime
    key = (connection, token, changed)
    known = _clients.get(connection.name)
    if known is not None and known[0] == key:
        return known[1]
    made = _made(connection, token)
    if known is not None:
        known[1].close()
    _clients[connection.name] = key, made
    return made


def _made(connection: Connection, token: str | None) -> Engine:
    """Each kind is loaded where there is one: most desks have one or two."""
    name, place = connection.name, connection.place
    match connection.kind:
        case Kind.SERVICE:
            from zweistimme.engines.service import ServiceEngine

            return ServiceEngine(name, place, token)
        case Kind.MAPPED:
            from zweistimme.engines.described import check_agreed
            from zweistimme.engines.mapped import MappedEngine

            check_agreed(connection)
            return MappedEngine(name, Path(place), token)
        case Kind.PYTHON:
            from zweistimme.engines.python_engine import PythonEngine

            return PythonEngine(name, place)
        case _:
            from zweistimme.engines.program import ProgramEngine

            return ProgramEngine(name, Path(place))


def address_of(connection: Connection) -> str:
    """Where a connection's token may be shown; empty for what has none."""
    if connection.kind is Kind.SERVICE:
        return connection.place
    if connection.kind is not Kind.MAPPED:
        return ""
    from zweistimme.engines.mapped_description import service_map_from

    return service_map_from(Path(connection.place)).address


def close_engines() -> None:
    """Let all connections go."""
    while _clients:
        _clients.popitem()[1][1].close()


def find_voice(ref: str) -> VoiceInfo:
    """The voice that a cast names, or an EngineError that lists those there are."""
    name, voice = split_voice(ref)
    return engine(name).info().voice(voice)


@dataclass(frozen=True, slots=True)
class Examined:
    """What a test of a connection found: what the engine says of itself, or why it fails, in a sentence."""

    connection: Connection
    info: EngineInfo | None = None
    usage: Usage | None = None
    problem: str = ""


def examined(connection: Connection) -> Examined:
    """Ask an engine who it is and what was used so far: now, whatever it said before."""
    try:
        asked = engine(connection.name)
        info = asked.info(anew=True)
    except ZweistimmeError as error:
        return Examined(connection, problem=str(error))
    try:
        return Examined(connection, info, asked.usage())
    except EngineError:
        return Examined(connection, info)  # it works without telling its account
