"""SubRip and WebVTT, read and written. Times are whole microseconds; both formats keep milliseconds."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path
from typing import Final

from zweistimme.formats.cue import Cue, Found, Reading, Repair, mended
from zweistimme.formats.names import name_and_words
from zweistimme.formats.text import read_text
from zweistimme.project.errors import FormatError

_TIME = r"(?:(\d{1,4}):)?(\d{1,2}):(\d{2})[.,](\d{1,3})"
_ARROW: Final = re.compile(rf"^\s*(-?){_TIME}\s*-->\s*(-?){_TIME}")
_LIKE_TIME: Final = re.compile(r"^\s*-?\d[\d:.,]*\s*--")
_NO_CUES: Final = ("WEBVTT", "NOTE", "STYLE", "REGION")
_SPAN: Final = re.compile(r"<v(?:\.[^\s>]*)?\s+([^>]+)>")
_TAG: Final = re.compile(r"</?[a-zA-Z][^>]*>|<\d[\d:.]*>|\{\\[^}]*\}")


def read_captions(path: Path) -> Reading:
    """The cues of an SRT or WebVTT file."""
    text, repairs = read_text(path)
    reading = parse_captions(text, where=str(path), is_vtt=text.lstrip().startswith("WEBVTT"))
    if not reading.cues:
        raise FormatError(f"{path} holds no captions. Give a SubRip (.srt) or WebVTT (.vtt) file.")
    return replace(reading, repairs=(*repairs, *reading.repairs))


def parse_captions(text: str, *, where: str, is_vtt: bool) -> Reading:
    """The cues of a text. What can safely be put right is, and said; a time that cannot be read is refused."""
    lines = text.split("\n")
    found: list[Found] = []
    stray: list[Repair] = []
    tags = number = head = 0
    while number < len(lines):
        match = _ARROW.match(lines[number])
        if not match:
            head = number if number == 0 or not lines[number - 1].strip() else head
            beside = lines[head].startswith(_NO_CUES)
            if "-->" in lines[number] and (not beside or _LIKE_TIME.match(lines[number])):
                raise _no_time(where, number, lines[number])
            named = number + 1 < len(lines) and _ARROW.match(lines[number + 1])
            if lines[number].strip() and not (beside or named or lines[number].strip().isdigit()):
                words = lines[number].strip()[:40]
                stray.append(Repair(f"line {number + 1}", f"“{words}” belongs to no caption and is left out"))
            number += 1
            continue
        place = f"line {number + 1}"
        number += 1
        body: list[str] = []
        while number < len(lines) and lines[number].strip() and not _ARROW.match(lines[number]):
            if _LIKE_TIME.match(lines[number]):
                raise _no_time(where, number, lines[number])
            body.append(lines[number])
            number += 1
        if number < len(lines) and body and _ARROW.match(lines[number]) and body[-1].strip().isdigit():
            body.pop()  # the next cue's number, where the blank line is missing
        cue, removed = _cue(_time(match, 0), _time(match, 5), body, is_vtt=is_vtt)
        tags += removed
        found.append(Found(place, cue))
    cues, repairs = mended(found)
    repairs += stray
    if tags:
        repairs.append(Repair("", f"{tags:,} tag{'s' if tags > 1 else ''} for type and colour left out"))
    return Reading(cues, tuple(repairs), _language(lines) if is_vtt else "")


def _no_time(where: str, number: int, line: str) -> FormatError:
    return FormatError(f"{where}, line {number + 1}: “{line.strip()[:60]}” is not a caption time. Correct it.")


def _language(lines: list[str]) -> str:
    """What the head of a WebVTT file says of its language."""
    for line in lines[:20]:
        name, colon, value = line.partition(":")
        if colon and name.strip().lower() == "language":
            return value.strip()
        if "-->" in line:
            break
    return ""


def _time(match: re.Match[str], first: int) -> int:
    sign, hours, minutes, seconds, fraction = match.groups()[first : first + 5]
    millis = int(fraction.ljust(3, "0"))
    total = ((int(hours or 0) * 60 + int(minutes)) * 60 + int(seconds)) * 1000 + millis
    return (-total if sign else total) * 1000


def _cue(start: int, end: int, body: list[str], *, is_vtt: bool) -> tuple[Cue, int]:
    """A cue, and how many tags were taken out of it."""
    text = "\n".join(line.strip() for line in body)
    speaker = ""
    span = _SPAN.search(text)
    if span:
        speaker = html.unescape(span.group(1)).strip()
    text, tags = _TAG.subn("", text)
    if span:
        tags -= 1 + body[-1].endswith("</v>")
    text = html.unescape(text) if is_vtt else text
    if not speaker:
        speaker, text = name_and_words(text)
    return Cue(start, end, "\n".join(line for line in text.strip().split("\n") if line.strip()), speaker), tags


def write_srt(cues: Iterable[Cue], *, names: bool = False) -> str:
    """SubRip. It has no place for a speaker; with *names* one stands before the words where it changes nothing else."""
    blocks = []
    for number, cue in enumerate(cues, 1):
        name = f"{cue.speaker}: " if names and name_and_words(f"{cue.speaker}: x")[0] == cue.speaker else ""
        blocks.append(f"{number}\n{_stamp(cue.start_us, ',')} --> {_stamp(cue.end_us, ',')}\n{name}{cue.text}\n")
    return "\n".join(blocks)


def write_vtt(cues: Iterable[Cue], tag: str) -> str:
    """WebVTT (W3C), speakers as voice spans."""
    blocks = [f"WEBVTT\nLanguage: {tag}\n"]
    for cue in cues:
        text = html.escape(cue.text, quote=False)
        voice = f"<v {html.escape(cue.speaker, quote=False)}>" if cue.speaker else ""
        blocks.append(f"{_stamp(cue.start_us, '.')} --> {_stamp(cue.end_us, '.')}\n{voice}{text}\n")
    return "\n".join(blocks)


def _stamp(time_us: int, point: str) -> str:
    millis = (time_us + 500) // 1000
    seconds, millis = divmod(millis, 1000)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{point}{millis:03d}"
