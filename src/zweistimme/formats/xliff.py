"""XLIFF 2.1 (OASIS 2018), written and read: a unit for each line, with its state, notes, and in modules its length and
its place.

Written: one ``segment`` to a unit; ``translate="no"`` for locked lines; Size and Length Restriction in code points;
Metadata with time, speaker, seconds, and marks of the texts as they were sent; Format Style, by which tools preview a
unit as a paragraph with its time and speaker. Read: any number of files and segments, inline elements as their text,
states, notes; 2.0 and 2.2 too.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Final

from zweistimme.formats.exchange_row import Exchange, ExchangeRow
from zweistimme.formats.xml import local_name, parse_xml, writable
from zweistimme.project.errors import FormatError
from zweistimme.project.times import SECOND_US, clock
from zweistimme.project.wordings import LineNote, LineState

if TYPE_CHECKING:
    from lxml.etree import _Element

CORE: Final = "urn:oasis:names:tc:xliff:document:2.0"
SIZE: Final = "urn:oasis:names:tc:xliff:sizerestriction:2.0"
META: Final = "urn:oasis:names:tc:xliff:metadata:2.0"
STYLE: Final = "urn:oasis:names:tc:xliff:fs:2.0"
OWN: Final = "urn:zweistimme:exchange:1.0"
_CATEGORY: Final = "zweistimme"
_VERSIONS: Final = frozenset(["2.0", "2.1", "2.2"])
_NOT_TEXT: Final = frozenset(["ph", "sc", "ec", "sm", "em"])
_NO_ID: Final = re.compile(r"[^\w.-]")


def write_xliff(exchange: Exchange) -> bytes:
    """A document."""
    from lxml import etree

    names = {None: CORE, "slr": SIZE, "mda": META, "fs": STYLE, "zs": OWN}
    root = etree.Element(f"{{{CORE}}}xliff", {"version": "2.1"}, nsmap=names)
    root.set("srcLang", exchange.source_tag)
    root.set("trgLang", exchange.target_tag)
    file = etree.SubElement(root, f"{{{CORE}}}file", {"id": "f1", "original": writable(exchange.title)})
    profiles = etree.SubElement(file, f"{{{SIZE}}}profiles", {"generalProfile": "xliff:codepoints"})
    etree.SubElement(profiles, f"{{{SIZE}}}normalization", {"general": "nfc"})
    for row in exchange.rows:
        _write_unit(file, row)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def _write_unit(file: _Element, row: ExchangeRow) -> None:
    from lxml import etree

    unit = etree.SubElement(file, f"{{{CORE}}}unit", {"id": _NO_ID.sub("_", row.segment_id), "canResegment": "no"})
    if row.locked:
        unit.set("translate", "no")
    unit.set(f"{{{STYLE}}}fs", "p")
    unit.set(f"{{{STYLE}}}subFs", _sub_style("title", f"{clock(row.start_us)} {row.speaker}"))
    if row.letters:
        unit.set(f"{{{SIZE}}}sizeRestriction", f"0,{row.letters}")
    metadata = etree.SubElement(unit, f"{{{META}}}metadata")
    group = etree.SubElement(metadata, f"{{{META}}}metaGroup", {"category": _CATEGORY})
    for kind, value in _facts(row):
        etree.SubElement(group, f"{{{META}}}meta", {"type": kind}).text = writable(value)
    if row.notes:
        notes = etree.SubElement(unit, f"{{{CORE}}}notes")
        for number, note in enumerate(row.notes, 1):
            element = etree.SubElement(notes, f"{{{CORE}}}note", {"id": f"n{number}", "appliesTo": "target"})
            for name, value in (("author", note.author), ("written", note.written)):
                if value:
                    element.set(f"{{{OWN}}}{name}", writable(value))
            element.text = writable(note.text)
    segment = etree.SubElement(unit, f"{{{CORE}}}segment", {"state": (row.state or LineState.INITIAL).value})
    etree.SubElement(segment, f"{{{CORE}}}source").text = writable(row.source)
    if row.target:
        etree.SubElement(segment, f"{{{CORE}}}target").text = writable(row.target)


def _sub_style(name: str, value: str) -> str:
    """An attribute of the element that previews a unit, its commas and strokes escaped (4.8.4.2).

    >>> _sub_style("title", "0:03.4 Mira, Ida")
    'title,0:03.4 Mira\\\\, Ida'
    """
    return ",".join(writable(part).replace("\\", "\\\\").replace(",", "\\,") for part in (name, value))


def _facts(row: ExchangeRow) -> Iterator[tuple[str, str]]:
    yield "segment", row.segment_id
    yield "line", str(row.number)
    yield "speaker", row.speaker
    yield "start", f"{row.start_us / SECOND_US:.3f}"
    yield "end", f"{row.end_us / SECOND_US:.3f}"
    yield "seconds", f"{row.seconds:.2f}"
    yield "source-sent", row.source_sent
    yield "target-sent", row.target_sent
    yield "state-sent", row.state_sent


def read_xliff(data: bytes, where: str) -> Exchange:
    """What a document says. FormatError where it is none that can be read."""
    root = parse_xml(data, where)
    if local_name(root) != "xliff":
        raise FormatError(
            "{file} begins with <{local_name}>, XLIFF with <xliff>.", file=where, local_name=local_name(root)
        )
    version = root.get("version") or ""
    if version not in _VERSIONS:
        raise FormatError("{file} is XLIFF {version}; 2.0, 2.1 and 2.2 are read.", file=where, version=version or "?")
    rows = [_read_unit(unit) for unit in root.iter("{*}unit")]
    title = next((file.get("original") or "" for file in root.iter("{*}file")), "")
    return Exchange(title, root.get("srcLang") or "", root.get("trgLang") or "", tuple(rows))


def _read_unit(unit: _Element) -> ExchangeRow:
    facts = {meta.get("type") or "": meta.text or "" for meta in unit.iter(f"{{{META}}}meta")}
    parts = [part for part in unit if local_name(part) in ("segment", "ignorable")]
    segments = [part for part in parts if local_name(part) == "segment"]
    return ExchangeRow(
        facts.get("segment") or unit.get("id") or "",
        "".join(_side(part, "source") for part in parts),
        "".join(_side(part, "target") for part in parts),
        number=_whole(facts.get("line", "")),
        speaker=facts.get("speaker", ""),
        locked=unit.get("translate") == "no",
        state=_state(segments),
        notes=tuple(_notes(unit)),
        source_sent=facts.get("source-sent", ""),
        target_sent=facts.get("target-sent", ""),
        state_sent=facts.get("state-sent", ""),
    )


def _state(segments: Sequence[_Element]) -> LineState:
    """That of the segment that is least far; a state nobody knows is as one that is not said."""
    order = list(LineState)
    known = {state.value: state for state in order}
    states = [known.get(segment.get("state") or "", LineState.INITIAL) for segment in segments]
    return min(states, key=order.index, default=LineState.INITIAL)


def _side(part: _Element, name: str) -> str:
    side = next((child for child in part if local_name(child) == name), None)
    if side is None and name == "target" and local_name(part) == "ignorable":
        return _side(part, "source")  # what stands between segments is as it was
    return "" if side is None else _text(side)


def _text(element: _Element) -> str:
    parts = [element.text or ""]
    for child in element:
        name = local_name(child)
        if name == "cp":
            parts.append(_code_point(child.get("hex") or ""))
        elif name and name not in _NOT_TEXT:
            parts.append(_text(child))
        parts.append(child.tail or "")
    return "".join(parts)


def _code_point(digits: str) -> str:
    try:
        return chr(int(digits, 16))
    except (ValueError, OverflowError):
        return ""


def _notes(unit: _Element) -> Iterator[LineNote]:
    for note in unit.iterchildren("{*}notes"):
        for one in note:
            text = "".join(one.itertext()).strip() if local_name(one) == "note" else ""
            if text:
                yield LineNote(text, one.get(f"{{{OWN}}}author") or "", one.get(f"{{{OWN}}}written") or "")


def _whole(text: str) -> int:
    return int(text) if text.isdecimal() and len(text) < 9 else 0
