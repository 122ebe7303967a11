"""Where engines are found: installed packages offer them under the entry point group ``zweistimme.engines``."""

from __future__ import annotations

from functools import lru_cache
from importlib.metadata import entry_points

from zweistimme.engines.protocol import Engine, VoiceInfo
from zweistimme.project.errors import EngineError

GROUP = "zweistimme.engines"
DEFAULT = "bundled"


@lru_cache(maxsize=8)
def engine(name: str = DEFAULT) -> Engine:
    """The engine of this name, made once."""
    for point in entry_points(group=GROUP, name=name):
        made: Engine = point.load()()
        return made
    there = ", ".join(sorted(point.name for point in entry_points(group=GROUP))) or "none"
    raise EngineError(f"There is no engine called {name}. Installed: {there}. Run make setup once more.")


def find_voice(voice: str, name: str = DEFAULT) -> VoiceInfo:
    """The voice with this id, or an EngineError that lists those there are."""
    voices = engine(name).info().voices
    for info in voices:
        if info.id == voice:
            return info
    raise EngineError(f"There is no voice {voice}. Voices: {', '.join(info.id for info in voices)}.")
