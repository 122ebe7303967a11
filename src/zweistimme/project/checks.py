"""What somebody has let be of what checks notice: of one line, or of a whole kind, with the reason."""

from __future__ import annotations

from dataclasses import replace

from zweistimme.project.access import find_version, put_version, with_key, without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.model import Project, Version

EVERYWHERE = ""
"""Stands for a segment where a kind is let be in every line of a version."""


def key_of(segment_id: str, code: str) -> str:
    """By what it is kept."""
    return f"{segment_id}/{code}"


def is_let_be(version: Version, segment_id: str, code: str) -> bool:
    """Whether somebody has let be what a check notices."""
    there = version.let_be
    return bool(there) and (key_of(segment_id, code) in there or key_of(EVERYWHERE, code) in there)


def let_be(project: Project, tag: str, segment_id: str, code: str, reason: str = "") -> Project:
    """Let be what a check notices of a line, or (EVERYWHERE) of any line of a version."""
    version = find_version(project, tag)
    if len(reason) > 1_000:
        raise EditError("A reason has 1,000 letters at most.")
    return put_version(
        project, replace(version, let_be=with_key(version.let_be, key_of(segment_id, code), reason.strip()))
    )


def notice_again(project: Project, tag: str, segment_id: str, code: str) -> Project:
    """Have it noticed again."""
    version = find_version(project, tag)
    key = key_of(segment_id, code)
    if key not in version.let_be:
        raise EditError("“{code}” was not let be here.", code=code)
    return put_version(project, replace(version, let_be=without_keys(version.let_be, [key])))
