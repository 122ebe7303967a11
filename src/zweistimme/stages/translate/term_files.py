"""Terms from files and into files: TBX-Basic and CSV, told apart by their endings."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Final

from zweistimme.formats.context import Context
from zweistimme.formats.tbx import TbxCount, read_tbx, write_tbx
from zweistimme.formats.term_table import read_term_table, write_term_table
from zweistimme.formats.text import read_text
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.terms import Term

TERM_ENDINGS: Final = (".tbx", ".csv")


def read_terms(file: Path, source_tag: str) -> tuple[list[Term], tuple[Finding, ...]]:
    """The terms of a file whose original is in *source_tag*, and what is to be known of it."""
    kind = file.suffix.lower()
    if kind in (".tbx", ".xml"):
        count = TbxCount()
        terms = list(read_tbx(file, source_tag, count))
        odd = Finding("terms-left-out", {"left_out": count.left_out, "language": source_tag})
        return terms, (odd,) if count.left_out else ()
    if kind in (".csv", ".tsv", ".txt"):
        text, repairs = read_text(file, Context("", source_tag))
        return list(read_term_table(text, file.name)), repairs
    raise _unknown(file)


def written_terms(project: Project, ending: str) -> bytes:
    """The terms of a project as a file with this ending."""
    terms = project.terms.values()
    if ending.lower() == ".csv":
        return write_term_table(terms).encode("utf-8-sig")
    if ending.lower() != ".tbx":
        raise _unknown(Path(f"file{ending}"))
    file = io.BytesIO()
    write_tbx(file, terms, project.source_tag, project.title)
    return file.getvalue()


def _unknown(file: Path) -> FormatError:
    return FormatError(
        "“{ending}” is no file of terms here. There are {known}.", ending=file.suffix, known=", ".join(TERM_ENDINGS)
    )
