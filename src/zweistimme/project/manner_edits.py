"""How voices speak: edits of manners, of speakers in a version and of single lines; lines with a voice of their own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Final

from zweistimme.project.access import find_line, find_version, put_line, put_version
from zweistimme.project.errors import EditError
from zweistimme.project.model import AS_USUAL, Manner, Project
from zweistimme.project.row_changes import with_rows

_LARGEST_SEED: Final = 1_000_000


def set_manner(project: Project, tag: str, speaker_id: str, manner: Manner) -> Project:
    """Say how a speaker's voice is to speak in a version."""
    version = find_version(project, tag)
    if speaker_id not in project.speakers:
        raise EditError("There is no speaker {speaker_id} in this project.", speaker_id=speaker_id)
    manners = {key: value for key, value in version.manners.items() if key != speaker_id}
    if checked_manner(manner) != AS_USUAL:
        manners[speaker_id] = manner
    return put_version(project, replace(version, manners=manners))


def set_line_manner(project: Project, tag: str, segment_id: str, manner: Manner) -> Project:
    """Say how one line is to be spoken, on top of how its speaker speaks."""
    line = find_line(project, tag, segment_id)
    return put_line(project, tag, replace(line, manner=checked_manner(manner)))


def set_line_manners(project: Project, tag: str, segment_ids: Iterable[str], manner: Manner) -> Project:
    """Say how several lines are to be spoken; those without a wording have no manner."""
    version, checked = find_version(project, tag), checked_manner(manner)
    there = [version.lines[one] for one in segment_ids if one in version.lines]
    changed = {line.segment_id: replace(line, manner=checked) for line in there if line.manner != checked}
    return put_version(project, replace(version, lines=with_rows(version.lines, changed))) if changed else project


def speak_like(project: Project, tag: str, segment_ids: Iterable[str], like: str) -> Project:
    """Have lines spoken as one of them is: in its voice, its manner and by its direction. A voice that is the other
    speaker's anyway is none of its own."""
    version, model = find_version(project, tag), find_line(project, tag, like)
    ids = [one for one in segment_ids if one in version.lines and one != like]
    project = set_line_manners(set_line_voices(project, tag, ids, model.voice), tag, ids, model.manner)
    lines = project.versions[tag].lines
    changed = {one: replace(lines[one], direction=model.direction) for one in ids}
    return put_version(project, replace(project.versions[tag], lines=with_rows(lines, changed))) if ids else project


def set_line_voices(project: Project, tag: str, segment_ids: Iterable[str], voice: str) -> Project:
    """Have lines spoken by a voice of their own; an empty one gives them back to their speakers'. The voice that their
    speaker has anyway is none of their own. How a line is spoken stays, but for quality and seed, which belong to a
    voice."""
    version, speakers = find_version(project, tag), {one.id: one.speaker_id for one in project.segments}
    changed = {}
    for segment_id in segment_ids:
        line = find_line(project, tag, segment_id)
        own = "" if voice == version.cast.get(speakers[segment_id]) else voice
        if own != line.voice:
            changed[segment_id] = replace(line, voice=own, manner=replace(line.manner, tier="", seed=0))
    return put_version(project, replace(version, lines=with_rows(version.lines, changed))) if changed else project


def checked_manner(manner: Manner) -> Manner:
    """The manner; EditError for one that no voice could speak in."""
    if not 0 <= manner.seed <= _LARGEST_SEED:
        raise EditError("The number of a way of speaking lies between 0 and {most}.", most=_LARGEST_SEED)
    if not (0.25 <= manner.rate <= 4 and 0.25 <= manner.pitch <= 4 and -40 <= manner.volume_db <= 20):
        raise EditError("Pace and pitch lie between 0.25 and 4, the level between -40 and 20 dB.")
    return manner


def play_together(project: Project, tag: str, together: bool) -> Project:
    """Have lines that answer each other asked for together, or each alone."""
    return put_version(project, replace(find_version(project, tag), together=together))
