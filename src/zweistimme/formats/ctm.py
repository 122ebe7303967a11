"""CTM and RTTM, the files of NIST's scoring tools: words with their times, and who speaks when.

CTM has ``file channel start duration word [confidence]`` a line, RTTM ``SPEAKER file channel start duration <NA>
<NA> name <NA> <NA>``; both in seconds.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Final

from zweistimme.messages import tr
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Word
from zweistimme.project.times import SECOND_US, seconds_to_us

_LONGEST_S = 1e6
_ALTERNATIVES = ("<ALT_BEGIN>", "<ALT>", "<ALT_END>")

_OTHER_TYPES: Final = frozenset(
    ("LEXEME", "NON-LEX", "NON-SPEECH", "FILLER", "EDIT", "SU", "IP", "CB", "A/P", "NOSCORE", "NO_RT_METADATA",
     "SPKR-INFO", "SEGMENT", "PAUSE")
)  # fmt: skip
"""Types of lines that RTTM has besides SPEAKER (NIST RT-09, appendix A)."""


@dataclass(frozen=True, slots=True)
class Turn:
    """Somebody speaks in ``[start, end)``."""

    start_us: int
    end_us: int
    speaker: str


@dataclass(frozen=True, slots=True)
class CtmWords:
    """The words of a file in order of time, the channel each is on, and what of the file was left out."""

    words: tuple[Word, ...]
    channels: tuple[str, ...]
    repairs: tuple[Finding, ...] = ()


def parse_ctm(text: str, where: str) -> CtmWords:
    """Words of the first recording a file names. Lines that begin with ``;;`` are comments; of alternatives the first
    is taken; a wrong line is named.

    >>> parse_ctm("demo 1 0.50 0.25 tide 0.9", "x.ctm").words
    (Word(text='tide', start_us=500000, end_us=750000, confidence=0.9, filler=False),)
    """
    found: list[tuple[Word, str]] = []
    others: Counter[str] = Counter()
    recording, alternative, passed_over = "", 0, 0
    for number, line in _lines(text):
        fields = line.split()
        if len(fields) > 4 and fields[4] in _ALTERNATIVES:
            alternative = {"<ALT_BEGIN>": 1, "<ALT>": alternative + 1, "<ALT_END>": 0}[fields[4]]
            continue
        word = _ctm_word(fields, tr("{where}, line {number}", where=where, number=number), line)
        recording = recording or fields[0]
        if fields[0] != recording:
            others[fields[0]] += 1
        elif alternative > 1:
            passed_over += 1
        else:
            found.append((word, fields[1]))
    found.sort(key=lambda one: (one[0].start_us, one[0].end_us))
    repairs = [Finding("other-recording", {"words": count, "name": name}) for name, count in others.items()]
    if passed_over:
        repairs.append(Finding("alternatives-left-out", {"words": passed_over}))
    return CtmWords(tuple(word for word, _ in found), tuple(channel for _, channel in found), tuple(repairs))


def _ctm_word(fields: list[str], place: str, line: str) -> Word:
    try:
        start, length = float(fields[2]), float(fields[3])
        confidence = float(fields[5]) if len(fields) > 5 and fields[5] != "NA" else 1.0
        word = fields[4]
    except (IndexError, ValueError):
        raise FormatError(
            "{place}: “{line}” is not CTM (file channel start duration word confidence).", place=place, line=line[:60]
        ) from None
    _check_times(start, length, tr("{place}: the time of “{word}”", place=place, word=word))
    share = min(max(confidence, 0.0), 1.0) if math.isfinite(confidence) else 0.0
    return Word(word, seconds_to_us(start), seconds_to_us(start + length), share)


def parse_rttm(text: str, where: str, repairs: list[Finding] | None = None) -> list[Turn]:
    """Turns in order of time; lines of the other types that RTTM has are passed over. Lines of types that it has not,
    and turns that last no time, are left out, which is added to *repairs*.

    >>> parse_rttm("SPEAKER demo 1 3.4 4.5 <NA> <NA> Mira <NA> <NA>", "x.rttm")
    [Turn(start_us=3400000, end_us=7900000, speaker='Mira')]
    """
    turns = []
    for number, line in _lines(text):
        fields = line.split()
        if fields[0].upper() != "SPEAKER":
            if fields[0].upper() not in _OTHER_TYPES and repairs is not None:
                repairs.append(Finding("rttm-type-unknown", {"type": fields[0][:40]}, place=f"line {number}"))
            continue
        try:
            start, length, speaker = float(fields[3]), float(fields[4]), fields[7]
        except (IndexError, ValueError):
            raise FormatError(
                "{where}, line {number}: “{line}” is not a SPEAKER line of RTTM.",
                where=where,
                number=number,
                line=line[:60],
            ) from None
        _check_times(start, length, tr("{where}, line {number}: the time", where=where, number=number))
        if length <= 0:
            if repairs is not None:
                repairs.append(Finding("turn-without-time", {"speaker": speaker}, place=f"line {number}"))
            continue
        turns.append(Turn(seconds_to_us(start), seconds_to_us(start + length), speaker.replace("_", " ")))
    return sorted(turns, key=lambda turn: (turn.start_us, turn.end_us))


def _lines(text: str) -> Iterator[tuple[int, str]]:
    for number, line in enumerate(text.splitlines(), 1):
        if line.strip() and not line.startswith(";;"):
            yield number, line


def _check_times(start: float, length: float, what: str) -> None:
    if not (0 <= start < _LONGEST_S and 0 <= length < _LONGEST_S):
        raise FormatError("{what} makes no sense. Times are seconds from the beginning.", what=what)


def write_ctm(words: Iterable[Word], name: str) -> str:
    """CTM to the microsecond."""
    file = name.replace(" ", "_") or "programme"
    return "".join(
        f"{file} 1 {_s(w.start_us)} {_s(w.end_us - w.start_us)} {w.text} {w.confidence:.3f}\n" for w in words
    )


def write_rttm(turns: Iterable[Turn], name: str) -> str:
    """RTTM to the microsecond; spaces in names become underscores."""
    file = name.replace(" ", "_") or "programme"
    return "".join(
        f"SPEAKER {file} 1 {_s(t.start_us)} {_s(t.end_us - t.start_us)} <NA> <NA> "
        f"{'_'.join(t.speaker.split()) or 'unknown'} <NA> <NA>\n"
        for t in turns
    )


def _s(time_us: int) -> str:
    return f"{time_us // SECOND_US}.{time_us % SECOND_US:06d}"
