"""From sound, captions or a script to segments with words, times and speakers."""

from zweistimme.stages.transcribe.diarize import find_speech, kept_regions
from zweistimme.stages.transcribe.from_file import transcript_from_file
from zweistimme.stages.transcribe.recognise import transcribe
from zweistimme.stages.transcribe.recut import recut_stretch
from zweistimme.stages.transcribe.script import align_script
from zweistimme.stages.transcribe.word_times import realign

__all__ = [
    "align_script",
    "find_speech",
    "kept_regions",
    "realign",
    "recut_stretch",
    "transcribe",
    "transcript_from_file",
]
