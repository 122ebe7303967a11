"""Takes: made by an engine for lines that are missing or stale, or imported from a folder of clips."""

from zweistimme.stages.voice.by_engine import OpenTake, open_takes, takes_anew, voice
from zweistimme.stages.voice.from_folder import import_takes

__all__ = ["OpenTake", "import_takes", "open_takes", "takes_anew", "voice"]
