"""What is handed over, and what it is held to: levels of the mix, captions, which versions."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Final

from zweistimme.messages import msg
from zweistimme.project.access import find_version, put_version, with_key, without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.mix_settings import MixSettings, mix_problem
from zweistimme.project.model import CaptionLimits, Delivery, Project
from zweistimme.project.sound_delivery import PRESETS, SoundPreset, preset_problem, presets_of

MOST_LINES: Final = 2
LINE_LETTERS: Final = (8.0, 80.0)
SPEED: Final = (3.0, 40.0)
SHORTEST_US: Final = (300_000, 5_000_000)
LONGEST_US: Final = (1_000_000, 30_000_000)
GAP_US: Final = (0, 1_000_000)


def set_mix(project: Project, mix: MixSettings, tag: str | None = None) -> Project:
    """Change how mixes are made: all of them, or one version's own."""
    if problem := mix_problem(mix):
        raise EditError(problem)
    if tag is None:
        return replace(project, mix=mix)
    return put_version(project, replace(find_version(project, tag), mix=mix))


def mix_as_project(project: Project, tag: str) -> Project:
    """Have a version mixed as the project says again."""
    version = find_version(project, tag)
    return put_version(project, replace(version, mix=None)) if version.mix is not None else project


def put_preset(project: Project, name: str, preset: SoundPreset) -> Project:
    """Give the project a form of sound deliveries, or change one; a name of ours is its own from then on."""
    if problem := preset_problem(name, preset):
        raise EditError(problem)
    return replace(project, presets=with_key(project.presets, name, preset))


def remove_preset(project: Project, name: str) -> Project:
    """Take a form of its own from the project; versions that were handed over in it are not any more, unless it has a
    name of ours, which then is ours again."""
    if name not in project.presets:
        raise EditError("The project has no preset {name} of its own.", name=name)
    project = replace(project, presets=without_keys(project.presets, [name]))
    if name in PRESETS:
        return project
    for tag, version in project.versions.items():
        if name in version.presets:
            left = tuple(one for one in version.presets if one != name)
            project = put_version(project, replace(find_version(project, tag), presets=left))
    return project


def choose_presets(project: Project, tag: str, names: Iterable[str]) -> Project:
    """Say in which forms the sound of a version is handed over, beside the mix that the video has."""
    chosen = tuple(dict.fromkeys(names))
    known = presets_of(project.presets)
    for name in chosen:
        if name not in known:
            raise EditError("There is no preset {name}. There are: {names}.", name=name, names=", ".join(known))
    version = find_version(project, tag)
    return project if version.presets == chosen else put_version(project, replace(version, presets=chosen))


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
