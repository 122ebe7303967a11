"""What stands where: voices downwards, the person's lines across, the original above them all."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zweistimme.project.auditions import Audition, Standing, standings
from zweistimme.project.model import Project, Segment
from zweistimme.stages.audition import Telling, telling_lines

MOST_LINES = 8


@dataclass(frozen=True, slots=True)
class Sheet:
    """Auditions of one person in one version. *voices* are in the order of their rows; *cells* by voice and segment;
    *standing* by voice."""

    speaker: str
    lines: tuple[Segment, ...]
    telling: Mapping[str, Telling]
    voices: tuple[str, ...]
    cells: Mapping[tuple[str, str], Audition]
    standing: Mapping[str, Standing]

    def at(self, voice: str, segment_id: str) -> Audition | None:
        """The latest audition of a line in a voice."""
        return self.cells.get((voice, segment_id))


def sheet_of(
    project: Project, tag: str, speaker: str, levels_db: Mapping[str, float], more: Sequence[str] = (), blind: int = 0,
    order: Sequence[str] = (),
) -> Sheet:  # fmt: skip
    """The sheet of a person: the lines that tell most, those heard before, and *more*; the voice they have, then
    those heard, as they stand; those in *order* keep it, so that no row goes away from under a hand. *blind* is a
    number to shuffle the voices by, so that nobody knows them by their place."""
    version = project.versions[tag]
    own = {segment.id: segment for segment in project.segments if segment.speaker_id == speaker}
    made = [one for one in version.auditions.values() if one.segment_id in own]
    telling = telling_lines(project, tag, speaker, levels_db)
    wanted = dict.fromkeys((*telling, *(one.segment_id for one in made), *(key for key in more if key in own)))
    lines = tuple(segment for segment in own.values() if segment.id in [*wanted][:MOST_LINES])
    ranked = standings(made)
    cast = version.cast.get(speaker)
    there = [*dict.fromkeys(([cast] if cast else []) + [one.voice for one in ranked])]
    voices = [*(voice for voice in order if voice in there), *(voice for voice in there if voice not in order)]
    if blind:
        voices = sorted(set(voices))
        random.Random(blind).shuffle(voices)
    return Sheet(
        speaker, lines, telling, tuple(voices), {(one.voice, one.segment_id): one for one in made},
        {one.voice: one for one in ranked},
    )  # fmt: skip
