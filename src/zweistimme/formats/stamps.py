"""Times as captions write them, and those of words inside a WebVTT caption: a stamp stands before the text that
begins with it."""

from __future__ import annotations

import html
import re
from itertools import pairwise
from typing import Final

from zweistimme.formats.cue import Cue
from zweistimme.project.model import Word
from zweistimme.project.words import spread
from zweistimme.project.writing import words_in

_STAMP: Final = re.compile(r"<(?:(\d{1,4}):)?(\d{1,2}):(\d{2})\.(\d{3})>")


def without_stamps(text: str) -> tuple[str, int]:
    """The text, and how many stamps were in it."""
    return _STAMP.subn("", text)


def stamped_words(text: str, start_us: int, end_us: int) -> tuple[Word, ...]:
    """The words of a caption's text, without other tags, that lasts ``[start, end)``; none where its stamps are not
    in order. Words without a stamp of their own share the time up to the next stamp by their letters.

    >>> [(w.text, w.start_us, w.end_us) for w in stamped_words("It <00:01.500>turns", 1_000_000, 2_000_000)]
    [('It', 1000000, 1500000), ('turns', 1500000, 2000000)]
    """
    first, *rest = _STAMP.split(text)
    times = [start_us, *(read_time(*rest[k : k + 4]) for k in range(0, len(rest), 5)), end_us]
    if any(after < before for before, after in pairwise(times)):
        return ()
    words: list[Word] = []
    whole = True
    for (begin, end), chunk in zip(pairwise(times), [first, *rest[4::5]], strict=True):
        said = list(spread(words_in(html.unescape(chunk)), begin, end)) if chunk.strip() else []
        if said and words and not whole and not chunk[0].isspace():
            before = words.pop()  # a stamp inside a word
            said[0] = Word(before.text + said[0].text, before.start_us, said[0].end_us)
        words += said
        whole = chunk[-1:].isspace() if chunk else whole
    return tuple(words)


def read_time(hours: str | None, minutes: str, seconds: str, fraction: str) -> int:
    """Microseconds from the parts of a time; *fraction* has up to three digits."""
    return (((int(hours or 0) * 60 + int(minutes)) * 60 + int(seconds)) * 1000 + int(fraction.ljust(3, "0"))) * 1000


def stamped(cue: Cue) -> str:
    """The text of a caption with a stamp wherever a word begins, and where one ends before the next begins. Stamps lie
    inside the caption and grow, as WebVTT wants them."""
    at, stop = _millis(cue.start_us), _millis(cue.end_us)
    following = [_millis(word.start_us) for word in cue.words[1:]]
    parts: list[str] = []
    for word, behind in zip(cue.words, [*following, stop], strict=True):
        for time_ms, text in (
            (_millis(word.start_us), html.escape(word.text, quote=False)),
            (_millis(word.end_us), ""),
        ):
            if at < time_ms < (stop if text else behind):
                parts.append(f"<{written_time(time_ms * 1000, '.')}>")
                at = time_ms
            parts.append(text)
        parts.append(" ")
    return "".join(parts).rstrip(" ")


def _millis(time_us: int) -> int:
    return (time_us + 500) // 1000


def written_time(time_us: int, point: str) -> str:
    """``hh:mm:ss`` and milliseconds, as SubRip (with a comma) and WebVTT (with a point) write them."""
    seconds, millis = divmod(_millis(time_us), 1000)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{point}{millis:03d}"
