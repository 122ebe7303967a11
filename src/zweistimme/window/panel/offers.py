"""Wordings on offer for the selected line: what the memory has, with what was said there, and what engines gave."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from zweistimme.messages import tr
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.project.text_changes import changes
from zweistimme.project.times import SECOND_US
from zweistimme.project.units import Match
from zweistimme.project.wordings import Origin, OriginKind
from zweistimme.stages.fit.slot import voice_pace
from zweistimme.window.panel.marked_text import marked_changes


@dataclass(frozen=True, slots=True)
class OfferRow:
    """A wording on offer as it is shown: how long it will take to say, whether that is *shorter* than what is there,
    and of a match how alike (*share*) and what was *said* there, as marked text."""

    text: str
    origin: Origin | None
    length: str
    shorter: bool
    share: str = ""
    said: str = ""


def offer_rows(
    project: Project, version: Version, segment: Segment, line: Line | None, matches: Sequence[Match]
) -> list[OfferRow]:
    """All there is for a line, matches first; nothing twice, and not what it says already."""
    text = line.text if line else ""
    pace = voice_pace(project, version, segment)
    now_us = pace.spoken_us(text)

    def length(wording: str) -> tuple[str, bool]:
        spoken_us = pace.spoken_us(wording)
        return tr("{seconds:.1f} s", seconds=spoken_us / SECOND_US), spoken_us < now_us

    rows: dict[str, OfferRow] = {}
    for match, share, said in _of_memory(project, segment, matches):
        origin = Origin(OriginKind.MEMORY, match.unit.origin, match.percent)
        rows.setdefault(match.target, OfferRow(match.target, origin, *length(match.target), share, said))
    for offer in line.offers if line else ():
        rows.setdefault(offer.text, OfferRow(offer.text, offer.origin, *length(offer.text)))
    return [row for row in rows.values() if row.text != text]


def _of_memory(project: Project, segment: Segment, matches: Sequence[Match]) -> Iterator[tuple[Match, str, str]]:
    for match in matches:
        if match.in_context:
            share = tr("{percent} %, in context", percent=match.percent)
        elif match.exchanged:
            share = tr("{percent} %, exchanged", percent=match.percent)
        else:
            share = tr("{percent} %", percent=match.percent)
        parts = changes(match.unit.source, segment.text, project.source_tag)
        yield match, share, "" if match.percent == 100 else marked_changes(parts)
