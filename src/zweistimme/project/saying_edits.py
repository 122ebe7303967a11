"""Edits of how words are said: pure functions ``Project -> Project``."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Final

from zweistimme.project.access import without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project
from zweistimme.project.row_changes import with_rows
from zweistimme.project.sayings import LIKE, Saying, saying_key
from zweistimme.project.writing import one_line

LONGEST: Final = 200
MOST: Final = 20_000


def put_sayings(project: Project, sayings: Iterable[Saying]) -> Project:
    """Keep how words are said, instead of what was kept of them. EditError where a word is said in no way, or two."""
    clean = [_cleaned(one) for one in sayings]
    by_key = {saying_key(one.word, one.language): one for one in clean}
    changed = {key: one for key, one in by_key.items() if project.sayings.get(key) != one}
    after = with_rows(project.sayings, changed)
    if len(after) > MOST:
        raise EditError("A project keeps how {most:,} words are said at most.", most=MOST)
    return replace(project, sayings=after) if changed else project


def remove_sayings(project: Project, keys: Iterable[str]) -> Project:
    """Have words said as voices read them again."""
    gone = [key for key in keys if key in project.sayings]
    return replace(project, sayings=without_keys(project.sayings, gone)) if gone else project


def _cleaned(one: Saying) -> Saying:
    word, ipa, like = one_line(one.word), one_line(one.ipa).strip("/[] "), one_line(one.like).lstrip(LIKE)
    if not word or max(map(len, (word, ipa, like))) > LONGEST:
        raise EditError("A word is needed, and how it is said, in {most} letters at most.", most=LONGEST)
    if bool(ipa) == bool(like):
        raise EditError("Say how “{word}” is said: in IPA, or by a spelling that sounds so; one of both.", word=word)
    return Saying(word, language_tag(one.language), ipa, like)
