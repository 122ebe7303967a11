"""Where engines are found: the bundled one by the entry point group ``zweistimme.engines``, others by connection."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.metadata import entry_points
from pathlib import Path

from zweistimme.engines.connections import BUNDLED, Connection, Kind, connections
from zweistimme.engines.program import ProgramEngine
from zweistimme.engines.protocol import Engine, EngineInfo, Role, Usage, VoiceInfo
from zweistimme.engines.secrets import token_for
from zweistimme.engines.service import ServiceEngine
from zweistimme.engines.voices import split_voice, voice_ref
from zweistimme.project.errors import EngineError, ZweistimmeError

GROUP = "zweistimme.engines"


def engine(name: str = BUNDLED) -> Engine:
    """The engine of this name; EngineError lists those there are."""
    if name == BUNDLED:
        return _bundled()
    for connection in connections():
        if connection.name == name:
            return _connected(connection, token_for(name) if connection.kind is Kind.SERVICE else None)
    there = ", ".join(connection.name for connection in connections())
    raise EngineError(f"There is no engine called {name}. Connected: {there}.")


@lru_cache(maxsize=1)
def _bundled() -> Engine:
    for point in entry_points(group=GROUP, name=BUNDLED):
        made: Engine = point.load()()
        return made
    raise EngineError("The bundled engine is not installed. Run make setup once more.")


@lru_cache(maxsize=16)
def _connected(connection: Connection, token: str | None) -> Engine:
    """A client is made once for a place and a token; a changed token or address makes a new one."""
    if connection.kind is Kind.SERVICE:
        return ServiceEngine(connection.name, connection.place, token)
    return ProgramEngine(connection.name, Path(connection.place))


def find_voice(ref: str) -> VoiceInfo:
    """The voice that a cast names, or an EngineError that lists those there are."""
    name, voice = split_voice(ref)
    voices = engine(name).info().voices
    for info in voices:
        if info.id == voice:
            return info
    raise EngineError(f"There is no voice {ref}. Voices: {', '.join(voice_ref(name, info.id) for info in voices)}.")


@dataclass(frozen=True, slots=True)
class Tested:
    """What a test of a connection found: what the engine says of itself, or why it fails, in a sentence."""

    connection: Connection
    info: EngineInfo | None = None
    usage: Usage | None = None
    problem: str = ""


def tested(connection: Connection) -> Tested:
    """Ask an engine who it is and what was used so far."""
    try:
        if connection.kind is Kind.PROGRAM:
            _connected.cache_clear()  # its description may have been edited
        asked = engine(connection.name)
        info = asked.info()
        return Tested(connection, info, asked.usage())
    except ZweistimmeError as error:
        return Tested(connection, problem=str(error))


def able(role: Role) -> list[str]:
    """Names of the connections that can be asked for *role*, as far as they answer."""
    return [found.connection.name for found in map(tested, connections()) if found.info and role in found.info.roles]
