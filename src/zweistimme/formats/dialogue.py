"""Captions in which several people speak: each with a dash before the words, or each in a voice span."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Final

from zweistimme.formats.cue import Cue, Found
from zweistimme.formats.names import name_and_words
from zweistimme.project.findings import Finding

_DASH: Final = re.compile(r"^[-–—]\s?(?=\S)")


def by_dashes(
    found: Iterable[Found],
    repairs: list[Finding],
    split_name: Callable[[str], tuple[str, str]] = name_and_words,
) -> list[Found]:
    """Captions of which every speaker's words begin with a dash, one for each speaker.

    >>> repairs = []
    >>> [one.cue.text for one in by_dashes([Found("line 2", Cue(0, 9, "- Is it broken?\\n- Cracked."))], repairs)]
    ['Is it broken?', 'Cracked.']
    """
    result: list[Found] = []
    for one in found:
        parts = _dashed(one.cue.text)
        result += split(one, [split_name(part) for part in parts], repairs)
    return result


def _dashed(text: str) -> list[str]:
    """The words after each dash at the beginning of a line, if the first line has one."""
    parts: list[str] = []
    for line in text.split("\n"):
        dash = _DASH.match(line)
        if dash:
            parts.append(line[dash.end() :])
        elif parts:
            parts[-1] += f"\n{line}"
        else:
            return []
    return parts


def split(one: Found, parts: list[tuple[str, str]], repairs: list[Finding]) -> list[Found]:
    """A caption for every (speaker, words), which share its time by their letters; one stays as it is."""
    if len(parts) < 2:
        return [one]
    cue, result, before = one.cue, [], 0
    letters = [len(words) + 1 for _, words in parts]
    length, total = max(cue.end_us - cue.start_us, 0), sum(letters)
    for (speaker, words), count in zip(parts, letters, strict=True):
        start = cue.start_us + length * before // total
        before += count
        end = cue.start_us + length * before // total if length else cue.end_us
        result.append(Found(one.place, Cue(start, end, words, speaker)))
    repairs.append(Finding("caption-split", {"people": len(parts)}, place=one.place))
    return result
