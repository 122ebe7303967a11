"""Takes: made by an engine for lines that are missing or stale, or imported from a folder of clips."""

from zweistimme.stages.voice.by_engine import voice
from zweistimme.stages.voice.from_folder import import_clips, import_takes, unnumbered
from zweistimme.stages.voice.manners import manner_for
from zweistimme.stages.voice.open_takes import OpenTake, open_takes, takes_anew

__all__ = ["OpenTake", "import_clips", "import_takes", "manner_for", "open_takes", "takes_anew", "unnumbered", "voice"]
