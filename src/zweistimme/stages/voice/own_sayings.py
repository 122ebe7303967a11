"""How somebody has words said in all their projects: a lexicon a language, kept with the desk as PLS. A project uses of
it what was taken over, so that it is voiced alike wherever it is opened."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import platformdirs

from zweistimme.formats.pls import read_pls, written_pls
from zweistimme.media.atomic import written_bytes
from zweistimme.project.access import find_version
from zweistimme.project.errors import StoreError
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project
from zweistimme.project.pronunciations import Pronunciations
from zweistimme.project.sayings import Saying, sayings_in


def own_sayings(tag: str) -> list[Saying]:
    """What somebody keeps for the language of *tag*; FormatError where the file is damaged."""
    file = _file(tag)
    return read_pls(file)[0] if file.is_file() else []


def keep_own(sayings: Iterable[Saying], tag: str) -> None:
    """Keep how words are said, for other projects too."""
    known = {one.word: one for one in own_sayings(tag)} | {one.word: one for one in sayings}
    file = _file(tag)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        written_bytes(file, written_pls(known.values(), language_of(tag)))
    except OSError as error:
        raise StoreError("{file} cannot be written: {why}.", file=file, why=error) from error


def usable_here(project: Project, tag: str) -> list[Saying]:
    """Of what somebody keeps, the words that are in a version and of which the project says nothing."""
    known = {one.word for one in sayings_in(project.sayings, tag)}
    own = [one for one in own_sayings(tag) if one.word not in known]
    if not own:
        return []
    finder = Pronunciations([(one.word, one.word) for one in own], tag)
    texts = {line.text for line in find_version(project, tag).lines.values()}
    there = {word for text in texts for _, word in finder.of(text)}
    return [one for one in own if one.word in there]


def _file(tag: str) -> Path:
    return Path(platformdirs.user_data_dir("zweistimme")) / "pronunciations" / f"{language_of(tag)}.pls"
