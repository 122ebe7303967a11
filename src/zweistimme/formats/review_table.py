"""Lines for people to look over: a table in a Word document, or as CSV (RFC 4180), and back.

The first column holds the line's number and two marks, of the original and the wording as they were sent. In Word,
changes that are tracked count as made, and comments on a row come back as notes.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Final

from zweistimme.formats.cells import as_meant, no_formula
from zweistimme.formats.exchange_row import Exchange, ExchangeRow
from zweistimme.formats.prose import check_archive
from zweistimme.messages import tr
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import own_name
from zweistimme.project.times import clock
from zweistimme.project.wordings import LineNote
from zweistimme.project.writing import one_line

if TYPE_CHECKING:
    from docx.document import Document as WordDocument

_KEY: Final = re.compile(r"\s*(\d{1,8})\s*·\s*([0-9a-f]{6})\s*·\s*([0-9a-f]{6})\s*")
_TIME, _SOURCE, _TARGET, _NOTE = 1, 3, 4, 6
_PICTURE_MM: Final = 28
_WIDTHS_MM: Final = (24, 16, 22, 76, 76, 30, 29)
_MOST_ROWS: Final = 50_000
_W: Final = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"


def cells_of(row: ExchangeRow) -> tuple[str, ...]:
    """A line as the cells of a table."""
    key = f"{row.number} · {row.source_sent} · {row.target_sent}"
    notes = "\n".join(": ".join(filter(None, (note.author, note.text))) for note in row.notes or ())
    return key, clock(row.start_us), row.speaker, row.source, row.target, notes, ""


def heads_of(exchange: Exchange) -> tuple[str, ...]:
    """What its columns are called."""
    source, target = own_name(exchange.source_tag), own_name(exchange.target_tag)
    return tr("line"), tr("time"), tr("speaker"), source, target, tr("notes"), tr("your note")


def write_csv(exchange: Exchange) -> bytes:
    """The table as CSV in UTF-8, with the mark by which spreadsheets know that."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(heads_of(exchange))
    writer.writerows(map(no_formula, cells_of(row)) for row in exchange.rows)
    return text.getvalue().encode("utf-8-sig")


def write_word(exchange: Exchange) -> bytes:
    """The table as a Word document, wide, its head on every page."""
    from docx import Document
    from docx.enum.section import WD_ORIENT
    from docx.oxml import OxmlElement
    from docx.shared import Mm, Pt

    document: WordDocument = Document()
    section = document.sections[0]
    section.orientation = WD_ORIENT.LANDSCAPE
    section.page_width, section.page_height = Mm(297), Mm(210)
    section.left_margin = section.right_margin = Mm(12)
    document.styles["Normal"].font.size = Pt(9)
    document.add_heading(exchange.title, 1)
    document.add_paragraph(
        tr(
            "Change what is wrong in the column of the language, and write what you think into the last one. Leave the "
            "first as it is."
        )
    )
    table = document.add_table(rows=len(exchange.rows) + 1, cols=len(_WIDTHS_MM), style="Table Grid")
    table.rows[0]._tr.get_or_add_trPr().append(OxmlElement("w:tblHeader"))
    wider = _PICTURE_MM + 4 - _WIDTHS_MM[_TIME] if any(row.picture for row in exchange.rows) else 0
    more = {_TIME: wider, _SOURCE: -wider // 2, _TARGET: -wider // 2}
    widths = [Mm(width + more.get(place, 0)) for place, width in enumerate(_WIDTHS_MM)]
    rows = [heads_of(exchange), *map(cells_of, exchange.rows)]
    for row, texts in zip(table.rows, rows, strict=True):
        for cell, words, width in zip(row.cells, texts, widths, strict=True):
            cell.text = words
            cell.width = width
    for row, line in zip(table.rows[1:], exchange.rows, strict=True):
        if line.picture:
            row.cells[_TIME].add_paragraph().add_run().add_picture(io.BytesIO(line.picture), width=Mm(_PICTURE_MM))
    kept = io.BytesIO()
    document.save(kept)
    return kept.getvalue()


def read_csv(data: bytes, where: str) -> Exchange:
    """The lines of a table as CSV."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FormatError("{file} is not in UTF-8. Save it as CSV in UTF-8.", file=where) from error
    first = text.partition("\n")[0]
    delimiter = max(",;\t", key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as error:
        raise FormatError("{file} is no table that can be read: {why}.", file=where, why=error) from error
    return exchange_from((([as_meant(cell) for cell in cells], ()) for cells in rows), where)


def read_word(data: bytes, where: str) -> Exchange:
    """The lines of a Word document's tables."""
    from docx import Document

    check_archive(data, where)
    try:
        document: WordDocument = Document(io.BytesIO(data))
        comments = {comment.comment_id: LineNote(comment.text, comment.author) for comment in document.comments}
        rows = [
            ([_cell_text(cell) for cell in row.iterchildren(f"{_W}tc")], tuple(_comments(row, comments)))
            for table in document.element.body.iter(f"{_W}tbl")
            for row in table.iterchildren(f"{_W}tr")
        ]
    except Exception as error:  # the package raises whatever its parts do
        raise FormatError(
            "{where} is not a Word document that can be read ({name}).", where=where, name=type(error).__name__
        ) from None
    return exchange_from(rows, where)


def _cell_text(cell: Any) -> str:
    """What a cell says once tracked changes are made: what was put in is there, what was deleted is not."""
    return "\n".join(
        "".join("\n" if one.tag == f"{_W}br" else one.text or "" for one in paragraph.iter(f"{_W}t", f"{_W}br"))
        for paragraph in cell.iter(f"{_W}p")
    )


def _comments(row: Any, comments: Mapping[int, LineNote]) -> Iterator[LineNote]:
    for reference in row.iter(f"{_W}commentReference"):
        note = comments.get(int(reference.get(f"{_W}id") or -1))
        if note is not None and note.text.strip():
            yield note


def exchange_from(rows: Iterable[tuple[Sequence[str], tuple[LineNote, ...]]], where: str) -> Exchange:
    """The lines of a table, its cells row by row, with what was commented on each. FormatError where it has none."""
    found: dict[int, ExchangeRow] = {}
    left_out = 0
    for place, (cells, comments) in enumerate(rows):
        key = _KEY.fullmatch(cells[0]) if len(cells) > _TARGET else None
        if key is None or place > _MOST_ROWS or int(key[1]) in found:
            left_out += bool(place) and any(cell.strip() for cell in cells)
            continue
        written = cells[_NOTE].strip() if len(cells) > _NOTE else ""
        notes = (*((LineNote(written),) if written else ()), *comments)
        found[int(key[1])] = ExchangeRow(
            "", one_line(cells[_SOURCE]), one_line(cells[_TARGET]), int(key[1]),
            notes=notes, source_sent=key[2], target_sent=key[3],
        )  # fmt: skip
    if not found:
        raise FormatError(
            "{file} has no table of lines as this desk sends them: a number and two marks in its first column.",
            file=where,
        )
    said = (Finding("rows-without-line", {"file": where, "rows": left_out}),) if left_out else ()
    return Exchange("", "", "", tuple(found.values()), said)
