"""Words: how a text is cut into them, put together again, and found in it.

Where a script puts spaces between words, those are its words. Japanese, Chinese and Thai are cut into phrases by a
learned model (BudouX), other scripts without spaces between letters; nothing is cut where UAX #14 forbids a line to
begin, so marks stay with what they belong to.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from itertools import accumulate, pairwise
from typing import Any, Final

from zweistimme.project.writing.scripts import CJK_EDGE, UNSPACED_EDGE, graphemes, is_unspaced, phrase_script

Span = tuple[int, int]
_CLOSING: Final = frozenset(
    "。、，．！？!?,.:;：；」』）)］]｝}〉》】〕”’…‥・%％ๆฯ។៕၊။ーゝゞ々ぁぃぅぇぉっゃゅょゎァィゥェォッャュョヮヵヶ"
)
"""What may not stand at the beginning of a line."""
_OPENING: Final = frozenset("「『（(［[｛{〈《【〔“‘¿¡")
_SPACES: Final = re.compile("[^\\S\u00a0\u2007\u202f]+")
"""Runs of spaces, but for those that do not break."""
_NARROW: Final = re.compile(r"[0-9A-Za-z\u00c0-\u024f]")
_AFTER: Final = frozenset("。！？!?、，：；")
"""A word always ends behind these."""


@lru_cache(maxsize=50_000)
def word_spans(text: str, tag: str = "") -> tuple[Span, ...]:
    """Where each word of a text stands, ``[start, end)``, spaces left out.

    >>> text = "海が来る。 Yes, 行こう"
    >>> [text[a:b] for a, b in word_spans(text)]
    ['海が', '来る。', 'Yes,', '行こう']
    """
    spans: list[Span] = []
    for match in re.finditer(r"\S+", text):
        chunk, start = match.group(), match.start()
        if not is_unspaced(chunk):
            spans.append(match.span())
            continue
        ends = [0, *accumulate(len(part) for part in _phrases(chunk, tag))]
        spans += [(start + a, start + b) for a, b in pairwise(ends)]
    return tuple(spans)


def words_in(text: str, tag: str = "") -> list[str]:
    """The words of a text, each with the marks that belong to it.

    >>> words_in("Twice a day."), words_in("วันละสองครั้ง")
    (['Twice', 'a', 'day.'], ['วัน', 'ละ', 'สอง', 'ครั้ง'])
    """
    return [text[a:b] for a, b in word_spans(text, tag)]


def _phrases(chunk: str, tag: str) -> list[str]:
    kind = phrase_script(chunk, tag)
    parts = _model(kind).parse(chunk) if kind else graphemes(chunk)
    cut: list[str] = []
    for part in parts:
        if cut and _NARROW.match(cut[-1][-1]) and _NARROW.match(part[0]):
            part = cut.pop() + part  # a number, or a word of another script, stays whole
        cut += _behind_marks(part)
    return _kept_together(cut)


def _behind_marks(part: str) -> list[str]:
    """A phrase cut again behind every mark inside it."""
    pieces, start = [], 0
    for place in range(1, len(part)):
        if part[place - 1] in _AFTER and part[place] not in _CLOSING:
            pieces.append(part[start:place])
            start = place
    return [*pieces, part[start:]]


def _kept_together(parts: Sequence[str]) -> list[str]:
    """No part begins with what may not begin a line, none ends with what opens."""
    result: list[str] = []
    for part in parts:
        while part and part[0] in _CLOSING and result:
            result[-1] += part[0]
            part = part[1:]
        if not part:
            continue
        if result and result[-1][-1] in _OPENING:
            result[-1] += part
        else:
            result.append(part)
    return result


@lru_cache(maxsize=8)
def _model(kind: str) -> Any:
    import budoux

    return {
        "ja": budoux.load_default_japanese_parser,
        "zh-hans": budoux.load_default_simplified_chinese_parser,
        "zh-hant": budoux.load_default_traditional_chinese_parser,
        "th": budoux.load_default_thai_parser,
    }[kind]()


def joined(parts: Sequence[str]) -> str:
    """Words or pieces of text put together as their scripts do: with a space, but none beside Chinese and Japanese, nor
    between two words of another script without spaces.

    >>> joined(["海が", "来る。"]), joined(["The", "sea"]), joined(["歯は", "36", "枚"]), joined(["ฟัง", "36"])
    ('海が来る。', 'The sea', '歯は36枚', 'ฟัง 36')
    """
    text = ""
    for part in (part.strip() for part in parts):
        if not part:
            continue
        edges = text[-1:], part[0]
        close = any(map(CJK_EDGE.match, edges)) or all(map(UNSPACED_EDGE.match, edges))
        text += part if close or not text else f" {part}"
    return text


def spans_of_words(text: str, words: Sequence[str], tag: str = "") -> tuple[Span, ...]:
    """Where *words* stand in a text, each with the marks and signs up to the next: so that words an engine has cut
    its own way are found, too. Falls back on the text's own words where they are not all there, in order.

    >>> spans_of_words("海が来る。", ["海", "が", "来る"])
    ((0, 1), (1, 2), (2, 5))
    """
    starts, at = [], 0
    for word in words:
        found = text.find(word.strip(), at)
        if found < 0 or not word.strip():
            return word_spans(text, tag)
        starts.append(found)
        at = found + len(word.strip())
    if not starts:
        return word_spans(text, tag)
    ends = [*starts[1:], len(text)]
    return tuple((a, a + len(text[a:b].rstrip())) for a, b in zip(starts, ends, strict=True))


def one_line(text: str) -> str:
    """A text in one line with single spaces; line ends within a script without spaces leave none behind. Spaces that do
    not break stay as they are: French has them before its marks.

    >>> one_line("海が\\n来る"), one_line(" Twice  a\\nday "), one_line("Vraiment\\u202f?") == "Vraiment\\u202f?"
    ('海が来る', 'Twice a day', True)
    """
    lines = [" ".join(filter(None, _SPACES.split(line))).strip() for line in text.splitlines()]
    return joined(lines)
