"""Listening examples: a version as a whole in several fits, dry and in a room."""

from __future__ import annotations

from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Final

from zweistimme.media.encode import SoundFormat
from zweistimme.project.access import find_version
from zweistimme.project.edits import set_placements
from zweistimme.project.errors import EngineError
from zweistimme.project.model import Placement, Project
from zweistimme.project.sound_delivery import Part
from zweistimme.sound.room_response import Room
from zweistimme.stages.file_names import slug
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.taken import TakenLine, speech_us
from zweistimme.stages.mix.gain import house_preset
from zweistimme.stages.mix.lanes import DubLane
from zweistimme.stages.mix.measure import measured_mix
from zweistimme.stages.mix.opening import MixLanes, opened_mix
from zweistimme.stages.mix.outputs import Wanted
from zweistimme.stages.mix.write import written_lanes
from zweistimme.stages.work import Work

WAYS: Final = ("uniform", "by-line", "by-phrase")
_USUAL_ROOM_S: Final = 0.6


def write_fit_examples(work: Work, tag: str, folder: Path, room_s: float | None = None) -> list[Path]:
    """Write a version stretched to its slots, planned line by line, and phrase by phrase; each dry, and in the room
    of the original, or in one that rings *room_s* (0.6 s where the original has none)."""
    lines = taken_lines(work.project, tag)
    if not lines:
        raise EngineError("{tag} has no takes to fit yet. Voice the lines or import takes first.", tag=tag)
    written = []
    for number, way in enumerate(WAYS):
        project = set_placements(work.project, tag, _placements(work.project, tag, lines, way))
        part = replace(work, project=project, report=work.part(number / len(WAYS), (number + 1) / len(WAYS)))
        written += _mixes(part, tag, folder, way, room_s)
    return written


def _placements(project: Project, tag: str, lines: list[TakenLine], way: str) -> list[Placement]:
    if way != "uniform":
        return planned(project, tag, lines, by_phrase=way == "by-phrase")
    return [
        Placement(
            item.segment.id,
            item.take.id,
            item.segment.start_us,
            item.segment.end_us - item.segment.start_us,
            speech_us(item.take) / max(1, item.segment.end_us - item.segment.start_us),
            (),
            "",
        )
        for item in lines
    ]


def _mixes(work: Work, tag: str, folder: Path, way: str, room_s: float | None) -> list[Path]:
    version = find_version(work.project, tag)
    preset = house_preset(work.project, version)
    name = f"{slug(work.project.title)}.{tag}.{way}"
    found = []
    with ExitStack() as stack:
        lanes, takes = opened_mix(work, tag, stack)
        rooms = dict(lanes.sitting.rooms)
        if room_s is not None or not rooms:
            room = Room((room_s or _USUAL_ROOM_S,) * 4)
            rooms = {item.segment.id: (room, 1.0) for item in takes}
        for called, those in (("dry", {}), ("room", rooms)):
            sitting = replace(lanes.sitting, rooms=those)
            heard = MixLanes(DubLane(takes, sitting, work.clips, work.cache), lanes.under, lanes.length, sitting)
            measure = measured_mix((block.dub, block.sides) for block in heard.blocks(lambda _share: None))
            wanted = Wanted(folder / f"{name}.{called}.wav", called, preset, Part.MIX, SoundFormat(2))
            written_lanes(heard, [wanted], {called: measure.gain_db(preset)}, None, work.report)
            found.append(wanted.path)
    return found
