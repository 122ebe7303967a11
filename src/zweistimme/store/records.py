"""A project as rows: (kind, key) -> a small frozen object. What the store saves, and what undo puts back.

``difference(before, after)`` finds the rows an edit changed, by identity; ``patched(project, rows)`` applies rows
to a project. ``patched(EMPTY, difference(EMPTY, p)) == p`` holds for every project.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import compress, repeat
from operator import is_, is_not
from typing import Any, Final

from zweistimme.project.access import changed_middle, put_segments
from zweistimme.project.model import Project, Version
from zweistimme.project.programme import facts_kept
from zweistimme.project.row_changes import Rows, changed_keys, with_rows
from zweistimme.store.rows import ProjectHead, Row, RowKey, VersionHead

EMPTY: Final = Project("", "")
_COLLECTIONS: Final = (
    ("line", "lines"),
    ("take", "takes"),
    ("placement", "placements"),
    ("failure", "failures"),
    ("audition", "auditions"),
)
"""Rows of a version, by segment or take, and where it has them."""


def difference(before: Project, after: Project) -> list[Row]:
    """Rows that differ between two projects, parents first."""
    if before is after:
        return []
    rows = [*_heads(before, after)]
    rows += _collection("speaker", "", before.speakers, after.speakers)
    rows += _collection("term", "", before.terms, after.terms)
    rows += _collection("saying", "", before.sayings, after.sayings)
    if before.segments is not after.segments:
        first, last, other = changed_middle(before.segments, after.segments)
        old = {s.id: s for s in before.segments[first:last]}
        new = {s.id: s for s in after.segments[first:other]}
        rows += _collection("segment", "", old, new)
    for tag in {**before.versions, **after.versions}:
        was, now = before.versions.get(tag), after.versions.get(tag)
        if was is now:
            continue
        blank = Version(tag)
        for kind, name in _COLLECTIONS:
            rows += _collection(kind, f"{tag}/", getattr(was or blank, name), getattr(now or blank, name))
    return rows


def _heads(before: Project, after: Project) -> Iterator[Row]:
    was, now = (None if project is EMPTY else _project_head(project) for project in (before, after))
    if was != now:
        yield Row("project", "", was, now)
    for tag in {**before.versions, **after.versions}:
        old, new = (_version_head(project.versions.get(tag)) for project in (before, after))
        if old != new:
            yield Row("version", tag, old, new)
        was_sent, now_sent = (v.delivery if v else None for v in (before.versions.get(tag), after.versions.get(tag)))
        if was_sent != now_sent:
            yield Row("delivery", tag, was_sent, now_sent)


def _project_head(project: Project) -> ProjectHead:
    return ProjectHead(
        project.title,
        project.source_tag,
        project.programme,
        project.mix,
        dict(project.engines),
        project.substitutes,
        project.segments_made,
        dict(project.caption_limits),
        project.follow,
        project.brief,
        project.refused,
        dict(project.presets),
        project.people_made,
    )


def _version_head(version: Version | None) -> VersionHead | None:
    if version is None:
        return None
    return VersionHead(
        version.tag,
        version.style,
        version.preference,
        dict(version.cast),
        dict(version.engines),
        dict(version.manners),
        version.together,
        version.left_out,
        dict(version.let_be),
        version.basis,
        version.cast_chosen,
        version.mix,
        version.presets,
        version.limits,
    )


def _collection(kind: str, prefix: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[Row]:
    if before is after:
        return
    few = changed_keys(before, after)
    if few is not None:
        for key in few:
            was, now = before.get(key), after.get(key)
            if was != now:
                yield Row(kind, prefix + key, was, now)
        return
    old, new = _differing(before, after)
    others = map(is_not, map(old.get, new), new.values())
    for key, now in compress(new.items(), others):
        was = old.get(key)
        if was != now:
            yield Row(kind, prefix + key, was, now)
    for key in old.keys() - new.keys():
        yield Row(kind, prefix + key, old[key], None)


def _differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> tuple[Mapping[str, Any], Mapping[str, Any]]:
    """What may differ between two collections: the stretch between what is alike at both ends, since an edit keeps the
    order. All versions are looked through for every segment that is cut, so this is done list by list."""
    old, new = (list(before), list(before.values())), (list(after), list(after.values()))
    first = min(map(_alike, old, new))
    rest_old, rest_new = ([row[: first - 1 if first else None : -1] for row in rows] for rows in (old, new))
    same = min(map(_alike, rest_old, rest_new))

    def middle(keys: list[str], values: list[Any]) -> dict[str, Any]:
        return dict(zip(keys[first : len(keys) - same], values[first : len(keys) - same], strict=True))

    return middle(*old), middle(*new)


def _alike(before: list[Any], after: list[Any]) -> int:
    """How many at the beginning are equal, by bisection; what is the same object is so without being looked at."""
    low, high = 0, min(len(before), len(after))
    while low < high:
        middle = (low + high + 1) // 2
        if before[low:middle] == after[low:middle]:
            low = middle
        else:
            high = middle - 1
    return low


def with_facts_of(project: Project, place: RowKey, value: Any) -> Any:
    """A row that undo or redo puts in place, with the facts that *project* knows by now: where its files lie, what they
    hold, and what was found in them are nobody's to undo."""
    if place == ("project", "") and value is not None and project.programme and value.programme:
        return replace(value, programme=facts_kept(project.programme, value.programme))
    return value


def patched(project: Project, rows: Mapping[RowKey, Any]) -> Project:
    """*project* with each row of ``(kind, key) -> object | None`` put in place; the rest keeps its identity."""
    by_kind: dict[str, dict[str, Any]] = {}
    for (kind, key), value in rows.items():
        by_kind.setdefault(kind, {})[key] = value
    return patched_by_kind(project, by_kind)


def patched_by_kind(project: Project, by_kind: Mapping[str, Mapping[str, Any]]) -> Project:
    """The same, of rows that are sorted by kind already."""
    head = by_kind.get("project", {}).get("")
    if head is not None:
        project = replace(
            project,
            title=head.title,
            source_tag=head.source_tag,
            programme=head.programme,
            mix=head.mix,
            engines=head.engines,
            substitutes=head.substitutes,
            segments_made=max(project.segments_made, head.segments_made),  # undo gives no number back
            caption_limits=head.caption_limits,
            follow=head.follow,
            brief=head.brief,
            refused=head.refused,
            presets=head.presets,
            people_made=max(project.people_made, head.people_made),
        )
    if "speaker" in by_kind:
        project = replace(project, speakers=_merged(project.speakers, by_kind["speaker"]))
    if "term" in by_kind:
        project = replace(project, terms=_merged(project.terms, by_kind["term"]))
    if "saying" in by_kind:
        project = replace(project, sayings=_merged(project.sayings, by_kind["saying"]))
    if "segment" in by_kind:
        changes = by_kind["segment"]
        gone = [key for key, segment in changes.items() if segment is None]
        project = put_segments(project, filter(None, changes.values()), gone)
    return _patched_versions(project, by_kind)


def _patched_versions(project: Project, by_kind: Mapping[str, Mapping[str, Any]]) -> Project:
    versions = dict(project.versions)
    for tag, head in by_kind.get("version", {}).items():
        if head is None:
            versions.pop(tag, None)
            continue
        known = versions.get(tag) or Version(tag)
        versions[tag] = replace(
            known,
            style=head.style,
            preference=head.preference,
            cast=head.cast,
            engines=head.engines,
            manners=head.manners,
            together=head.together,
            left_out=head.left_out,
            let_be=head.let_be,
            basis=head.basis,
            cast_chosen=head.cast_chosen,
            mix=head.mix,
            presets=head.presets,
            limits=head.limits,
        )
    for tag, delivery in by_kind.get("delivery", {}).items():
        if tag in versions:
            versions[tag] = replace(versions[tag], delivery=delivery)
    for kind, name in _COLLECTIONS:
        for tag, changes in _by_tag(by_kind.get(kind, {})).items():
            if tag in versions:  # else it went with all that was in it
                parts: dict[str, Any] = {name: _merged(getattr(versions[tag], name), changes)}
                versions[tag] = replace(versions[tag], **parts)
    touched = by_kind.keys() & {"version", "delivery", *dict(_COLLECTIONS)}
    return replace(project, versions=versions) if touched else project


def _by_tag(rows: Mapping[str, Any]) -> dict[str, dict[str, Any]]:
    """Rows of ``tag/key`` by tag and key; mostly many of a tag follow each other."""
    by_tag: dict[str, dict[str, Any]] = {}
    prefix, of_tag = "", dict[str, Any]()
    for path, value in rows.items():
        if not prefix or not path.startswith(prefix):
            tag, slash, _ = path.partition("/")
            prefix, of_tag = tag + slash if slash else "", by_tag.setdefault(tag, {})
        of_tag[path[len(prefix) :] if prefix else ""] = value
    return by_tag


def _merged(before: Mapping[str, Any], changes: Mapping[str, Any]) -> Rows[Any]:
    if not any(map(is_, changes.values(), repeat(None))):
        return with_rows(before, changes) if before else Rows(changes)
    there = {key: value for key, value in changes.items() if value is not None}
    return with_rows(before, there, changes.keys() - there.keys())
