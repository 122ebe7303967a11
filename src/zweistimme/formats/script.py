"""Scripts with times: one line each, ``[0:12.5] Name: words`` or ``[0:12.5 - 0:15.0] Name: words``."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path
from typing import Final

from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.formats.cue import Cue, Reading
from zweistimme.formats.text import read_text
from zweistimme.project.errors import FormatError
from zweistimme.project.times import SECOND_US

_CLOCK = r"(?:(\d+):)?(\d{1,2}):(\d{2}(?:\.\d+)?)"
_LINE: Final = re.compile(rf"^\[{_CLOCK}(?:\s*[-–]\s*{_CLOCK})?\]\s*([^:]{{1,40}}):\s*(\S.*)$")
_LETTERS_PER_SECOND: Final = 15.0
_GAP_US: Final = 200_000


def read_script(path: Path, context: Context = NOTHING_KNOWN) -> Reading:
    """The script with times in a file."""
    text, repairs = read_text(path, context)
    return replace(parse_script(text, str(path)), repairs=repairs)


def has_times(path: Path, context: Context = NOTHING_KNOWN) -> bool:
    """Whether a script says when each line is said, as its first line does or not."""
    if path.suffix.lower() != ".txt":
        return False
    lines = (line.strip() for line in read_text(path, context)[0].split("\n"))
    first = next((line for line in lines if line and not line.startswith("#")), "")
    return first.startswith("[") and bool(_LINE.match(first))


def parse_script(text: str, where: str) -> Reading:
    """Lines of a script as cues. Where no end is given, a line lasts as long as it takes to say, at most until
    shortly before the next."""
    rows: list[tuple[int, int | None, str, str]] = []
    for number, line in enumerate(text.split("\n"), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        match = _LINE.match(line.strip())
        if not match:
            raise FormatError(
                "{where}, line {number}: “{line}” is not “[0:12.5] Name: words”. Correct it, or put # before it.",
                where=where,
                number=number,
                line=line.strip()[:60],
            )
        start = _clock(match.group(1, 2, 3))
        end = _clock(match.group(4, 5, 6)) if match.group(6) else None
        if end is not None and end <= start:
            raise FormatError(
                "{where}, line {number}: the line ends before it starts. Correct its times.", where=where, number=number
            )
        rows.append((start, end, match.group(7).strip(), match.group(8).strip()))
    if not rows:
        raise FormatError("{where} holds no lines. Write them as “[0:12.5] Name: words”.", where=where)
    rows.sort(key=lambda row: row[0])
    following = [row[0] for row in rows[1:]] + [None]
    cues = [
        Cue(start, end or _guessed_end(start, text, after), text, speaker)
        for (start, end, speaker, text), after in zip(rows, following, strict=True)
    ]
    return Reading(tuple(cues))


def _clock(parts: tuple[str | None, ...]) -> int:
    hours, minutes, seconds = parts
    return round((int(hours or 0) * 3600 + int(minutes or 0) * 60 + float(seconds or 0)) * SECOND_US)


def _guessed_end(start: int, text: str, after: int | None) -> int:
    end = start + round((0.4 + len(text) / _LETTERS_PER_SECOND) * SECOND_US)
    return end if after is None else max(min(end, after - _GAP_US), start + _GAP_US)
