"""From sound, captions or a script to segments with words, times and speakers."""

from zweistimme.stages.transcribe.found import find_speech, kept_regions
from zweistimme.stages.transcribe.given import transcript_from_file
from zweistimme.stages.transcribe.heard import transcribe
from zweistimme.stages.transcribe.recutting import recut_stretch
from zweistimme.stages.transcribe.script import align_script, realign

__all__ = [
    "align_script",
    "find_speech",
    "kept_regions",
    "realign",
    "recut_stretch",
    "transcribe",
    "transcript_from_file",
]
