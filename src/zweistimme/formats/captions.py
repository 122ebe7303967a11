"""SubRip and WebVTT, read and written. Times are whole microseconds; both formats keep milliseconds."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from zweistimme.formats.text import read_text
from zweistimme.project.errors import FormatError


@dataclass(frozen=True, slots=True)
class Cue:
    """One caption: ``[start, end)``, its lines, and who speaks if the file says so."""

    start_us: int
    end_us: int
    text: str
    speaker: str = ""


_TIME = r"(?:(\d{1,4}):)?(\d{1,2}):(\d{2})[.,](\d{1,3})"
_ARROW: Final = re.compile(rf"^\s*(-?){_TIME}\s*-->\s*(-?){_TIME}")
_SPAN: Final = re.compile(r"<v(?:\.[^\s>]*)?\s+([^>]+)>")
_TAG: Final = re.compile(r"</?[a-zA-Z][^>]*>|<\d[\d:.]*>|\{\\[^}]*\}")
_NAME: Final = re.compile(r"^([^\W\d_][\w .'’\-]{0,30}?):\s+(?=\S)")


def read_captions(path: Path) -> list[Cue]:
    """Cues of an SRT or WebVTT file, sorted by start."""
    text = read_text(path)
    cues = parse_captions(text, where=str(path), is_vtt=text.lstrip().startswith("WEBVTT"))
    if not cues:
        raise FormatError(f"{path} holds no captions. Give a SubRip (.srt) or WebVTT (.vtt) file.")
    return cues


def parse_captions(text: str, *, where: str, is_vtt: bool) -> list[Cue]:
    """Cues of a text. A cue with no words is left out; one that ends before it starts is refused with its line."""
    lines = text.split("\n")
    cues: list[Cue] = []
    number = 0
    while number < len(lines):
        match = _ARROW.match(lines[number])
        if not match:
            if "-->" in lines[number] and not lines[number].startswith("NOTE"):
                raise FormatError(f"{where}, line {number + 1}: “{lines[number].strip()[:60]}” is not a caption time.")
            number += 1
            continue
        at = number + 1
        start, end = _time(match, 0), _time(match, 5)
        if end <= start or start < 0:
            raise FormatError(f"{where}, line {at}: this caption ends before it starts. Correct its times.")
        number += 1
        body: list[str] = []
        while number < len(lines) and lines[number].strip() and not _ARROW.match(lines[number]):
            body.append(lines[number])
            number += 1
        if number < len(lines) and body and _ARROW.match(lines[number]) and body[-1].strip().isdigit():
            body.pop()  # the next cue's number, where the blank line is missing
        cue = _cue(start, end, body, is_vtt=is_vtt)
        if cue.text:
            cues.append(cue)
    return sorted(cues, key=lambda cue: (cue.start_us, cue.end_us))


def _time(match: re.Match[str], first: int) -> int:
    sign, hours, minutes, seconds, fraction = match.groups()[first : first + 5]
    millis = int(fraction.ljust(3, "0"))
    total = ((int(hours or 0) * 60 + int(minutes)) * 60 + int(seconds)) * 1000 + millis
    return (-total if sign else total) * 1000


def _cue(start: int, end: int, body: list[str], *, is_vtt: bool) -> Cue:
    text = "\n".join(line.strip() for line in body)
    speaker = ""
    span = _SPAN.search(text)
    if span:
        speaker = span.group(1).strip()
    text = _TAG.sub("", text)
    text = html.unescape(text) if is_vtt else text
    name = _NAME.match(text)
    if name and not speaker and _is_name(name.group(1)):
        speaker, text = name.group(1).strip(), text[name.end() :]
    return Cue(start, end, text.strip(), speaker)


def _is_name(text: str) -> bool:
    """Whether what stands before a colon is a name: few words, none beginning small. “Time is 4:” is none."""
    words = text.split()
    return len(words) <= 3 and all(word[0].isupper() or word[0].isdigit() for word in words)


def write_srt(cues: Iterable[Cue]) -> str:
    """SubRip; a speaker is not written."""
    blocks = [
        f"{number}\n{_stamp(cue.start_us, ',')} --> {_stamp(cue.end_us, ',')}\n{cue.text}\n"
        for number, cue in enumerate(cues, 1)
    ]
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
