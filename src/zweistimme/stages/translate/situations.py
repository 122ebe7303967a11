"""What an engine is told beside the words: the terms in them, who says them to whom, and what the picture shows."""

from __future__ import annotations

import base64
from collections.abc import Callable, Iterable, Sequence
from contextlib import ExitStack
from dataclasses import replace
from typing import Final

from zweistimme.engines.offers import EngineInfo
from zweistimme.engines.protocol import About, Situation, Term, TranslationItem
from zweistimme.project.access import find_version
from zweistimme.project.conversation import address_at, listeners
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Segment
from zweistimme.project.term_book import term_book
from zweistimme.stages.translate.line_pictures import line_pictures
from zweistimme.stages.work import Work, source_of

_MOST_TERMS: Final = 5_000
"""A request has no more."""
_LONGEST_NAME, _LONGEST_DIRECTION = 200, 100
"""What the protocol allows: of what is only told beside the words, the beginning says enough."""


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
        pictures = _pictures(work, stack) if info.pictures else None
        for item in items:
            segment, line = segments[item.id], lines.get(item.id)
            placed.append(
                replace(
                    item,
                    situation=Situation(
                        names.get(segment.speaker_id, "")[:_LONGEST_NAME],
                        names.get(to.get(item.id, ""), "")[:_LONGEST_NAME],
                        address_at(project, segment).value,
                        line.direction[:_LONGEST_DIRECTION] if line else "",
                        segment.on_screen,
                        _still(pictures, segment),
                    ),
                )
            )
    return placed


def _pictures(work: Work, stack: ExitStack) -> Callable[[Segment], bytes] | None:
    """What gives the picture at a line, for as long as *stack* is open; None where there is none, and said where it
    cannot be read."""
    programme = work.project.programme
    if programme is None or programme.picture is None:
        return None
    try:
        return stack.enter_context(line_pictures(work.project, source_of(work, programme.sound)))
    except ZweistimmeError as error:
        work.say(Finding("pictures-not-sent", {"why": str(error)}))
        return None


def _still(pictures: Callable[[Segment], bytes] | None, segment: Segment) -> str | None:
    picture = pictures(segment) if pictures is not None else b""
    return base64.b64encode(picture).decode() if picture else None
