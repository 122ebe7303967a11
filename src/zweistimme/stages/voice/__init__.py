"""Takes: made by an engine for lines that are missing or stale, or imported from a folder of clips."""

from zweistimme.stages.voice.imported import import_takes
from zweistimme.stages.voice.made import open_takes, voice

__all__ = ["import_takes", "open_takes", "voice"]
