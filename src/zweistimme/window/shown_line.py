"""How a line of the version on the desk stands, in words: what is missing, stale, failed or too long."""

from __future__ import annotations

from dataclasses import dataclass

from zweistimme.messages import tr
from zweistimme.project.facts import line_is_stale, take_is_stale
from zweistimme.project.model import AS_USUAL, Segment
from zweistimme.project.wordings import LineState
from zweistimme.window.actions import BY_ID, key_words
from zweistimme.window.bridge import Desk
from zweistimme.window.manner_words import in_few_words
from zweistimme.window.strain import trouble_words


@dataclass(frozen=True, slots=True)
class ShownLine:
    """The words of a line, and what is to be said of it: *trouble* needs a person, *marks* are worth knowing."""

    text: str
    written: bool
    spoken: bool = False
    trouble: str = ""
    marks: tuple[str, ...] = ()
    pinned: bool = False
    state: LineState = LineState.INITIAL
    locked: bool = False


def shown_line(desk: Desk, segment: Segment) -> ShownLine:
    """How the line of a segment stands."""
    version, line = desk.version, desk.line(segment.id)
    if version is None or line is None or not line.text:
        return ShownLine(tr("not translated yet") if segment.text else "", written=False)
    placed = desk.placed(segment.id)
    take = version.takes.get(line.take_id) if line.take_id else None
    marks = []
    if line_is_stale(segment, line):
        marks.append(tr("the original has changed"))
    elif take is None:
        marks.append(tr("no take yet"))
    elif take_is_stale(desk.project, version, segment, line, take):
        marks.append(tr("the take says something older"))
    if line.voice:
        voice = desk.book.voice(line.voice)
        marks.append(tr("voice of its own: {voice}", voice=voice.name if voice else line.voice))
    if line.manner != AS_USUAL:
        marks.append(in_few_words(line.manner))
    return ShownLine(
        f"({line.direction}) {line.text}" if line.direction else line.text,
        written=True,
        spoken=take is not None,
        trouble=desk.failure(segment) or (trouble_words(placed[0], line.text) if placed else ""),
        marks=tuple(marks),
        pinned=line.pin is not None,
        state=line.state,
        locked=line.locked,
    )


def locked_words() -> str:
    """That a line's words are locked, and how they are unlocked."""
    key = key_words(BY_ID["lock"].key)
    if key:
        return tr("The words of this line are locked; {key} unlocks them.", key=key)
    return tr("The words of this line are locked. Unlock them in the menu Line.")
