"""PLS 1.0 (W3C Recommendation, Pronunciation Lexicon Specification), read and written.

Of a lexeme every grapheme is a word, said as its first phoneme says (``ipa``, or ``x-sampa``, which is brought to IPA),
or like its alias. Lexemes in other alphabets are left out and counted.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final

from zweistimme.formats.xml import LANGUAGE, local_name, parse_xml, writable
from zweistimme.formats.xsampa import ipa_of
from zweistimme.project.errors import FormatError, TagError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_tag
from zweistimme.project.sayings import Saying

if TYPE_CHECKING:
    from lxml.etree import _Element

NAMESPACE: Final = "http://www.w3.org/2005/01/pronunciation-lexicon"
_LARGEST: Final = 50_000_000


def read_pls(path: Path) -> tuple[list[Saying], tuple[Finding, ...]]:
    """How the words of a lexicon are said, and what is to be known of it. FormatError where it is none."""
    try:
        data = path.read_bytes()
    except OSError as error:
        raise FormatError("{file} cannot be read: {why}.", file=path.name, why=error) from error
    if len(data) > _LARGEST:
        raise FormatError("{file} is larger than any lexicon; {most:,} bytes at most.", file=path.name, most=_LARGEST)
    root = parse_xml(data, path.name)
    if local_name(root) != "lexicon":
        raise FormatError(
            "{file} is no lexicon in PLS: it begins with <{name}>.", file=path.name, name=local_name(root)
        )
    try:
        language = language_tag(root.get(LANGUAGE) or "")
    except TagError as error:
        raise FormatError("{file} does not say of which language it is (xml:lang).", file=path.name) from error
    usual, found, left_out = root.get("alphabet", "ipa"), list[Saying](), 0
    for lexeme in root:
        if local_name(lexeme) == "lexeme":
            said = list(_sayings(lexeme, language, usual))
            left_out += not said
            found += said
    odd = (Finding("lexemes-left-out", {"left_out": left_out}),) if left_out else ()
    return found, odd


def _sayings(lexeme: _Element, language: str, usual: str) -> Iterator[Saying]:
    words, ipa, like = [], "", ""
    for child in lexeme:
        name, text = local_name(child), " ".join("".join(child.itertext()).split())
        if name == "grapheme" and text:
            words.append(text)
        elif name == "phoneme" and text and not ipa:
            alphabet = child.get("alphabet", usual)
            ipa = text if alphabet == "ipa" else ipa_of(text) if alphabet == "x-sampa" else ""
        elif name == "alias" and text and not like:
            like = text
    for word in words if ipa or like else ():
        yield Saying(word, language, ipa, "" if ipa else like)


def written_pls(sayings: Iterable[Saying], language: str) -> bytes:
    """A lexicon of one language."""
    from lxml import etree

    head = {"version": "1.0", "alphabet": "ipa", LANGUAGE: language}
    root = etree.Element(f"{{{NAMESPACE}}}lexicon", head, {None: NAMESPACE})
    for one in sayings:
        lexeme = etree.SubElement(root, f"{{{NAMESPACE}}}lexeme")
        how = ("phoneme", one.ipa) if one.ipa else ("alias", one.like)
        for name, text in (("grapheme", one.word), how):
            etree.SubElement(lexeme, f"{{{NAMESPACE}}}{name}").text = writable(text)
    return bytes(etree.tostring(root, encoding="UTF-8", xml_declaration=True, pretty_print=True))
