"""SubRip and WebVTT, read and written. Times are whole microseconds; both formats keep milliseconds."""

from __future__ import annotations

import html
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.formats.cue import Cue, Found, Reading, mended
from zweistimme.formats.dialogue import by_dashes, split
from zweistimme.formats.names import name_and_words
from zweistimme.formats.stamps import read_time, stamped, stamped_words, without_stamps, written_time
from zweistimme.formats.text import read_text
from zweistimme.project.errors import EditError, FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.timecode import timecode_us
from zweistimme.project.writing import RTL_MARK, is_rtl, runs_right_to_left, words_in

_TIME = r"(?:(\d{1,4}):)?(\d{1,2}):(\d{2})[.,](\d{1,3})"
_SMPTE = r"(-?\d{1,2}:\d{2}:\d{2}[:;]\d{2,3})"
_ARROW: Final = re.compile(rf"^\s*(-?){_TIME}\s*-->\s*(-?){_TIME}[ \t]*(.*)$")
_FRAMES_ARROW: Final = re.compile(rf"^\s*{_SMPTE}\s*-->\s*{_SMPTE}[ \t]*(.*)$")
_PLACED: Final = re.compile(r"\b[XY][12]:\d|\b(?:line|position|align|size|vertical|region):\S", re.I)
_BESIDE: Final = ("STYLE", "REGION", "NOTE")
_LIKE_TIME: Final = re.compile(r"^\s*-?\d[\d:.,]*\s*--")
_NO_CUES: Final = ("WEBVTT", "NOTE", "STYLE", "REGION")
_SPAN: Final = re.compile(r"<v(?:\.[^\s<>]*)?\s([^<>]+)>")
_SPAN_END: Final = "</v>"
_MARKUP: Final = re.compile(r"</?[a-zA-Z][^<>]*>")
_TAG: Final = re.compile(_MARKUP.pattern + r"|<\d[\d:.]*>|\{\\[^{}]*\}")


def read_captions(path: Path, context: Context = NOTHING_KNOWN, *, whole: bool = False) -> Reading:
    """The cues of an SRT or WebVTT file."""
    text, repairs = read_text(path, context)
    is_vtt = text.lstrip().startswith("WEBVTT")
    reading = parse_captions(text, where=str(path), is_vtt=is_vtt, context=context, whole=whole)
    if not reading.cues:
        raise FormatError("{path} holds no captions. Give a SubRip (.srt) or WebVTT (.vtt) file.", path=path)
    return replace(reading, repairs=(*repairs, *reading.repairs))


def parse_captions(
    text: str, *, where: str, is_vtt: bool, context: Context = NOTHING_KNOWN, whole: bool = False
) -> Reading:
    """The cues of a text. What can safely be put right is, and said; a time that cannot be read is refused.

    With *whole*, a caption of several people is left as it is shown; else there is a cue for each dash.
    """
    reader = _Reader(where, is_vtt, context)
    for block in _blocks(text.split("\n")):
        reader.take(block)
    found = reader.finished()
    cues, repairs = mended(found if whole else by_dashes(found, reader.repairs, context.split_name))
    return Reading(cues, tuple([*repairs, *reader.repairs, *reader.left_out()]), reader.language)


@dataclass(frozen=True, slots=True)
class _Block:
    """Lines up to an empty one; *first* is the number of the first in the file, from 1."""

    first: int
    lines: tuple[str, ...]


def _blocks(lines: list[str]) -> Iterator[_Block]:
    """Blocks of lines; a line with times begins a new one where the empty line before it is missing."""
    held: list[str] = []
    first = 1
    for number, line in enumerate(lines, 1):
        starts = bool(_ARROW.match(line) or _FRAMES_ARROW.match(line)) and any(
            _ARROW.match(other) or _FRAMES_ARROW.match(other) for other in held
        )
        if held and (starts or not line.strip()):
            tail = [held.pop()] if starts and len(held) > 1 and _is_next_number(held) else []
            yield _Block(first, tuple(held))
            first, held = number - len(tail), tail
        if line.strip():
            first = first if held else number
            held.append(line)
    if held:
        yield _Block(first, tuple(held))


def _is_next_number(lines: list[str]) -> bool:
    """Whether the last line is the number of the next caption: one more than that of this one, which has words."""
    last, head = lines[-1].strip(), lines[0].strip()
    return last.isdigit() and len(lines) > 2 and (not head.isdigit() or int(last) == int(head) + 1)


class _Reader:
    """Takes blocks of a file one after the other."""

    def __init__(self, where: str, is_vtt: bool, context: Context) -> None:
        self._where, self._is_vtt, self._context = where, is_vtt, context
        self.repairs: list[Finding] = []
        self.language = ""
        self._found: list[Found] = []
        self._raw: tuple[str, list[str], Cue] | None = None
        self._left: Counter[str] = Counter()
        self._tags = self._placed = 0
        self._begun = False

    def take(self, block: _Block) -> None:
        """The next block."""
        lines, timed = block.lines, self._timed_line(block)
        if timed is None:
            self._take_untimed(block)
            return
        self._close()
        place = f"line {block.first + timed}"
        start, end, settings = self._times(lines[timed], block.first + timed)
        self._placed += bool(_PLACED.search(settings))
        for number, line in enumerate(lines[timed + 1 :], block.first + timed + 1):
            if _LIKE_TIME.match(line):
                raise _no_time(self._where, number, line)
        for number, line in enumerate(lines[:timed], block.first):
            if number < block.first + timed - 1:  # only the line right above the times can be their name
                self._stray(number, line)
        self._raw = place, list(lines[timed + 1 :]), Cue(start, end, "")

    def _timed_line(self, block: _Block) -> int | None:
        for number, line in enumerate(block.lines):
            if _ARROW.match(line) or _FRAMES_ARROW.match(line):
                return number
            head = block.lines[0]
            if "-->" in line and (not head.startswith(_NO_CUES) or _LIKE_TIME.match(line)):
                raise _no_time(self._where, block.first + number, line)
        return None

    def _times(self, line: str, number: int) -> tuple[int, int, str]:
        match = _ARROW.match(line)
        if match:
            return _time(match, 0), _time(match, 5), match.group(11)
        frames = _FRAMES_ARROW.match(line)
        assert frames is not None
        if self._context.rate is None:
            raise FormatError(
                "{where}, line {number}: times with frames need a programme with a picture, or its rate.",
                where=self._where,
                number=number,
            )
        try:
            start, end = (timecode_us(frames.group(k), self._context.rate) for k in (1, 2))
        except EditError as error:
            raise FormatError("{where}, line {number}: {why}", where=self._where, number=number, why=error) from None
        return start, end, frames.group(3)

    def _take_untimed(self, block: _Block) -> None:
        head = block.lines[0]
        kind = next((kind for kind in _BESIDE if head.startswith(kind)), "")
        if self._is_vtt and not self._begun and head.lstrip("\ufeff").startswith("WEBVTT"):
            self._take_head(block)
        elif self._is_vtt and kind:
            name, colon, value = head.removeprefix("NOTE").partition(":")
            if kind == "NOTE" and colon and name.strip().lower() == "language":
                self.language = self.language or value.strip()
            else:
                self._left[kind] += 1
        elif self._raw is not None and not self._is_vtt:
            # SubRip: an empty line inside a caption; what stands behind it is said, too
            self._raw[1].extend(block.lines)
            self.repairs.append(Finding("line-inside-caption", {}, place=f"line {block.first}"))
        else:
            for number, line in enumerate(block.lines, block.first):
                self._stray(number, line)
        self._begun = True

    def _take_head(self, block: _Block) -> None:
        for line in block.lines[1:]:
            name, colon, value = line.partition(":")
            if colon and name.strip().lower() == "language":
                self.language = value.strip()
            elif line.startswith("X-TIMESTAMP-MAP"):
                self.repairs.append(Finding("broadcast-clock"))

    def _stray(self, number: int, line: str) -> None:
        if line.strip() and not (line.strip().isdigit() and not self._is_vtt):
            words = line.strip()[:40]
            self.repairs.append(Finding("stray-line", {"words": words}, place=f"line {number}"))

    def _close(self) -> None:
        """The caption that was begun is complete."""
        if self._raw is None:
            return
        place, body, cue = self._raw
        self._raw = None
        inside, stamps = without_stamps("\n".join(line.strip().strip(RTL_MARK) for line in body))
        parts, removed = _parts(inside, is_vtt=self._is_vtt, split_name=self._context.split_name)
        self._tags += removed
        one = Found(place, replace(cue, text=parts[0][1], speaker=parts[0][0]))
        if stamps:
            one = _with_words(one, "\n".join(body), self.repairs)
        self._found += split(one, parts, self.repairs)

    def finished(self) -> list[Found]:
        """All captions as they stand in the file."""
        self._close()
        return self._found

    def left_out(self) -> list[Finding]:
        """What the file holds that is not kept, counted."""
        counted = (
            ("tags", self._tags),
            ("places", self._placed),
            *((kind.lower(), n) for kind, n in self._left.items()),
        )
        return [Finding(f"{kind}-left-out", {"count": count}) for kind, count in counted if count]


def _no_time(where: str, number: int, line: str) -> FormatError:
    return FormatError(
        "{where}, line {number}: “{line}” is not a caption time. Correct it.",
        where=where,
        number=number,
        line=line.strip()[:60],
    )


def _time(match: re.Match[str], first: int) -> int:
    sign, *clock = match.groups()[first : first + 5]
    return -read_time(*clock) if sign else read_time(*clock)


def _with_words(one: Found, text: str, repairs: list[Finding]) -> Found:
    """A caption with the words of its text, where their times make sense."""
    cue, texts = one.cue, words_in(one.cue.text)
    words = stamped_words(_MARKUP.sub("", text), cue.start_us, cue.end_us)[-len(texts) :]  # no name before them
    if [word.text for word in words] == texts:
        return Found(one.place, replace(cue, words=words))
    repairs.append(Finding("word-times-left-out", {}, place=one.place))
    return one


def _parts(
    text: str, *, is_vtt: bool, split_name: Callable[[str], tuple[str, str]]
) -> tuple[list[tuple[str, str]], int]:
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
            speaker, words = split_name(words)
        if parts and parts[-1][0] == speaker:
            parts[-1] = speaker, f"{parts[-1][1]}\n{words}"
        elif words:
            parts.append((speaker, words))
    return parts or [("", "")], tags


def marked_text(text: str, tag: str = "") -> str:
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
    blocks = [f"WEBVTT\n\nNOTE Language: {tag}\n"]
    for cue in cues:
        text = stamped(cue) if cue.words else html.escape(marked_text(cue.text, tag), quote=False)
        voice = f"<v {html.escape(cue.speaker, quote=False)}>" if cue.speaker else ""
        blocks.append(f"{written_time(cue.start_us, '.')} --> {written_time(cue.end_us, '.')}\n{voice}{text}\n")
    return "\n".join(blocks)
