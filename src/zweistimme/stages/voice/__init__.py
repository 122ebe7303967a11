"""Takes: made by an engine for lines that are missing or stale, or imported from a folder of clips."""

from zweistimme.stages.voice.by_engine import open_takes, voice
from zweistimme.stages.voice.from_folder import import_takes

__all__ = ["import_takes", "open_takes", "voice"]
