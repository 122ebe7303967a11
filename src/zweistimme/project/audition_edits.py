"""Edits of auditions."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from zweistimme.project.access import find_version, ids_of, put_version, with_key, without_keys
from zweistimme.project.auditions import BEST, Audition
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project


def add_audition(project: Project, tag: str, audition: Audition) -> Project:
    """Keep an audition, with what was thought of one that said the same; none of a segment that is gone."""
    version = find_version(project, tag)
    if audition.segment_id not in ids_of(project.segments):
        return project
    known = version.auditions.get(audition.id)
    if known is not None:
        audition = replace(audition, score=known.score, won=known.won, lost=known.lost, note=known.note)
    return _put(project, tag, audition)


def score_audition(project: Project, tag: str, key: str, score: int, note: str | None = None) -> Project:
    """Say what one thinks of an audition: 1 to 5, 0 to say nothing; *note* None leaves the note as it is."""
    if not 0 <= score <= BEST:
        raise EditError("A score lies between 1 and {best}; 0 takes it away.", best=BEST)
    known = _find(project, tag, key)
    return _put(project, tag, replace(known, score=score, note=known.note if note is None else note.strip()))


def prefer_audition(project: Project, tag: str, better: str, worse: str) -> Project:
    """Say which of two auditions one prefers."""
    winner, loser = _find(project, tag, better), _find(project, tag, worse)
    if winner.id == loser.id:
        raise EditError("An audition is compared with another, not with itself.")
    project = _put(project, tag, replace(winner, won=winner.won + 1))
    return _put(project, tag, replace(loser, lost=loser.lost + 1))


def drop_auditions(project: Project, tag: str, keys: Iterable[str]) -> Project:
    """Keep these auditions no more; their clips go when the project is cleaned."""
    version = find_version(project, tag)
    rest = without_keys(version.auditions, [key for key in keys if key in version.auditions])
    return project if len(rest) == len(version.auditions) else put_version(project, replace(version, auditions=rest))


def _find(project: Project, tag: str, key: str) -> Audition:
    known = find_version(project, tag).auditions.get(key)
    if known is None:
        raise EditError("There is no audition {key} in {tag}.", key=key, tag=tag)
    return known


def _put(project: Project, tag: str, audition: Audition) -> Project:
    version = find_version(project, tag)
    return put_version(project, replace(version, auditions=with_key(version.auditions, audition.id, audition)))
