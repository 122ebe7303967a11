"""The table for people to look over, as a workbook (Office Open XML, ECMA-376), and back: the columns of the other
tables, comments on a row come back as notes."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, Final

from zweistimme.formats.exchange_row import Exchange
from zweistimme.formats.prose import check_archive
from zweistimme.formats.review_table import cells_of, exchange_from, heads_of
from zweistimme.formats.xml import writable
from zweistimme.messages import msg, tr
from zweistimme.project.errors import FormatError
from zweistimme.project.wordings import LineNote

if TYPE_CHECKING:
    from openpyxl.worksheet.worksheet import Worksheet

_WIDTHS: Final = (19, 11, 14, 52, 52, 26, 26)
_PICTURE_WIDTH, _PICTURE_HEIGHT_PT = 24, 72
_SHEET: Final = msg("lines")


def write_sheet(exchange: Exchange) -> bytes:
    """The table as a workbook: words stay words, whatever they begin with; the head stays in sight."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font

    workbook = Workbook()
    sheet: Worksheet = workbook.active
    sheet.title = tr(_SHEET)[:31]
    top, bold = Alignment(wrap_text=True, vertical="top"), Font(bold=True)
    pictured = any(row.picture for row in exchange.rows)
    heads = [*heads_of(exchange), *([tr("picture")] if pictured else [])]
    for place, texts in enumerate([heads, *map(cells_of, exchange.rows)], 1):
        for column, words in enumerate(texts, 1):
            cell = sheet.cell(place, column)
            cell.value = writable(words)
            cell.data_type = "s"  # a text that begins with a sign is no formula
            cell.alignment = top
            if place == 1:
                cell.font = bold
    for column, width in enumerate((*_WIDTHS, _PICTURE_WIDTH), 1):
        sheet.column_dimensions[chr(64 + column)].width = width
    sheet.freeze_panes = "A2"
    if pictured:
        _add_pictures(sheet, exchange)
    kept = io.BytesIO()
    workbook.save(kept)
    return kept.getvalue()


def _add_pictures(sheet: Worksheet, exchange: Exchange) -> None:
    from openpyxl.drawing.image import Image

    class Still(Image):  # type: ignore[misc]
        """A picture whose size is known, so that nothing has to look into it."""

        def __init__(self, data: bytes) -> None:
            width, height = jpeg_size(data)
            self.ref, self.format = io.BytesIO(data), "jpeg"
            self.height = round(_PICTURE_HEIGHT_PT / 0.75)
            self.width = round(width * self.height / height)

        def _data(self) -> bytes:
            return self.ref.getvalue()

    column = chr(65 + len(_WIDTHS))
    for place, row in enumerate(exchange.rows, 2):
        if row.picture:
            sheet.row_dimensions[place].height = _PICTURE_HEIGHT_PT + 4
            sheet.add_image(Still(row.picture), f"{column}{place}")


def jpeg_size(data: bytes) -> tuple[int, int]:
    """Width and height of a JPEG file, from its frame header (ISO/IEC 10918-1, B.2.2)."""
    at = 2
    while at + 9 < len(data):
        marker, length = data[at + 1], int.from_bytes(data[at + 2 : at + 4], "big")
        if marker in (0xC0, 0xC1, 0xC2):
            return int.from_bytes(data[at + 7 : at + 9], "big"), int.from_bytes(data[at + 5 : at + 7], "big")
        at += 2 + length
    return 1, 1


def read_sheet(data: bytes, where: str) -> Exchange:
    """The lines of a workbook's sheets."""
    from openpyxl import load_workbook

    check_archive(data, where, msg("workbook"))
    try:
        workbook = load_workbook(io.BytesIO(data), data_only=True)
        rows = [row for sheet in workbook.worksheets for row in _rows(sheet)]
    except Exception as error:  # the package raises whatever its parts do
        raise FormatError(
            "{where} is not a workbook that can be read ({name}).", where=where, name=type(error).__name__
        ) from None
    return exchange_from(rows, where)


def _rows(sheet: Worksheet) -> Iterator[tuple[list[str], tuple[LineNote, ...]]]:
    for row in sheet.iter_rows():
        comments = (cell.comment for cell in row if cell.comment is not None)
        notes = (LineNote(comment.text.strip(), comment.author or "") for comment in comments)
        yield [_words(cell.value) for cell in row], tuple(note for note in notes if note.text)


def _words(value: Any) -> str:
    """What a cell says: a number somebody typed is its figures."""
    if value is None:
        return ""
    return str(int(value)) if isinstance(value, float) and value.is_integer() else str(value)
