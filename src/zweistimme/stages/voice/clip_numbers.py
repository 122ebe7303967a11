"""Which of the numbers in the names of clips is that of their line: ``S01E03_0012.wav`` has three.

One place in all names is the number's: the one that tells most clips apart. Where several do, as with a single retake,
it is the one that names lines which wait for a take, or else whose length the clips fit; where neither tells, none is.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from math import log
from pathlib import Path
from typing import Final

from zweistimme.project.facts import fresh_take, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Segment, Version
from zweistimme.project.times import SECOND_US

_CLEARLY: Final = log(1.4)
"""One reading fits the clips' lengths by so much better than another, or they are not told apart by that."""


def numbers_in(path: Path) -> list[int]:
    """All numbers in the name of a clip.

    >>> numbers_in(Path("S01E03_0012.wav"))
    [1, 3, 12]
    """
    return [int(digits) for digits in re.findall(r"\d{1,9}", path.stem)]


def lines_named(
    project: Project, version: Version, named: Mapping[Path, Sequence[int]]
) -> tuple[list[tuple[int, Path]], Finding | None]:
    """The number of its line for each of some clips, in order, with what is to be said of how they were read; none
    where the names can be read in two ways."""
    segments = spoken_segments(project)
    common = min(map(len, named.values()))
    # places are counted from the front and from the back: "S01E03_0012" and "0012 second try 2" have both
    readings: dict[tuple[int, ...], int] = {}
    for place in [*range(common), *range(-common, 0)]:
        readings.setdefault(tuple(numbers[place] for numbers in named.values()), place)
    telling = {read: len({number for number in read if 1 <= number <= len(segments)}) for read in readings}
    best = [read for read in readings if telling[read] == max(telling.values())]
    if len(best) > 1 and telling[best[0]]:
        best = _of_waiting(project, version, segments, best)
    if len(best) > 1 and telling[best[0]]:
        best = _of_fitting_length(segments, list(named), best)
    example = next(iter(named)).name
    if len(best) > 1 and telling[best[0]]:
        lines = " / ".join(str(read[0]) for read in best)
        return [], Finding("number-unclear", {"file": example, "lines": lines})
    place = readings[best[0]]
    said = Finding("number-chosen", {"file": example, "line": best[0][0]}) if place not in (0, -common) else None
    return sorted(zip(best[0], named, strict=True)), said


def _of_waiting(
    project: Project, version: Version, segments: Sequence[Segment], readings: list[tuple[int, ...]]
) -> list[tuple[int, ...]]:
    """Those readings that name most lines which have no take as they are to be said."""

    def waiting(read: tuple[int, ...]) -> int:
        named = (segments[number - 1] for number in read if 1 <= number <= len(segments))
        return sum(fresh_take(project, version, segment) is None for segment in named)

    counts = [waiting(read) for read in readings]
    return [read for read, count in zip(readings, counts, strict=True) if count == max(counts)]


def _of_fitting_length(
    segments: Sequence[Segment], clips: Sequence[Path], readings: list[tuple[int, ...]]
) -> list[tuple[int, ...]]:
    """The reading whose lines the clips are as long as, where it is clearly that; else all of them."""
    seconds = [_seconds(path) for path in clips]

    def off(read: tuple[int, ...]) -> float:
        apart = []
        for number, length_s in zip(read, seconds, strict=True):
            if length_s and 1 <= number <= len(segments):
                segment = segments[number - 1]
                apart.append(abs(log(length_s * SECOND_US / max(1, segment.end_us - segment.start_us))))
        return sum(apart) / len(apart) if apart else 0.0

    by_fit = sorted((off(read), read) for read in readings)
    return [by_fit[0][1]] if by_fit[1][0] - by_fit[0][0] >= _CLEARLY else readings


def _seconds(path: Path) -> float:
    """How long a clip is by its header; 0 where that cannot be read, which is said when it is taken."""
    import soundfile

    try:
        return float(soundfile.info(path).duration)
    except (soundfile.SoundFileError, OSError):
        return 0.0
