"""Lines that answer each other, to be asked for together."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from zweistimme.formats.ssml import ssml_of
from zweistimme.project.pronunciations import AS_WRITTEN, Pronunciations
from zweistimme.project.writing import directed_parts
from zweistimme.stages.voice.open_takes import OpenTake

_APART_US: Final = 1_000_000
"""Who answers later than this answers somebody else."""
_MOST: Final = 12


def exchanges(
    items: Sequence[OpenTake], tag: str, characters: int | None, said: Pronunciations = AS_WRITTEN
) -> list[tuple[OpenTake, ...]]:
    """Lines in their order, gathered where people answer each other: as long as each begins within a second of the end
    of the one before, a dozen at most, and no longer together than an engine takes, mark-up included. A stretch in
    which only one person speaks is asked for line by line, and so is a line in which directions change."""
    groups: list[list[OpenTake]] = []
    for item in items:
        group = groups[-1] if groups else []
        near = bool(group) and item.segment.start_us - group[-1].segment.end_us < _APART_US
        size = sum(len(ssml_of(one.line.text, tag, said)) for one in (*group, item))
        alone = len(directed_parts(item.line.text)) > 1 or (group and len(directed_parts(group[-1].line.text)) > 1)
        if near and not alone and len(group) < _MOST and (characters is None or size <= characters):
            group.append(item)
        else:
            groups.append([item])
    found: list[tuple[OpenTake, ...]] = []
    for group in groups:
        several = len({item.segment.speaker_id for item in group}) > 1
        found += [tuple(group)] if several else [(item,) for item in group]
    return found
