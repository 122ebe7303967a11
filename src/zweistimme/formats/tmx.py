"""TMX 1.4b (LISA OSCAR 2005), read and written a unit at a time, so that a file may be of any length.

Read: ``tu`` with its languages, dates and authors (those of a change before those of the creation), the text of ``seg``
without the codes in it. The source is the language the unit or the header names; where it names all, the first.
Written: plain text, one source and one target to a unit, with author, date, and as properties where it was settled and
in what context.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import IO, TYPE_CHECKING, Final

from zweistimme.formats.xml import LANGUAGE, local_name, streamed, writable
from zweistimme.project.errors import TagError
from zweistimme.project.languages import language_of, language_tag
from zweistimme.project.units import Unit
from zweistimme.project.writing import one_line

if TYPE_CHECKING:
    from lxml.etree import _Element

_CODES: Final = frozenset(["bpt", "ept", "ph", "it", "ut"])
"""What these hold is mark-up of the file a text came from, not text."""
_ANY: Final = "*all*"
_ORIGIN, _CONTEXT = "x-origin", "x-zweistimme-context"
_DATE: Final = re.compile(r"(\d{4})(\d{2})(\d{2})T(\d{2})(\d{2})(\d{2})Z")
_LONGEST: Final = 20_000
"""A unit with more letters is no sentence of anything."""


@dataclass(slots=True)
class TmxCount:
    """What was read until now: units, and what could be none, such as texts that are empty or in one language alone."""

    units: int = 0
    left_out: int = 0


def read_tmx(path: Path, count: TmxCount) -> Iterator[Unit]:
    """The units of a file, one after the other; *count* says how many there were. FormatError, with the line, where it
    is no TMX or not well-formed; what came before has been given by then."""
    header: dict[str, str] = {}
    for name, element in streamed(path, "TMX", ("tmx",), ("header", "tu")):
        if name == "header":
            header = dict(element.attrib)
        else:
            yield from _units(element, header, path, count)


def _units(element: _Element, header: dict[str, str], path: Path, count: TmxCount) -> Iterator[Unit]:
    texts: dict[str, tuple[str, _Element]] = {}
    for tuv in element.iterchildren("{*}tuv", "tuv"):
        tag = tuv.get(LANGUAGE) or tuv.get("lang") or ""
        seg = next(tuv.iterchildren("{*}seg", "seg"), None)
        text = "" if seg is None else one_line(_text(seg))
        if tag and text and len(text) <= _LONGEST:
            texts.setdefault(_standard(tag), (text, tuv))
    wanted = element.get("srclang") or header.get("srclang") or _ANY
    source_tag = next((tag for tag in texts if _is_source(tag, wanted, exactly=True)), None)
    source_tag = source_tag or next((tag for tag in texts if _is_source(tag, wanted, exactly=False)), None)
    if source_tag is None or len(texts) < 2:
        count.left_out += 1
        return
    props = {prop.get("type") or "": prop.text or "" for prop in element.iterchildren("{*}prop", "prop")}
    for tag, (text, tuv) in texts.items():
        if tag != source_tag:
            count.units += 1
            yield Unit(
                source_tag, tag, texts[source_tag][0], text, props.get(_CONTEXT, ""),
                props.get(_ORIGIN) or path.name, _said(tuv, element, header, "changeid", "creationid"),
                _date(_said(tuv, element, header, "changedate", "creationdate")),
            )  # fmt: skip


@lru_cache(maxsize=500)
def _standard(tag: str) -> str:
    """A tag as it is written here, so that “de_de” is de-DE; one that is none stays."""
    tag = tag.replace("_", "-")
    try:
        return language_tag(tag)
    except TagError:
        return tag


def _is_source(tag: str, wanted: str, *, exactly: bool) -> bool:
    if wanted == _ANY:
        return True
    return tag.lower() == wanted.lower() if exactly else language_of(tag) == language_of(wanted)


def _said(tuv: _Element, unit: _Element, header: dict[str, str], *names: str) -> str:
    places = (tuv.attrib, unit.attrib, header)
    return next((str(place[name]) for place in places for name in names if name in place), "")


def _text(seg: _Element) -> str:
    parts = [seg.text or ""]
    for child in seg:
        if isinstance(child.tag, str) and local_name(child) not in _CODES:
            parts.append(_text(child))
        parts.append(child.tail or "")
    return "".join(parts)


def _date(text: str) -> str:
    """A TMX date as ISO 8601; empty where it is none.

    >>> _date("20260501T101500Z"), _date("yesterday")
    ('2026-05-01T10:15:00+00:00', '')
    """
    match = _DATE.fullmatch(text.strip())
    return "{}-{}-{}T{}:{}:{}+00:00".format(*match.groups()) if match else ""


def write_tmx(file: IO[bytes], units: Iterable[Unit], version: str) -> int:
    """Write units to an open file; how many. *version* is that of the desk."""
    from lxml import etree

    count = 0
    header = {
        "creationtool": "Zweistimme", "creationtoolversion": version, "segtype": "sentence", "o-tmf": "Zweistimme",
        "adminlang": "en", "srclang": _ANY, "datatype": "plaintext",
    }  # fmt: skip
    with etree.xmlfile(file, encoding="UTF-8") as out:
        out.write_declaration()
        with out.element("tmx", {"version": "1.4"}):
            out.write(etree.Element("header", header), pretty_print=True)
            with out.element("body"):
                for unit in units:
                    out.write(_element(unit), pretty_print=True)
                    count += 1
    return count


def _element(unit: Unit) -> _Element:
    from lxml import etree

    date = re.sub(r"[-:]|\+00:00$", "", unit.made)
    about = {
        "srclang": unit.source_tag,
        "creationdate": f"{date}Z" if date else "",
        "creationid": writable(unit.author),
    }
    element = etree.Element("tu", {name: value for name, value in about.items() if value})
    for kind, value in ((_ORIGIN, unit.origin), (_CONTEXT, unit.context)):
        if value:
            etree.SubElement(element, "prop", {"type": kind}).text = writable(value)
    for tag, text in ((unit.source_tag, unit.source), (unit.target_tag, unit.target)):
        tuv = etree.SubElement(element, "tuv", {LANGUAGE: tag})
        etree.SubElement(tuv, "seg").text = writable(text)
    return element
