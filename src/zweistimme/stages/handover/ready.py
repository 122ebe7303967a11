"""What is not good about a version, said before it is handed over; and which versions can be."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from zweistimme.messages import tr
from zweistimme.project.access import find_version
from zweistimme.project.checks import is_let_be
from zweistimme.project.errors import NotReady
from zweistimme.project.facts import fresh_take, lines_without_take, placement_is_stale, spoken_segments
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.languages import language_name
from zweistimme.project.model import Project, Segment, Version
from zweistimme.project.placed_time import behind_end_us
from zweistimme.project.times import clock
from zweistimme.project.writing.untranslated import untranslated_spans
from zweistimme.stages.check.words import NOT_TRANSLATED
from zweistimme.stages.voice.directions import unheard_directions

UNTRANSLATED = "lines-untranslated"
"""What is said of words that were not translated, looked at or not."""
_SHOWN = 6


def ready_versions(project: Project, tags: Iterable[str]) -> tuple[list[str], list[NotReady]]:
    """Those of some versions that can be handed over, and why the others cannot: nothing of them is placed yet, or they
    have words that were not translated and that nobody has let be."""
    ready, held = [], []
    for tag in tags:
        why = _hindrance(project, find_version(project, tag))
        if why is None:
            ready.append(tag)
        else:
            held.append(why)
    return ready, held


def _hindrance(project: Project, version: Version) -> NotReady | None:
    if not version.placements:
        return NotReady("Nothing of {version} is voiced and fitted yet.", version=language_name(version.tag))
    left = _untranslated(project, version)
    if not left:
        return None
    return NotReady(
        "{version} has words that were not translated, in {lines:line|lines}: {places}{more}. Translate them, "
        "or let it be in the checks.",
        **{**_lines(project, version, left), "version": language_name(version.tag)},
    )


def open_points(project: Project, tag: str) -> list[Finding]:
    """What is not good about a version: lines without a take, or whose take or place is of something else than they say
    now; takes at once with others, or behind the end of the programme; words that were not translated, also where
    somebody has let them be; directions that the voice does not know."""
    version = find_version(project, tag)
    spoken = spoken_segments(project)
    by_id = {segment.id: segment for segment in spoken}
    placed = [(by_id[key], one) for key, one in version.placements.items() if key in by_id]
    without = [segment for _, segment in lines_without_take(project, version)]
    missing = {segment.id for segment in without}
    stale = [
        segment
        for segment in spoken
        if segment.id not in missing
        and (fresh_take(project, version, segment) is None or placement_is_stale(project, version, segment))
    ]
    groups: tuple[tuple[str, Sequence[Segment]], ...] = (
        ("lines-without-take", without),
        ("lines-stale", stale),
        (UNTRANSLATED, [s for s in spoken if _words_left(version, s)]),
        ("lines-clash-at", [segment for segment, one in placed if one.clash_us]),
        ("lines-behind-end-at", [segment for segment, one in placed if behind_end_us(one, project.programme)]),
        ("directions-unheard", unheard_directions(project, tag)),
    )
    said = [Finding(code, _lines(project, version, segments)) for code, segments in groups if segments]
    unworded = unworded_stretches(project)
    return [*said, unworded] if unworded else said


def unworded_stretches(project: Project) -> Finding | None:
    """That there is speech which nobody has put into words, so that no version says it."""
    count = sum(not segment.text.strip() for segment in project.segments)
    return Finding("stretches-unworded", {"stretches": count, "all": len(project.segments)}) if count else None


def _untranslated(project: Project, version: Version) -> list[Segment]:
    return [
        segment
        for segment in spoken_segments(project)
        if _words_left(version, segment) and not is_let_be(version, segment.id, NOT_TRANSLATED)
    ]


def _words_left(version: Version, segment: Segment) -> bool:
    line = version.lines.get(segment.id)
    return line is not None and bool(untranslated_spans(line.text))


def _lines(project: Project, version: Version, segments: Sequence[Segment]) -> dict[str, Figure]:
    """How many lines, of how many, and where the first of them are."""
    spoken = spoken_segments(project)
    numbers = {segment.id: number for number, segment in enumerate(spoken, 1)}
    first = sorted(segments, key=lambda segment: numbers[segment.id])[:_SHOWN]
    return {
        "lines": len(segments),
        "all": len(spoken),
        "version": version.tag,
        "places": ", ".join(
            tr("{number} at {time}", number=numbers[segment.id], time=clock(segment.start_us)) for segment in first
        ),
        "more": " …" if len(segments) > _SHOWN else "",
    }
