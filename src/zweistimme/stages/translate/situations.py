"""What an engine is told beside the words: the terms in them, who says them to whom, and what the picture shows."""

from __future__ import annotations

import base64
from collections.abc import Iterable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from typing import Final

from zweistimme.engines.offers import EngineInfo
from zweistimme.engines.protocol import About, Situation, Term, TranslationItem
from zweistimme.media.picture import PictureReader
from zweistimme.media.stills import jpeg_of
from zweistimme.project.access import find_version
from zweistimme.project.conversation import address_at, listeners
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.term_book import term_book
from zweistimme.project.times import SECOND_US
from zweistimme.stages.work import Work, source_of

_WIDTH: Final = 320
_MOST_TERMS: Final = 5_000
"""A request has no more."""


def terms_for(project: Project, tag: str, texts: Iterable[str], *, whole: bool) -> tuple[Term, ...]:
    """What terms that are said in *texts* must become; *whole*: with what is not to be used for them, and notes."""
    book = term_book(project, tag)
    found: dict[str, Term] = {}
    for text in texts:
        for said in book.said(text):
            rendering = said.rendering
            if rendering.text and said.term.source not in found:
                more = (rendering.forbidden, said.term.note) if whole else ()
                found[said.term.source] = Term(said.term.source, rendering.text, *more)
    return tuple(found.values())[:_MOST_TERMS]


def about_of(project: Project, info: EngineInfo) -> About | None:
    """The notes on the programme, for an engine that takes them; None where there are none."""
    brief = project.brief
    about = About(brief.subject, brief.audience, brief.notes)
    return about if info.situations and about != About() else None


def with_situations(work: Work, tag: str, items: Sequence[TranslationItem], info: EngineInfo) -> list[TranslationItem]:
    """Items with what their engine takes beside the words; as they are where it takes nothing."""
    if not info.situations:
        return list(items)
    project, lines = work.project, find_version(work.project, tag).lines
    segments = {segment.id: segment for segment in project.segments}
    to = listeners(project)
    names = {key: speaker.name for key, speaker in project.speakers.items()}
    placed = []
    with ExitStack() as stack:
        reader = _reader(work, stack) if info.pictures else None
        for item in items:
            segment, line = segments[item.id], lines.get(item.id)
            placed.append(
                replace(
                    item,
                    situation=Situation(
                        names.get(segment.speaker_id, ""),
                        names.get(to.get(item.id, ""), ""),
                        address_at(project, segment).value,
                        line.direction if line else "",
                        segment.on_screen,
                        _still(reader, (segment.start_us + segment.end_us) / 2 / SECOND_US),
                    ),
                )
            )
    return placed


def _reader(work: Work, stack: ExitStack) -> PictureReader | None:
    """What reads the programme's picture, for as long as *stack* is open; None, and said, where it cannot be read."""
    programme = work.project.programme
    if programme is None or programme.picture is None:
        return None
    try:
        reader = PictureReader(source_of(work, programme.sound), programme.sound.duration_us / SECOND_US)
    except ZweistimmeError as error:
        work.say(Finding("pictures-not-sent", {"why": str(error)}))
        return None
    stack.callback(reader.close)
    return reader


def _still(reader: PictureReader | None, at_s: float) -> str | None:
    picture = reader.at(at_s, _WIDTH) if reader is not None else None
    return None if picture is None else base64.b64encode(jpeg_of(picture)).decode()
