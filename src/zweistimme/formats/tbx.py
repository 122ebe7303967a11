"""TBX-Basic (ISO 30042:2019, data categories as attributes), read a concept at a time, and written.

Read are also the older form (``martif``, ``termEntry``, ``langSet``) and categories as elements. Of a concept each term
in the original's language that may be used is a term here, with what the concept has in other languages: the preferred
term is to be used, others may be, deprecated and superseded ones are not. What is kept as it is in every language
stands under ``mul`` (several languages, ISO 639-2); a pronunciation is a note in strokes, ``/ˈvɑːn.həʊm/``, since the
dialect has no category for it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, TYPE_CHECKING, Final

from zweistimme.formats.xml import LANGUAGE, local_name, streamed, writable
from zweistimme.project.errors import TagError
from zweistimme.project.languages import language_tag, same_language
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.project.writing import one_line

if TYPE_CHECKING:
    from lxml.etree import _Element

NAMESPACE: Final = "urn:iso:std:iso:30042:ed-2"
_EVERYWHERE: Final = "mul"
_USED, _ADMITTED, _UNUSED = "preferredTerm-admn-sts", "admittedTerm-admn-sts", "deprecatedTerm-admn-sts"
_NOT_USED: Final = frozenset([_UNUSED, "supersededTerm-admn-sts", "deprecatedTerm", "supersededTerm"])
_PARTS: Final = frozenset(PartOfSpeech)
_IPA: Final = re.compile(r"/[^/]+/")
_ABOUT: Final = frozenset(["definition", "context", "note"])


@dataclass(slots=True)
class TbxCount:
    """What was read until now: concepts, and those of which nothing could be a term: without one in the original's
    language."""

    concepts: int = 0
    left_out: int = 0


@dataclass(slots=True)
class _Word:
    text: str
    used: str
    part: PartOfSpeech
    pronunciation: str
    notes: list[str] = field(default_factory=list)


def read_tbx(path: Path, source_tag: str, count: TbxCount) -> Iterator[Term]:
    """The terms of a file whose original is in *source_tag*; *count* says how many concepts there were. FormatError
    where it is no TBX or not well-formed."""
    for _, concept in streamed(path, "TBX", ("tbx", "martif"), ("conceptEntry", "termEntry")):
        count.concepts += 1
        terms = list(_terms(concept, source_tag))
        count.left_out += not terms
        yield from terms


def _terms(concept: _Element, source_tag: str) -> Iterator[Term]:
    notes = [note for child in concept if (note := _note(child))]
    words: dict[str, list[_Word]] = {}
    for section in concept:
        if local_name(section) in ("langSec", "langSet"):
            tag = _standard(section.get(LANGUAGE) or "")
            inside = [word for child in section.iter() if (word := _word(child)) is not None]
            words.setdefault(tag, []).extend(inside)
            notes += [note for child in section if (note := _note(child))]
    source = _source(words, source_tag)
    kept = words.pop(_EVERYWHERE, [])
    originals = [word for word in words.pop(source, []) if word.used not in _NOT_USED] if source else []
    renderings = {tag: _rendering(there) for tag, there in words.items() if tag}
    for word in originals:
        yield Term(
            word.text, renderings, "; ".join(dict.fromkeys((*notes, *word.notes))), word.part,
            any(one.text == word.text for one in kept), word.pronunciation,
        )  # fmt: skip


def _source(words: dict[str, list[_Word]], source_tag: str) -> str | None:
    """Which of the languages of a concept is that of the original: the same tag, or the same language."""
    if source_tag in words:
        return source_tag
    return next((tag for tag in words if tag != _EVERYWHERE and tag and same_language(tag, source_tag)), None)


def _standard(tag: str) -> str:
    try:
        return tag if tag == _EVERYWHERE else language_tag(tag.replace("_", "-"))
    except TagError:
        return ""


def _word(element: _Element) -> _Word | None:
    """The term of a section, with what is said of it."""
    if local_name(element) not in ("termSec", "tig", "ntig"):
        return None
    said: dict[str, str] = {}
    text, pronunciation, notes = "", "", []
    for child in element.iter():
        name, words = local_name(child), one_line("".join(child.itertext())) if local_name(child) else ""
        if name == "term":
            text = words
        elif name == "note" and _IPA.fullmatch(words):
            pronunciation = words.strip("/")
        elif note := _note(child):
            notes.append(note)
        else:
            said[child.get("type") or name] = words
    if not text:
        return None
    part = said.get("partOfSpeech", "")
    known = PartOfSpeech(part) if part in _PARTS else PartOfSpeech.OTHER
    return _Word(text, said.get("administrativeStatus", ""), known, pronunciation, notes)


def _note(element: _Element) -> str:
    """What an element says of a concept or a term to people; empty where it is something else."""
    name = local_name(element)
    kind = element.get("type") if name in ("descrip", "admin") else name
    if name in ("descripGrp", "adminGrp"):
        return next((note for child in element if (note := _note(child))), "")
    return one_line("".join(element.itertext())) if kind in _ABOUT else ""


def _rendering(words: list[_Word]) -> Rendering:
    used = sorted((word for word in words if word.used not in _NOT_USED), key=lambda word: word.used != _USED)
    also = tuple(word.text for word in used[1:])
    said_as = {word.text.casefold() for word in used}
    unused = tuple(word.text for word in words if word.used in _NOT_USED and word.text.casefold() not in said_as)
    said = next((word.pronunciation for word in used if word.pronunciation), "")
    return Rendering(used[0].text if used else "", also, unused, said)


def write_tbx(file: IO[bytes], terms: Iterable[Term], source_tag: str, title: str) -> int:
    """Write terms to an open file; how many. *title* says where they are from."""
    from lxml import etree

    kind = {"type": "TBX-Basic", "style": "dca", LANGUAGE: "en"}
    root = etree.Element(f"{{{NAMESPACE}}}tbx", kind, {None: NAMESPACE})
    _element(_element(_element(_element(root, "tbxHeader"), "fileDesc"), "sourceDesc"), "p", f"Zweistimme: {title}")
    body, count = _element(_element(root, "text"), "body"), 0
    for count, term in enumerate(terms, 1):
        _add_concept(body, term, source_tag, count)
    etree.ElementTree(root).write(file, encoding="UTF-8", xml_declaration=True, pretty_print=True)
    return count


def _element(parent: _Element, name: str, text: str = "", **attributes: str) -> _Element:
    from lxml import etree

    element = etree.SubElement(parent, f"{{{NAMESPACE}}}{name}", attributes)
    element.text = writable(text) or None
    return element


def _add_concept(body: _Element, term: Term, source_tag: str, number: int) -> None:
    concept = _element(body, "conceptEntry", id=f"c{number}")
    if term.note:
        _element(concept, "note", term.note)
    _section(concept, source_tag, [_written(term.source, "", term.part, term.pronunciation)])
    for tag, one in sorted(term.renderings.items()):
        words = [_written(one.text, _USED, term.part, one.pronunciation)] if one.text else []
        words += [_written(text, _ADMITTED, term.part) for text in one.also]
        words += [_written(text, _UNUSED, term.part) for text in one.forbidden]
        _section(concept, tag, words)
    if term.kept:
        _section(concept, _EVERYWHERE, [_written(term.source, "", term.part)])


def _written(text: str, used: str, part: PartOfSpeech, pronunciation: str = "") -> _Word:
    return _Word(text, used, part, pronunciation)


def _section(concept: _Element, tag: str, words: Iterable[_Word]) -> None:
    section = _element(concept, "langSec", **{LANGUAGE: tag})
    for word in words:
        there = _element(section, "termSec")
        _element(there, "term", word.text)
        if word.part:
            _element(there, "termNote", word.part.value, type="partOfSpeech")
        if word.used:
            _element(there, "termNote", word.used, type="administrativeStatus")
        if word.pronunciation:
            _element(there, "note", f"/{word.pronunciation}/")
