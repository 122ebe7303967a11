"""What every file of timed text comes to: cues, and what had to be mended to get them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

from zweistimme.messages import msg
from zweistimme.project.findings import Finding, reason
from zweistimme.project.model import Word
from zweistimme.project.writing import one_line

_LETTERS_PER_SECOND: Final = 15.0
_LEAST_US: Final = 500_000
_ROOM_US: Final = 100_000


@dataclass(frozen=True, slots=True)
class Cue:
    """One caption or utterance: ``[start, end)``, its text, who speaks if the file says so, and its words if the
    file has their times."""

    start_us: int
    end_us: int
    text: str
    speaker: str = ""
    words: tuple[Word, ...] = ()


@dataclass(frozen=True, slots=True)
class Reading:
    """A file as it was understood. *language* is what the file says of itself, if anything."""

    cues: tuple[Cue, ...]
    repairs: tuple[Finding, ...] = ()
    language: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """A cue as it stands in its file, right or wrong."""

    place: str
    cue: Cue


def mended(found: Sequence[Found]) -> tuple[tuple[Cue, ...], list[Finding]]:
    """Cues in order of time, each with words and a length; and every repair. Nothing is left out without being said.

    Two cues of one speaker that overlap a little are moved apart; what overlaps more is taken for people who talk
    at once.
    """
    repairs: list[Finding] = []
    kept: list[Found] = []
    for one in found:
        cue = one.cue
        if not cue.text.strip():
            repairs.append(Finding("caption-without-words", {}, place=one.place))
        elif cue.end_us <= 0 and cue.start_us < 0:
            repairs.append(Finding("caption-before", {"text": _short(cue)}, place=one.place))
        else:
            if cue.start_us < 0:
                repairs.append(Finding("started-before", {}, place=one.place))
                cue = replace(cue, start_us=0)
            kept.append(Found(one.place, cue))
    times = [one.cue.start_us for one in kept]
    if times != sorted(times):
        count = sum(a > b for a, b in pairwise(times))
        repairs.append(Finding("out-of-order", {"places": count}))
    kept.sort(key=lambda one: (one.cue.start_us, max(one.cue.end_us, one.cue.start_us)))
    kept = _with_ends(kept, repairs)
    kept = _without_twins(kept, repairs)
    return tuple(_apart(kept, repairs)), repairs


def _short(cue: Cue) -> str:
    text = one_line(cue.text)
    return text if len(text) <= 40 else f"{text[:39]}…"


def _with_ends(found: list[Found], repairs: list[Finding]) -> list[Found]:
    result: list[Found] = []
    following: list[int | None] = []
    after: int | None = None
    for place in range(len(found) - 1, -1, -1):  # the first start behind each that is another one
        if place + 1 < len(found) and found[place + 1].cue.start_us > found[place].cue.start_us:
            after = found[place + 1].cue.start_us
        following.append(after)
    for one, behind in zip(found, reversed(following), strict=True):
        cue = one.cue
        if cue.end_us <= cue.start_us:
            wanted = cue.start_us + max(_LEAST_US, round((0.4 + len(cue.text) / _LETTERS_PER_SECOND) * 1e6))
            end = wanted if behind is None else max(cue.start_us + _ROOM_US, min(wanted, behind))
            what = msg("lasted no time") if cue.end_us == cue.start_us else msg("ended before it started")
            repairs.append(Finding("end-guessed", {"text": _short(cue), "what": reason(what)}, place=one.place))
            cue = replace(cue, end_us=end)
        result.append(Found(one.place, cue))
    return result


def _without_twins(found: list[Found], repairs: list[Finding]) -> list[Found]:
    seen: set[tuple[int, int, str, str]] = set()
    result = []
    for one in found:
        key = (one.cue.start_us, one.cue.end_us, one.cue.text, one.cue.speaker)
        if key in seen:
            repairs.append(Finding("twin-left-out", {"text": _short(one.cue)}, place=one.place))
        else:
            seen.add(key)
            result.append(one)
    return result


def _apart(found: Iterable[Found], repairs: list[Finding]) -> list[Cue]:
    """Move apart neighbours of one speaker that overlap by less than half of the shorter."""
    cues: list[Cue] = []
    for one in found:
        cue, before = one.cue, cues[-1] if cues else None
        if before is not None and before.end_us > cue.start_us and before.speaker == cue.speaker:
            shared = min(before.end_us, cue.end_us) - cue.start_us
            shorter = min(before.end_us - before.start_us, cue.end_us - cue.start_us)
            if shared * 2 < shorter and cue.start_us - before.start_us >= _ROOM_US:
                ms = shared // 1000
                repairs.append(Finding("overlap-mended", {"by_ms": ms}, place=one.place))
                cues[-1] = replace(before, end_us=cue.start_us)
        cues.append(cue)
    return cues
