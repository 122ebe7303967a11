"""What every file of timed text comes to: cues, and what had to be mended to get them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

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
class Repair:
    """Something that was wrong in a file and has been put right: where, and what was done."""

    place: str
    done: str

    def __str__(self) -> str:
        return f"{self.place}: {self.done}" if self.place else self.done


@dataclass(frozen=True, slots=True)
class Reading:
    """A file as it was understood. *language* is what the file says of itself, if anything."""

    cues: tuple[Cue, ...]
    repairs: tuple[Repair, ...] = ()
    language: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """A cue as it stands in its file, right or wrong."""

    place: str
    cue: Cue


def mended(found: Sequence[Found]) -> tuple[tuple[Cue, ...], list[Repair]]:
    """Cues in order of time, each with words and a length; and every repair. Nothing is left out without being said.

    Two cues of one speaker that overlap a little are moved apart; what overlaps more is taken for people who talk
    at once.
    """
    repairs: list[Repair] = []
    kept: list[Found] = []
    for one in found:
        cue = one.cue
        if not cue.text.strip():
            repairs.append(Repair(one.place, "a caption without words is left out"))
        elif cue.end_us <= 0 and cue.start_us < 0:
            repairs.append(Repair(one.place, f"“{_short(cue)}” lies before the beginning and is left out"))
        else:
            if cue.start_us < 0:
                repairs.append(Repair(one.place, "it started before the beginning; it now starts with it"))
                cue = replace(cue, start_us=0)
            kept.append(Found(one.place, cue))
    times = [one.cue.start_us for one in kept]
    if times != sorted(times):
        count = sum(a > b for a, b in pairwise(times))
        where = f"{count} place{'s' if count > 1 else ''}"
        repairs.append(Repair("", f"captions were out of order at {where}; they are sorted"))
    kept.sort(key=lambda one: (one.cue.start_us, max(one.cue.end_us, one.cue.start_us)))
    kept = _with_ends(kept, repairs)
    kept = _without_twins(kept, repairs)
    return tuple(_apart(kept, repairs)), repairs


def _short(cue: Cue) -> str:
    text = one_line(cue.text)
    return text if len(text) <= 40 else f"{text[:39]}…"


def _with_ends(found: list[Found], repairs: list[Repair]) -> list[Found]:
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
            what = "lasted no time" if cue.end_us == cue.start_us else "ended before it started"
            repairs.append(Repair(one.place, f"“{_short(cue)}” {what}; its end is guessed from its length"))
            cue = replace(cue, end_us=end)
        result.append(Found(one.place, cue))
    return result


def _without_twins(found: list[Found], repairs: list[Repair]) -> list[Found]:
    seen: set[tuple[int, int, str, str]] = set()
    result = []
    for one in found:
        key = (one.cue.start_us, one.cue.end_us, one.cue.text, one.cue.speaker)
        if key in seen:
            repairs.append(Repair(one.place, f"“{_short(one.cue)}” stands there twice; the second is left out"))
        else:
            seen.add(key)
            result.append(one)
    return result


def _apart(found: Iterable[Found], repairs: list[Repair]) -> list[Cue]:
    """Move apart neighbours of one speaker that overlap by less than half of the shorter."""
    cues: list[Cue] = []
    for one in found:
        cue, before = one.cue, cues[-1] if cues else None
        if before is not None and before.end_us > cue.start_us and before.speaker == cue.speaker:
            shared = min(before.end_us, cue.end_us) - cue.start_us
            shorter = min(before.end_us - before.start_us, cue.end_us - cue.start_us)
            if shared * 2 < shorter and cue.start_us - before.start_us >= _ROOM_US:
                ms = shared // 1000
                repairs.append(Repair(one.place, f"the one above overlapped it by {ms} ms; that one ends earlier"))
                cues[-1] = replace(before, end_us=cue.start_us)
        cues.append(cue)
    return cues
