"""Choosing among wordings on offer by what fits, for a whole version at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from zweistimme.project.access import find_version, put_version
from zweistimme.project.facts import line_is_stale, spoken_segments
from zweistimme.project.line_edits import is_settled
from zweistimme.project.model import Line, Project, Segment, Version
from zweistimme.project.times import SECOND_US
from zweistimme.project.wordings import Offer, OriginKind
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.slot import measured_length
from zweistimme.stages.fit.wording_choice import Chosen, Lines, chosen_wordings

_SAME_PERCENT = 100


@dataclass(frozen=True, slots=True)
class Choice:
    """Another wording for a line: how long each takes to say, and at what tempo it would be spoken."""

    segment_id: str
    number: int
    before: str
    after: str
    before_s: float
    after_s: float
    before_tempo: float
    after_tempo: float


@dataclass(frozen=True, slots=True)
class Choices:
    """What would change, and which share of the lines is spoken at a comfortable tempo, as it is and then."""

    choices: tuple[Choice, ...]
    comfort_before: float
    comfort_after: float


def choices_that_fit(project: Project, tag: str, report: Callable[[float], None] = lambda _share: None) -> Choices:
    """The fullest wordings that can be placed well. Only lines that nobody has settled, and whose original has not
    changed since, get another one; what is merely like a line of the memory is no wording for it."""
    version = find_version(project, tag)
    worded = [
        s for s in spoken_segments(project) if (line := version.lines.get(s.id)) is not None and line.text.strip()
    ]
    limits = limits_of(version)
    texts = [_texts(version.lines[segment.id], segment) for segment in worded]
    lines = _lines(project, version, worded, texts)
    chosen = chosen_wordings(lines, limits, report)
    present = chosen_wordings(replace(lines, spoken=[several[:1] for several in lines.spoken]), limits)
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(project), 1)}
    found = [
        Choice(
            segment.id, numbers[segment.id], texts[k][0], texts[k][chosen.wording[k]], lines.spoken[k][0],
            lines.spoken[k][chosen.wording[k]], float(present.tempo[k]), float(chosen.tempo[k]),
        )
        for k, segment in enumerate(worded)
        if chosen.wording[k]
    ]  # fmt: skip
    return Choices(tuple(found), _comfort(present, limits.comfort), _comfort(chosen, limits.comfort))


def _comfort(chosen: Chosen, comfort: tuple[float, float]) -> float:
    inside = (chosen.tempo >= comfort[0] - 1e-6) & (chosen.tempo <= comfort[1] + 1e-6)
    return float(inside.mean()) if len(inside) else 1.0


def _texts(line: Line, segment: Segment) -> list[str]:
    """The wording there is, then those that may take its place."""
    if is_settled(line) or line_is_stale(segment, line):
        return [line.text]
    offered = [offer.text for offer in line.offers if offer.text.strip() and _says_the_same(offer)]
    return list(dict.fromkeys((line.text, *offered)))


def _says_the_same(offer: Offer) -> bool:
    origin = offer.origin
    return origin is None or origin.kind is not OriginKind.MEMORY or origin.percent >= _SAME_PERCENT


def _lines(project: Project, version: Version, worded: list[Segment], texts: list[list[str]]) -> Lines:
    starts, ends = [], []
    for segment in worded:
        pin = version.lines[segment.id].pin
        start = pin.start_us if pin else segment.start_us
        starts.append(start / SECOND_US)
        length = pin.length_us if pin and pin.length_us else segment.end_us - segment.start_us
        ends.append((start + length) / SECOND_US)

    def spoken(segment: Segment, text: str) -> float:
        return measured_length(project, version, segment, text).spoken_us / SECOND_US

    return Lines(
        np.array(starts),
        np.array(ends),
        [segment.on_screen for segment in worded],
        [[spoken(segment, text) for text in several] for segment, several in zip(worded, texts, strict=True)],
        [version.lines[segment.id].pin is not None for segment in worded],
    )


def choose(project: Project, tag: str, choices: Iterable[Choice]) -> Project:
    """Take other wordings, in one go; those there were are on offer then, and lines are as far as they were. What was
    written, settled or locked meanwhile stays."""
    version = find_version(project, tag)
    lines = dict(version.lines)
    for choice in choices:
        line = lines.get(choice.segment_id)
        offer = next((one for one in line.offers if one.text == choice.after), None) if line is not None else None
        if line is not None and offer is not None and line.text == choice.before and not is_settled(line):
            was = Offer(line.text, line.origin)
            offers = tuple(was if one is offer else one for one in line.offers)
            maker = line.maker if offer.origin == line.origin else None
            lines[line.segment_id] = replace(line, text=offer.text, origin=offer.origin, maker=maker, offers=offers)
    return put_version(project, replace(version, lines=lines))
