"""SubRip and WebVTT, read and written. Times are whole microseconds; both formats keep milliseconds."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path
from typing import Final

from zweistimme.formats.cue import Cue, Found, Reading, Repair, mended
from zweistimme.formats.dialogue import by_dashes, split
from zweistimme.formats.names import name_and_words
from zweistimme.formats.stamps import read_time, stamped, stamped_words, without_stamps, written_time
from zweistimme.formats.text import read_text
from zweistimme.project.errors import FormatError
from zweistimme.project.writing import RTL_MARK, is_rtl, runs_right_to_left, words_in

_TIME = r"(?:(\d{1,4}):)?(\d{1,2}):(\d{2})[.,](\d{1,3})"
_ARROW: Final = re.compile(rf"^\s*(-?){_TIME}\s*-->\s*(-?){_TIME}")
_LIKE_TIME: Final = re.compile(r"^\s*-?\d[\d:.,]*\s*--")
_NO_CUES: Final = ("WEBVTT", "NOTE", "STYLE", "REGION")
_SPAN: Final = re.compile(r"<v(?:\.[^\s<>]*)?\s([^<>]+)>")
_SPAN_END: Final = "</v>"
_MARKUP: Final = re.compile(r"</?[a-zA-Z][^<>]*>")
_TAG: Final = re.compile(_MARKUP.pattern + r"|<\d[\d:.]*>|\{\\[^{}]*\}")


def read_captions(path: Path, *, whole: bool = False) -> Reading:
    """The cues of an SRT or WebVTT file."""
    text, repairs = read_text(path)
    reading = parse_captions(text, where=str(path), is_vtt=text.lstrip().startswith("WEBVTT"), whole=whole)
    if not reading.cues:
        raise FormatError(f"{path} holds no captions. Give a SubRip (.srt) or WebVTT (.vtt) file.")
    return replace(reading, repairs=(*repairs, *reading.repairs))


def parse_captions(text: str, *, where: str, is_vtt: bool, whole: bool = False) -> Reading:
    """The cues of a text. What can safely be put right is, and said; a time that cannot be read is refused.

    With *whole*, a caption of several people is left as it is shown; else there is a cue for each dash.
    """
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
        inside, stamps = without_stamps("\n".join(line.strip().strip(RTL_MARK) for line in body))
        parts, removed = _parts(inside, is_vtt=is_vtt)
        tags += removed
        one = Found(place, Cue(_time(match, 0), _time(match, 5), parts[0][1], parts[0][0]))
        if stamps:
            one = _with_words(one, "\n".join(body), stray)
        found += split(one, parts, stray)
    cues, repairs = mended(found if whole else by_dashes(found, stray))
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
    sign, *clock = match.groups()[first : first + 5]
    return -read_time(*clock) if sign else read_time(*clock)


def _with_words(one: Found, text: str, repairs: list[Repair]) -> Found:
    """A caption with the words of its text, where their times make sense."""
    cue, texts = one.cue, words_in(one.cue.text)
    words = stamped_words(_MARKUP.sub("", text), cue.start_us, cue.end_us)[-len(texts) :]  # no name before them
    if [word.text for word in words] == texts:
        return Found(one.place, replace(cue, words=words))
    repairs.append(Repair(one.place, "the times of its words are not in order, or not for one speaker; left out"))
    return one


def _parts(text: str, *, is_vtt: bool) -> tuple[list[tuple[str, str]], int]:
    """Who says what in a caption, at least one (speaker, words); and how many tags were taken out of it."""
    before, *spans = _SPAN.split(text.replace(_SPAN_END, ""))
    parts: list[tuple[str, str]] = []
    tags = 0 if spans else text.count(_SPAN_END)
    for speaker, words in [("", before), *zip(spans[::2], spans[1::2], strict=True)]:
        words, removed = _TAG.subn("", words)
        words = "\n".join(line.strip() for line in words.split("\n") if line.strip())
        speaker, words = (html.unescape(speaker).strip(), html.unescape(words)) if is_vtt else (speaker, words)
        tags += removed
        if not speaker:
            speaker, words = name_and_words(words)
        if parts and parts[-1][0] == speaker:
            parts[-1] = speaker, f"{parts[-1][1]}\n{words}"
        elif words:
            parts.append((speaker, words))
    return parts or [("", "")], tags


def marked_text(text: str, tag: str) -> str:
    """A caption's text with marks about each line that runs from right to left, so that a player which looks only at
    the player's own direction puts its full stop where it belongs.

    >>> marked_text("שלום.", "he-IL") == f"{RTL_MARK}שלום.{RTL_MARK}", marked_text("Yes.", "en-GB")
    (True, 'Yes.')
    """
    if not (runs_right_to_left(tag) or is_rtl(text)):
        return text
    return "\n".join(f"{RTL_MARK}{line}{RTL_MARK}" for line in text.split("\n"))


def write_srt(cues: Iterable[Cue], tag: str = "", *, names: bool = False) -> str:
    """SubRip. It has no place for a speaker; with *names* one stands before the words where it changes nothing else."""
    blocks = []
    for number, cue in enumerate(cues, 1):
        name = f"{cue.speaker}: " if names and name_and_words(f"{cue.speaker}: x")[0] == cue.speaker else ""
        times = f"{written_time(cue.start_us, ',')} --> {written_time(cue.end_us, ',')}"
        blocks.append(f"{number}\n{times}\n{marked_text(name + cue.text, tag)}\n")
    return "\n".join(blocks)


def write_vtt(cues: Iterable[Cue], tag: str) -> str:
    """WebVTT (W3C), speakers as voice spans; words with times have them inside the text."""
    blocks = [f"WEBVTT\nLanguage: {tag}\n"]
    for cue in cues:
        text = stamped(cue) if cue.words else html.escape(marked_text(cue.text, tag), quote=False)
        voice = f"<v {html.escape(cue.speaker, quote=False)}>" if cue.speaker else ""
        blocks.append(f"{written_time(cue.start_us, '.')} --> {written_time(cue.end_us, '.')}\n{voice}{text}\n")
    return "\n".join(blocks)
