"""Auditions: a person's own lines heard in voices before one is chosen."""

from zweistimme.stages.audition.lines import Telling, line_levels_db, scene_of, telling_lines
from zweistimme.stages.audition.run import Wish, audition, cost_of_auditions, open_auditions, wishes_of
from zweistimme.stages.audition.sounds import (
    as_loud,
    audition_sound,
    auditions_by_segment,
    loudness_lufs,
    original_sound,
    scene_sound,
    speakers_lufs,
)

__all__ = [
    "Telling",
    "Wish",
    "as_loud",
    "audition",
    "audition_sound",
    "auditions_by_segment",
    "cost_of_auditions",
    "line_levels_db",
    "loudness_lufs",
    "open_auditions",
    "original_sound",
    "scene_of",
    "scene_sound",
    "speakers_lufs",
    "telling_lines",
    "wishes_of",
]
