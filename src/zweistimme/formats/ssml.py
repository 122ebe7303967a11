"""SSML 1.1 (W3C Recommendation, 2010): written for engines, and read into spans that are spoken in one manner.

Read are ``speak``, ``p``, ``s``, ``break``, ``prosody`` (rate, pitch, volume), ``emphasis``, ``say-as``, ``sub``,
``phoneme`` (IPA), ``lang``, ``voice`` and ``mark``; other elements are spoken as their text, as the standard asks. A
``prosody`` that asks for a contour, a range or a duration is refused: who asks for one would hear another.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final
from xml.sax.saxutils import escape, quoteattr

from zweistimme.formats.xml import LANGUAGE, local_name, parse_xml
from zweistimme.formats.xsampa import ipa_of
from zweistimme.project.errors import FormatError
from zweistimme.project.pronunciations import AS_WRITTEN, Pronunciations
from zweistimme.project.sayings import LIKE
from zweistimme.project.writing import spoken_text

if TYPE_CHECKING:
    from lxml.etree import _Element

NAMESPACE: Final = "http://www.w3.org/2001/10/synthesis"
LARGEST: Final = 1 << 20
_RATES: Final = {"x-slow": 0.6, "slow": 0.8, "medium": 1.0, "default": 1.0, "fast": 1.25, "x-fast": 1.6}
_PITCHES: Final = {"x-low": 0.75, "low": 0.87, "medium": 1.0, "default": 1.0, "high": 1.15, "x-high": 1.35}
_VOLUMES: Final = {
    "silent": -90.0, "x-soft": -12.0, "soft": -6.0, "medium": 0.0, "default": 0.0, "loud": 4.0, "x-loud": 8.0,
}  # fmt: skip
_BREAKS_MS: Final = {"none": 0.0, "x-weak": 60.0, "weak": 120.0, "medium": 250.0, "strong": 450.0, "x-strong": 800.0}
_EMPHASIS: Final = {"strong": 2.0, "moderate": 1.0, "none": 0.0, "reduced": -1.0}
_UNREAD_PROSODY: Final = ("contour", "range", "duration")
_UNSPOKEN: Final = ("lexicon", "meta", "metadata", "desc")
_PARAGRAPH_MS: Final = 600.0
_SENTENCE_MS: Final = 380.0
_LONGEST_BREAK_MS: Final = 10_000.0


@dataclass(frozen=True, slots=True)
class Span:
    """Text spoken in one manner, or, without text, a pause or a mark.

    *rate* and *pitch* are factors; *pitch_hz*, where it is not 0, is the voice's pitch instead of its own, and
    *pitch_more_hz* is added to it. *volume_db* is in dB, *emphasis* goes from -1 (reduced) to 2 (strong).
    *phonemes* (IPA) and *say_as* tell how the text is to be said.
    """

    text: str = ""
    language: str = ""
    voice: str = ""
    rate: float = 1.0
    pitch: float = 1.0
    pitch_hz: float = 0.0
    pitch_more_hz: float = 0.0
    volume_db: float = 0.0
    emphasis: float = 0.0
    say_as: str = ""
    phonemes: str = ""
    break_ms: float | None = None
    mark: str = ""


def ssml_of(text: str, tag: str, said: Pronunciations = AS_WRITTEN) -> str:
    """A document that says *text* in the language of *tag*, some words as they are *said* and not as they are read.

    >>> ssml_of("Salt & sand", "en-GB")
    '<speak version="1.1" xmlns="http://www.w3.org/2001/10/synthesis" xml:lang="en-GB">Salt &amp; sand</speak>'
    """
    spoken = "".join(c for c in spoken_text(text) if c >= " ")
    parts, done = [], 0
    for start, end, how in said.places(spoken):
        word = escape(spoken[start:end])
        said_so = f"<sub alias={quoteattr(how[1:])}>{word}</sub>" if how.startswith(LIKE) else ""
        said_so = said_so or f'<phoneme alphabet="ipa" ph={quoteattr(how)}>{word}</phoneme>'
        parts += [escape(spoken[done:start]), said_so]
        done = end
    body = "".join([*parts, escape(spoken[done:])])
    return f'<speak version="1.1" xmlns="{NAMESPACE}" xml:lang={quoteattr(tag)}>{body}</speak>'


def plain_text(ssml: str) -> str:
    """The words of a document, for engines that know no mark-up."""
    return " ".join("".join(_spoken_letters(_root(ssml))).split())


def _spoken_letters(element: _Element) -> Iterator[str]:
    """The text of an element as it is written: mark-up inside a word does not part it, a break does."""
    name = local_name(element)
    if name in _UNSPOKEN:
        return
    apart = " " if name in ("break", "p", "s") else ""
    yield apart
    if name == "sub":
        yield element.get("alias", "")
    else:
        yield element.text or ""
        for child in element:
            yield from _spoken_letters(child)
            yield child.tail or ""
    yield apart


def spans_of(ssml: str) -> tuple[Span, ...]:
    """A document as spans, in order. FormatError with the place if it is not SSML."""
    root = _root(ssml)
    return tuple(span for span in _walk(root, Span()) if span.text or span.mark or span.break_ms is not None)


def _root(ssml: str) -> _Element:
    if len(ssml) > LARGEST:
        raise FormatError(
            "This SSML has {count:,} characters; {largest:,} are read at most.", count=len(ssml), largest=LARGEST
        )
    root = parse_xml(ssml.encode("utf-8", "replace"), "This SSML")
    if local_name(root) != "speak":
        raise FormatError("SSML begins with <speak>, this with <{local_name}>.", local_name=local_name(root))
    return root


def _walk(element: _Element, manner: Span) -> Iterator[Span]:
    name = local_name(element)
    if name in _UNSPOKEN:
        return
    if name == "break":
        yield Span(break_ms=_break_ms(element))
        return
    if name == "mark":
        yield Span(mark=element.get("name", ""))
        return
    manner = _changed(element, name, manner)
    if name == "sub":
        yield replace(manner, text=element.get("alias", ""))
        return
    if element.text:
        yield replace(manner, text=" ".join(element.text.split()))
    for child in element:
        yield from _walk(child, manner)
        if child.tail and child.tail.strip():
            yield replace(manner, text=" ".join(child.tail.split()))
    if name in ("s", "p"):
        yield Span(break_ms=_SENTENCE_MS if name == "s" else _PARAGRAPH_MS)


def _changed(element: _Element, name: str, manner: Span) -> Span:
    language = element.get(LANGUAGE)
    if language:
        manner = replace(manner, language=language)
    if name == "prosody":
        unread = [one for one in _UNREAD_PROSODY if element.get(one)]
        if unread:
            raise FormatError(
                "<prosody> is read with rate, pitch and volume, not with {names}.", names=" and ".join(unread)
            )
        return replace(
            _at_pitch(element.get("pitch"), manner),
            rate=manner.rate * _factor(element.get("rate"), _RATES, "rate"),
            volume_db=manner.volume_db + _volume_db(element.get("volume")),
        )
    if name == "emphasis":
        level = element.get("level", "moderate")
        return replace(manner, emphasis=_known(level, _EMPHASIS, "emphasis level"))
    if name == "say-as":
        return replace(manner, say_as=element.get("interpret-as", ""))
    if name == "phoneme":
        alphabet = element.get("alphabet", "ipa")
        if alphabet in ("x-sampa", "x-SAMPA"):
            return replace(manner, phonemes=ipa_of(element.get("ph", "")))
        if alphabet != "ipa":
            raise FormatError(
                "<phoneme> is read in the alphabets ipa and x-sampa, not “{alphabet}”.", alphabet=alphabet
            )
        return replace(manner, phonemes=element.get("ph", ""))
    if name == "voice":
        return replace(manner, voice=element.get("name", manner.voice))
    return manner


def _known(value: str, table: dict[str, float], what: str) -> float:
    try:
        return table[value]
    except KeyError:
        raise FormatError(
            "“{value}” is no {what} of SSML; there are {names}.", value=value, what=what, names=", ".join(table)
        ) from None


def _number(text: str, what: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise FormatError("“{text}” is no number for a {what} in SSML.", text=text, what=what) from None
    if not abs(value) < 1e6:
        raise FormatError("“{text}” is out of range for a {what} in SSML.", text=text, what=what)
    return value


def _factor(value: str | None, table: dict[str, float], what: str) -> float:
    """A name, a percentage (120 % is a factor of 1.2; +20 % likewise) or a plain factor."""
    if value is None:
        return 1.0
    if value.endswith("%"):
        share = _number(value[:-1], what)
        factor = 1 + share / 100 if value[0] in "+-" else share / 100
    elif value in table:
        factor = table[value]
    else:
        factor = _number(value, what)
    return min(max(factor, 0.25), 4.0)


def _at_pitch(value: str | None, manner: Span) -> Span:
    """A manner at another pitch: a number of hertz, so many more or fewer, or a factor."""
    if value is not None and value.lower().endswith("hz"):
        hertz = _number(value[:-2], "pitch")
        if value[0] in "+-":
            return replace(manner, pitch_more_hz=manner.pitch_more_hz + hertz)
        return replace(manner, pitch_hz=min(max(hertz, 40.0), 600.0), pitch_more_hz=0.0, pitch=1.0)
    return replace(manner, pitch=manner.pitch * _pitch(value))


def _pitch(value: str | None) -> float:
    """As a factor, also from semitones (``+2st``)."""
    if value is not None and value.endswith("st"):
        return float(min(max(2 ** (_number(value[:-2], "pitch") / 12), 0.25), 4.0))
    return _factor(value, _PITCHES, "pitch")


def _volume_db(value: str | None) -> float:
    if value is None:
        return 0.0
    level = _number(value[:-2], "volume") if value.endswith("dB") else _known(value, _VOLUMES, "volume")
    return min(max(level, -90.0), 20.0)


def _break_ms(element: _Element) -> float:
    time = element.get("time")
    if time is None:
        return _known(element.get("strength", "medium"), _BREAKS_MS, "strength of a break")
    seconds = _number(time[:-2], "break") / 1000 if time.endswith("ms") else _number(time.rstrip("s"), "break")
    return min(max(seconds * 1000, 0.0), _LONGEST_BREAK_MS)
