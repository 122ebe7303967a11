"""From sound, captions or a script to segments with words, times and speakers."""

from zweistimme.stages.transcribe.given import transcript_from_file
from zweistimme.stages.transcribe.heard import transcribe

__all__ = ["transcribe", "transcript_from_file"]
