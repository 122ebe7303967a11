"""What is handed over, and what it is held to: levels of the mix, captions, which versions."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from zweistimme.messages import msg
from zweistimme.project.access import find_version, put_version, with_key, without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.model import CaptionLimits, Delivery, MixSettings, Project

MOST_LINES: Final = 2
LINE_LETTERS: Final = (8.0, 80.0)
SPEED: Final = (3.0, 40.0)
SHORTEST_US: Final = (300_000, 5_000_000)
LONGEST_US: Final = (1_000_000, 30_000_000)
GAP_US: Final = (0, 1_000_000)


def set_mix(project: Project, mix: MixSettings) -> Project:
    """Change how mixes are made."""
    return replace(project, mix=mix)


def captioned(project: Project) -> list[str]:
    """The languages that get captions: those of all versions, and the original's."""
    return [*dict.fromkeys((*project.versions, project.source_tag))]


def set_caption_limits(project: Project, tag: str, limits: CaptionLimits) -> Project:
    """Say what the captions of a version, or of the original, are held to; as the language has it where nothing is
    said."""
    if tag != project.source_tag:
        find_version(project, tag)
    if problem := limits_problem(limits):
        raise EditError(problem)
    if limits == CaptionLimits():
        return replace(project, caption_limits=without_keys(project.caption_limits, [tag]))
    return replace(project, caption_limits=with_key(project.caption_limits, tag, limits))


def limits_problem(limits: CaptionLimits) -> str:
    """Why captions cannot be held to these limits; empty where they can."""
    if limits.lines is not None and not 1 <= limits.lines <= MOST_LINES:
        return msg("A caption has one line or two.")
    bounds = (
        (limits.line_letters, LINE_LETTERS, msg("A line of a caption has between 8 and 80 letters.")),
        (limits.most_speed, SPEED, msg("Between 3 and 40 letters a second can be read.")),
        (limits.shortest_us, SHORTEST_US, msg("The shortest caption stands between 0.3 and 5 seconds.")),
        (limits.longest_us, LONGEST_US, msg("The longest caption stands between 1 and 30 seconds.")),
        (limits.gap_us, GAP_US, msg("Between two captions there is at most one second.")),
    )
    for value, (low, high), problem in bounds:
        if value is not None and not low <= value <= high:
            return problem
    if limits.shortest_us and limits.longest_us and limits.shortest_us > limits.longest_us:
        return msg("The shortest caption cannot stand longer than the longest.")
    return ""


def leave_out(project: Project, tag: str, left_out: bool) -> Project:
    """Leave a version out of hand-overs, or take it in again."""
    return put_version(project, replace(find_version(project, tag), left_out=left_out))


def set_delivery(project: Project, tag: str, delivery: Delivery) -> Project:
    """Remember what was handed over."""
    return put_version(project, replace(find_version(project, tag), delivery=delivery))
