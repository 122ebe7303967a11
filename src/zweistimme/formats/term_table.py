"""Terms as a table (CSV, RFC 4180): a row for each, its columns named in the first one.

``term`` is what is said in the original; ``note``, ``part`` (as in TBX-Basic), ``keep`` (yes, or nothing) and
``pronunciation`` (IPA) are about that. For every language there is a column named by its tag (``de-DE``), and where
needed ``de-DE not`` with words that are not to be used, and ``de-DE pronunciation``. Several words for a language are
parted by ``|``: the first is to be used, the others may be.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator
from typing import Final

from zweistimme.formats.cells import as_meant, no_formula
from zweistimme.project.errors import FormatError, TagError
from zweistimme.project.languages import language_tag
from zweistimme.project.terms import PartOfSpeech, Rendering, Term

_ABOUT: Final = ("term", "part", "keep", "note", "pronunciation")
_NOT, _SAID = "not", "pronunciation"
_YES: Final = frozenset(["yes", "y", "true", "1", "x"])
_LONGEST_FIELD: Final = 100_000


def read_term_table(text: str, where: str) -> Iterator[Term]:
    """The terms of a table, commas, semicolons or tabs between fields. FormatError with the line where it is none."""
    csv.field_size_limit(_LONGEST_FIELD)
    first = text.partition("\n")[0]
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=max(",;\t", key=first.count), strict=True)
    try:
        columns = _columns(next(rows, []), where)
        for row in rows:
            cells = {
                name: field.strip() for name, field in zip(columns, map(as_meant, row), strict=False) if field.strip()
            }
            if not cells:
                continue
            if "term" not in cells:
                raise FormatError("{where}, line {line}: it has no term.", where=where, line=rows.line_num)
            yield _term(cells, f"{where}, line {rows.line_num}")
    except csv.Error as error:
        raise FormatError(
            "{where}, line {line_num}: this is not CSV ({why}).", where=where, line_num=rows.line_num, why=error
        ) from None


def _columns(header: list[str], where: str) -> list[str]:
    """The names of columns, with their tags as they are written here."""
    names = [_column(name.strip().lstrip("\ufeff")) for name in header]
    if "term" not in names:
        raise FormatError(
            "{where}: its first line names no column “term”. It should begin: term,part,note, and go on with the tags "
            "of languages.",
            where=where,
        )
    unknown = next((name for name in names if not name), None)
    if unknown is not None or len(set(names)) < len(names):
        wrong = next((name for name, known in zip(header, names, strict=True) if not known), header[-1])
        raise FormatError(
            "{where}: “{name}” is no column of terms, or there twice. Columns are {known}, and tags of languages.",
            where=where,
            name=wrong[:40],
            known=", ".join(_ABOUT),
        )
    return names


def _column(name: str) -> str:
    if name.casefold() in _ABOUT:
        return name.casefold()
    tag, _, rest = name.partition(" ")
    if rest.strip().casefold() not in ("", _NOT, _SAID):
        return ""
    try:
        return f"{language_tag(tag)} {rest.strip().casefold()}".strip()
    except TagError:
        return ""


def _term(cells: dict[str, str], where: str) -> Term:
    part = cells.get("part", "")
    known = {one.value.casefold(): one for one in PartOfSpeech}
    if part.casefold() not in known:
        raise FormatError(
            "{where}: “{part}” is no part of speech. There are {known}.",
            where=where,
            part=part[:40],
            known=", ".join(one.value for one in PartOfSpeech if one),
        )
    tags = dict.fromkeys(name.partition(" ")[0] for name in cells if name not in _ABOUT)
    renderings = {
        tag: Rendering(
            "", _several(cells.get(tag, "")), _several(cells.get(f"{tag} {_NOT}", "")), cells.get(f"{tag} {_SAID}", "")
        )
        for tag in tags
    }
    kept = cells.get("keep", "").casefold() in _YES
    return Term(cells["term"], renderings, cells.get("note", ""), known[part.casefold()], kept, cells.get(_SAID, ""))


def _several(cell: str) -> tuple[str, ...]:
    return tuple(filter(None, map(str.strip, cell.split("|"))))


def write_term_table(terms: Iterable[Term]) -> str:
    """Terms as a table, languages in the order of their tags."""
    terms = list(terms)
    tags = sorted({tag for term in terms for tag in term.renderings})
    columns = list(_ABOUT)
    for tag in tags:
        renderings = [term.renderings[tag] for term in terms if tag in term.renderings]
        columns.append(tag)
        columns += [f"{tag} {_NOT}"] if any(one.forbidden for one in renderings) else []
        columns += [f"{tag} {_SAID}"] if any(one.pronunciation for one in renderings) else []
    file = io.StringIO(newline="")
    rows = csv.writer(file)
    rows.writerow(columns)
    for term in terms:
        cells = {
            "term": term.source, "part": term.part.value, "keep": "yes" if term.kept else "", "note": term.note,
            _SAID: term.pronunciation,
        }  # fmt: skip
        for tag, one in term.renderings.items():
            words = " | ".join(filter(None, (one.text, *one.also)))
            cells |= {tag: words, f"{tag} {_NOT}": " | ".join(one.forbidden), f"{tag} {_SAID}": one.pronunciation}
        rows.writerow([no_formula(cells.get(column, "")) for column in columns])
    return file.getvalue()
