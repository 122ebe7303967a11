"""What ISO 30042:2019 and the TBX-Basic dialect state of a file, as far as the desk writes any of it: a validator."""

from __future__ import annotations

import re
from pathlib import Path

import langcodes
from lxml import etree

TBX = "{urn:iso:std:iso:30042:ed-2}"
XML_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
CHILDREN = {
    "tbx": ("tbxHeader", "text"),
    "tbxHeader": ("fileDesc", "encodingDesc", "revisionDesc"),
    "fileDesc": ("titleStmt", "publicationStmt", "sourceDesc"),
    "sourceDesc": ("p",), "p": (), "text": ("body", "back"), "body": ("conceptEntry",),
    "conceptEntry": ("descrip", "descripGrp", "admin", "note", "ref", "xref", "langSec"),
    "langSec": ("descrip", "descripGrp", "admin", "note", "ref", "xref", "termSec"),
    "termSec": ("term", "termNote", "descrip", "admin", "note", "ref", "xref"),
    "term": (), "termNote": (), "note": (), "descrip": (), "admin": (),
}  # fmt: skip
VALUES = {
    "partOfSpeech": {"adjective", "noun", "other", "verb", "adverb", "properNoun"},
    "administrativeStatus": {
        "admittedTerm-admn-sts", "deprecatedTerm-admn-sts", "supersededTerm-admn-sts", "preferredTerm-admn-sts",
    },
    "grammaticalGender": {"masculine", "feminine", "neuter", "other"},
    "termType": {"fullForm", "acronym", "abbreviation", "shortForm", "variant", "phrase"},
}  # fmt: skip
"""Categories of TBX-Basic with fixed values; the others are text."""


def broken_rules(file: Path) -> list[str]:
    """What a file breaks; nothing where all is well."""
    root = etree.parse(file).getroot()
    found = []
    if root.tag != f"{TBX}tbx" or root.get("type") != "TBX-Basic" or root.get("style") != "dca":
        found.append("the root is no TBX-Basic in DCA style")
    if not root.get(XML_LANG):
        found.append("the root has no language")
    ids = [element.get("id") for element in root.iter() if element.get("id")]
    if len(ids) != len(set(ids)):
        found.append("an id is there twice")
    for element in root.iter():
        found += _of_element(element)
    return found


def _of_element(element: etree._Element) -> list[str]:
    name = str(element.tag).removeprefix(TBX)
    if name not in CHILDREN:
        return [f"<{name}> is not known"]
    names = [str(child.tag).removeprefix(TBX) for child in element]
    allowed = CHILDREN[name]
    found = [f"<{child}> in <{name}>" for child in names if child not in allowed]
    places = [min(allowed.index(child), 5 if name != "termSec" else 1) for child in names if child in allowed]
    if places != sorted(places):
        found.append(f"<{name}> has its parts out of order")
    if name in ("conceptEntry", "langSec", "body") and (
        not names or names[-1] not in ("langSec", "termSec", "conceptEntry")
    ):
        found.append(f"<{name}> is empty")
    if name == "termSec" and names.count("term") != 1:
        found.append("a termSec has one term")
    if name == "term" and not (element.text or "").strip():
        found.append("an empty term")
    if name == "langSec" and not langcodes.tag_is_valid(element.get(XML_LANG) or ""):
        found.append(f"{element.get(XML_LANG)} is no language")
    if name == "conceptEntry":
        tags = [child.get(XML_LANG) for child in element.iter(f"{TBX}langSec")]
        if len(tags) != len(set(tags)):
            found.append("a language is there twice")
        if not re.fullmatch(r"[A-Za-z_][\w.-]*", element.get("id") or ""):
            found.append("a concept has no id")
    kind = element.get("type")
    if name == "termNote" and element.text not in VALUES.get(kind or "", {element.text}):
        found.append(f"{kind} is never {element.text}")
    if name == "termNote" and kind not in VALUES:
        found.append(f"{kind} is not in TBX-Basic")
    return found
