"""Which script a text is written in, and what follows from that: whether words have spaces between them, and whether
lines run from right to left."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import Final

HAN: Final = "\u3005-\u3007\u3021-\u3029\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff\U00020000-\U0003ffff"
KANA: Final = "\u3041-\u3096\u309d-\u309f\u30a1-\u30fa\u30fc-\u30ff\u31f0-\u31ff\uff66-\uff9f"
_SOUTH_EAST: Final = "\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u1950-\u19df\ua9e0-\ua9ff\uaa60-\uaa7f"
"""Thai, Lao, Burmese, Khmer and their neighbours."""
WIDE: Final = re.compile(rf"[{HAN}{KANA}\uac00-\ud7af\u1100-\u11ff\u3000-\u303f\uff01-\uff60\uffe0-\uffe6]")
UNSPACED: Final = re.compile(rf"[{HAN}{KANA}{_SOUTH_EAST}]")
UNSPACED_EDGE: Final = re.compile(rf"[{HAN}{KANA}{_SOUTH_EAST}\u3000-\u303f\uff01-\uff65]")
CJK_EDGE: Final = re.compile(rf"[{HAN}{KANA}\u3000-\u303f\uff01-\uff65]")
_KANA: Final = re.compile(f"[{KANA}]")
_HAN: Final = re.compile(f"[{HAN}]")
_CLUSTERED: Final = re.compile(r"[\u0300-\u036f\u0483-\u0489\u0591-\u05c7\u0610-\u061a\u064b-\u065f\u0670\u06d6-\u06ed"
                               r"\u0900-\u0dff\u0e31-\u0e4e\u0eb1-\u0ece\u0f18-\u0fbc\u102b-\u109d\u1100-\u11ff"
                               r"\u1712-\u17d3\u1ab0-\u1aff\u1dc0-\u1dff\u200c-\u200f\u20d0-\u20ff\u302a-\u309a"
                               r"\ua66f-\ua8ff\uaa29-\uabed\ufe00-\ufe2f\U0001f000-\U000e01ef]")  # fmt: skip
"""Signs that may join the one before; text without any has a letter for every sign."""
_HANT_TAGS: Final = ("hant", "tw", "hk", "mo", "yue")
RTL_MARK: Final = "\u200f"


def is_unspaced(text: str) -> bool:
    """Whether a text has stretches whose words have no spaces between them.

    >>> is_unspaced("海が来る"), is_unspaced("ครับ"), is_unspaced("바다가"), is_unspaced("море")
    (True, True, False, False)
    """
    return bool(UNSPACED.search(text))


def script_of(text: str) -> str:
    """The script most letters of a text are in, by the first word of their Unicode names, in small letters.

    >>> script_of("Добрый день"), script_of("السلام"), script_of("123")
    ('cyrillic', 'arabic', '')
    """
    counts: dict[str, int] = {}
    for sign in text:
        if sign.isalpha():
            name = _script_of_sign(sign)
            counts[name] = counts.get(name, 0) + 1
    return max(counts, key=lambda name: counts[name]) if counts else ""


@lru_cache(maxsize=8192)
def _script_of_sign(sign: str) -> str:
    return unicodedata.name(sign, "").partition(" ")[0].partition("-")[0].lower()


_RTL_SCRIPTS: Final = ("Arab", "Hebr", "Thaa", "Syrc", "Nkoo", "Adlm", "Rohg")


@lru_cache(maxsize=256)
def runs_right_to_left(tag: str) -> bool:
    """Whether a language is written from right to left.

    >>> runs_right_to_left("ar-EG"), runs_right_to_left("az"), runs_right_to_left("ur")
    (True, False, True)
    """
    import langcodes

    return bool(tag) and langcodes.get(tag).maximize().script in _RTL_SCRIPTS


@lru_cache(maxsize=20_000)
def is_rtl(text: str) -> bool:
    """Whether a text runs from right to left: by its first letter that has a direction (UAX #9, P2).

    >>> is_rtl("(12) שלום"), is_rtl("Tide שלום"), is_rtl("12")
    (True, False, False)
    """
    for sign in text:
        direction = unicodedata.bidirectional(sign)
        if direction in ("R", "AL"):
            return True
        if direction == "L":
            return False
    return False


def phrase_script(text: str, tag: str = "") -> str:
    """Whose phrases an unspaced stretch has: ``ja``, ``zh-hans``, ``zh-hant``, ``th``, or empty for those nobody has
    taught us to find."""
    if _KANA.search(text) or (tag.lower().startswith("ja") and _HAN.search(text)):
        return "ja"
    if _HAN.search(text):
        parts = tag.lower().replace("_", "-").split("-")
        return "zh-hant" if any(part in _HANT_TAGS for part in parts) else "zh-hans"
    if re.search("[\u0e01-\u0e4e]", text):
        return "th"
    return ""


def graphemes(text: str) -> list[str]:
    """What a reader takes for one letter each: extended grapheme clusters (UAX #29).

    >>> graphemes("नि"), len(graphemes("e\\u0301a"))
    (['नि'], 2)
    """
    if not _CLUSTERED.search(text):
        return list(text)
    from uniseg.graphemecluster import grapheme_clusters

    return list(grapheme_clusters(text))


@lru_cache(maxsize=50_000)
def letters(text: str) -> float:
    """How long a text is to read: its graphemes; where it has wide signs, a narrow one counts half.

    >>> letters("Größe"), letters("海が来る"), letters("第12話")
    (5.0, 4.0, 3.0)
    """
    parts = graphemes(text)
    if not WIDE.search(text) or re.search("[\uac00-\ud7af]", text):
        return float(len(parts))
    return sum(1.0 if WIDE.match(part) else 0.5 for part in parts)
