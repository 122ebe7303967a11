"""Reading XML that anybody may have written: no entities, no document types, nothing fetched, sizes bounded."""

from __future__ import annotations

import re
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


def writable(text: str) -> str:
    """A text without the signs that XML 1.0 cannot have.

    >>> writable("Bell \x07rings.")
    'Bell rings.'
    """
    return _NO_XML.sub("", text)


def local_name(element: _Element) -> str:
    """An element's name without its namespace; empty for comments and the like."""
    return str(element.tag).rpartition("}")[2] if isinstance(element.tag, str) else ""
