"""Transcripts as CSV (RFC 4180): a header, then ``start,end,speaker,text``, times in seconds."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from typing import Final

from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.formats.cue import Cue, Found, Reading, mended
from zweistimme.project.errors import EditError, FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.timecode import is_timecode, timecode_us
from zweistimme.project.times import SECOND_US

COLUMNS: Final = ("start", "end", "speaker", "text")
_NAMES: Final = {
    "start": {"start", "begin", "in", "from", "von", "inicio"},
    "end": {"end", "out", "to", "bis", "fin"},
    "speaker": {"speaker", "name", "who", "character", "sprecher", "hablante"},
    "text": {"text", "words", "line", "transcript", "satz", "texto"},
}
_CLOCK: Final = re.compile(r"^(-?)(?:(?:(\d{1,4}):)?(\d{1,4}):)?(\d{1,7})(?:[.,](\d{1,6}))?\s*s?$")
_SWALLOWED: Final = re.compile(r"(?m)^\s*\d+(?:[:.]\d+)+\s*[,;\t]\s*\d+(?:[:.]\d+)+\s*[,;\t]")
"""Rows inside a field: whoever opened the quotation mark never closed it."""
_LONGEST_FIELD: Final = 100_000


def parse_table(text: str, where: str, context: Context = NOTHING_KNOWN) -> Reading:
    """A table whose first row names its columns; commas, semicolons or tabs between fields."""
    csv.field_size_limit(_LONGEST_FIELD)
    first = text.partition("\n")[0]
    delimiter = max(",;\t", key=first.count)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    found: list[Found] = []
    odd: list[Finding] = []
    try:
        places = _columns(next(rows, []), where)
        width = max(places.values()) + 1
        for row in rows:
            if any(field.strip() for field in row):
                place = f"line {rows.line_num}"
                row = _with_all_its_words(row, places, width, delimiter, place, odd)
                cells = {name: row[k].strip() if k < len(row) else "" for name, k in places.items()}
                start, end = (
                    _time(cells[name], f"{where}, {place}, column {name}", context) for name in ("start", "end")
                )
                if _SWALLOWED.search(cells["text"]):
                    raise FormatError(
                        "{where}, {place}: a quotation mark before it is not closed. Close it.",
                        where=where,
                        place=place,
                    )
                words = "\n".join(" ".join(line.split()) for line in cells["text"].splitlines() if line.strip())
                found.append(Found(place, Cue(start, end, words, " ".join(cells.get("speaker", "").split()))))
    except csv.Error as error:
        raise FormatError(
            "{where}, line {line_num}: this is not CSV ({why}).", where=where, line_num=rows.line_num, why=error
        ) from None
    cues, repairs = mended(found)
    return Reading(cues, tuple([*repairs, *odd]))


def _with_all_its_words(
    row: list[str], places: dict[str, int], width: int, delimiter: str, place: str, odd: list[Finding]
) -> list[str]:
    """A row whose last field was cut at a comma nobody quoted, put together again if that field is the words."""
    extra = [field for field in row[width:] if field.strip()]
    if not extra:
        return row
    if places["text"] == width - 1:
        odd.append(Finding("comma-kept", {}, place=place))
        return [*row[: width - 1], delimiter.join(row[width - 1 :])]
    odd.append(Finding("behind-last-column", {"words": extra[0].strip()[:40]}, place=place))
    return row


def _columns(header: list[str], where: str) -> dict[str, int]:
    places: dict[str, int] = {}
    for number, name in enumerate(header):
        bare = name.strip().lower().removesuffix("_s").removesuffix(" (s)")
        for column, names in _NAMES.items():
            if bare in names:
                places.setdefault(column, number)
    missing = [column for column in ("start", "end", "text") if column not in places]
    if missing:
        raise FormatError(
            "{where}: its first line names no column {names}. It should be: {columns}.",
            where=where,
            names=" and no ".join(missing),
            columns=",".join(COLUMNS),
        )
    return places


def _time(text: str, place: str, context: Context) -> int:
    """Seconds, or h:mm:ss, with or without a fraction; or a timecode where the rate is known."""
    if is_timecode(text) and context.rate is not None:
        try:
            return timecode_us(text, context.rate)
        except EditError as error:
            raise FormatError("{place}: {why}", place=place, why=error) from None
    match = _CLOCK.match(text)
    if not match:
        raise FormatError(
            "{place}: “{text}” is not a time. Write seconds (62.5) or a clock time (1:02.5).",
            place=place,
            text=text[:30],
        )
    sign, hours, minutes, seconds, fraction = match.groups()
    total = ((int(hours or 0) * 60 + int(minutes or 0)) * 60 + int(seconds)) * SECOND_US
    total += int((fraction or "0").ljust(6, "0"))
    return -total if sign else total


def write_table(cues: Iterable[Cue]) -> str:
    """Times in seconds, to the microsecond."""
    file = io.StringIO(newline="")
    rows = csv.writer(file)
    rows.writerow(COLUMNS)
    for cue in cues:
        rows.writerow([_seconds(cue.start_us), _seconds(cue.end_us), cue.speaker, cue.text])
    return file.getvalue()


def _seconds(time_us: int) -> str:
    return f"{time_us // SECOND_US}.{time_us % SECOND_US:06d}"
