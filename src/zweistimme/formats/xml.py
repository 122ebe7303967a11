"""Reading XML that anybody may have written: no entities, no document types, nothing fetched, sizes bounded."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from zweistimme.project.errors import FormatError

if TYPE_CHECKING:
    from lxml.etree import _Element

_NO_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")
LANGUAGE = "{http://www.w3.org/XML/1998/namespace}lang"
ID = "{http://www.w3.org/XML/1998/namespace}id"


def parse_xml(data: bytes, what: str) -> _Element:
    """The root of a document. FormatError, beginning with *what*, where it is not well-formed or not to be trusted."""
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise FormatError(
            "{what} is not well-formed: {why}.", what=what, why=getattr(error, "msg", None) or error
        ) from error
    if root.getroottree().docinfo.internalDTD is not None:
        raise FormatError("{what} declares a document type of its own, which is not read. Leave it out.", what=what)
    return root


def streamed(path: Path, what: str, roots: Collection[str], names: Collection[str]) -> Iterator[tuple[str, _Element]]:
    """The elements of a file that have one of *names*, one after the other, with that name; each is let go of once it
    has been looked at, so that a file may be of any length. FormatError where it is not well-formed, declares entities
    or begins with none of *roots*; *what* such a file is called."""
    from lxml import etree

    safe = {"resolve_entities": False, "no_network": True, "load_dtd": False, "huge_tree": False}
    try:
        with path.open("rb") as file:
            for event, element in etree.iterparse(file, events=("start", "end"), **safe):
                name = local_name(element)
                if event == "start":
                    if element.getparent() is None:
                        _trusted(element, name, path, what, roots)
                elif name in names:
                    yield name, element
                    _let_go(element)
    except etree.XMLSyntaxError as error:
        raise FormatError("{file} is not well-formed: {why}.", file=path.name, why=error.msg) from error
    except OSError as error:
        raise FormatError("{file} cannot be read: {why}.", file=path.name, why=error) from error


def _trusted(root: _Element, name: str, path: Path, what: str, roots: Collection[str]) -> None:
    dtd = root.getroottree().docinfo.internalDTD
    if dtd is not None and next(iter(dtd.iterentities()), None) is not None:
        raise FormatError("{file} declares entities of its own, which are not read. Leave them out.", file=path.name)
    if name not in roots:
        raise FormatError(
            "{file} begins with <{local_name}>, {what} with <{root}>.",
            file=path.name,
            local_name=name,
            what=what,
            root=next(iter(roots)),
        )


def _let_go(element: _Element) -> None:
    """What has been read is not kept: files have millions of units."""
    parent = element.getparent()
    element.clear()
    while parent is not None and element.getprevious() is not None:
        del parent[0]


def writable(text: str) -> str:
    """A text without the signs that XML 1.0 cannot have.

    >>> writable("Bell \x07rings.")
    'Bell rings.'
    """
    return _NO_XML.sub("", text)


def local_name(element: _Element) -> str:
    """An element's name without its namespace; empty for comments and the like."""
    return str(element.tag).rpartition("}")[2] if isinstance(element.tag, str) else ""
