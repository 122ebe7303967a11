"""What is to be said, without times: plain text, ``Speaker: text``, Word documents, Markdown, saved web pages."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final

from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.formats.names import name_and_words
from zweistimme.formats.text import decoded, read_bytes
from zweistimme.messages import msg, tr
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.writing import without_parentheticals

if TYPE_CHECKING:
    from docx.document import Document as WordDocument
    from lxml.html import HtmlElement

KINDS: Final = (".txt", ".md", ".docx", ".html", ".htm")
_NOT_READ: Final = ("script", "style", "nav", "header", "footer", "aside", "form", "figure", "noscript", "template",
                    "button", "select", "svg", "iframe", "table")  # fmt: skip
_TEXT: Final = ("p", "li", "blockquote", "dd", "pre")
_UNSPOKEN: Final = re.compile(r"\[[^\]\[]{0,400}\]")
_LINK: Final = re.compile(r"!?\[([^\]\[\n]{1,400})\]\([^()\s]{0,2000}\)")
_MOST_ENTRIES: Final = 5_000
_MOST_PARAGRAPHS: Final = 30_000
_WORD: Final = msg("Word document")
_LARGEST_ARCHIVE: Final = 24 << 20
"""A script of many hours unpacks into a tenth of it; pictures may be in it, too."""


@dataclass(frozen=True, slots=True)
class ProseLine:
    """A paragraph to be said, and who says it if that is written."""

    text: str
    speaker: str = ""


@dataclass(frozen=True, slots=True)
class Prose:
    """A script without times, and what of its file is not part of it."""

    lines: tuple[ProseLine, ...]
    notes: tuple[Finding, ...] = ()


def read_prose(path: Path, context: Context = NOTHING_KNOWN) -> Prose:
    """The script in a file."""
    data = read_bytes(path)
    suffix = path.suffix.lower()
    if suffix == ".docx" or data.startswith(b"PK\x03\x04"):
        paragraphs, notes = _word_document(data, str(path))
    elif suffix in (".html", ".htm", ".xhtml"):
        paragraphs, notes = _web_page(data, str(path), context)
    else:
        text, odd = decoded(data, str(path), context)
        paragraphs, notes = _markdown(text) if suffix in (".md", ".markdown") else (_plain(text), [])
        notes = [*odd, *notes]
    lines = tuple(_lines(paragraphs))
    if not lines:
        raise FormatError(
            "{path} holds nothing to be said. Give text, “Name: text”, Markdown, .docx or a web page.", path=path
        )
    return Prose(lines, tuple(notes))


def _lines(paragraphs: Iterable[str]) -> Iterator[ProseLine]:
    """Paragraphs without directions and sounds in brackets, which are not spoken; a name at the beginning split off."""
    for paragraph in paragraphs:
        speaker, words = name_and_words(" ".join(paragraph.split()))
        words = without_parentheticals(_UNSPOKEN.sub(" ", words))
        if any(sign.isalnum() for sign in words):
            yield ProseLine(words, speaker)


def _plain(text: str) -> list[str]:
    """Paragraphs of plain text: an empty line ends one, and so does a line that begins with a name."""
    found: list[list[str]] = [[]]
    for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n"):
        if not line.strip() or name_and_words(line.strip())[0]:
            found.append([])
        if line.strip() and not line.lstrip().startswith("#"):
            found[-1].append(line)
    return [" ".join(lines) for lines in found if lines]


def _markdown(text: str) -> tuple[list[str], list[Finding]]:
    """Paragraphs and list items; headings, code, tables and HTML are not spoken."""
    from markdown_it import MarkdownIt

    found, left, heading = [], 0, False
    # links are read here: looking for them among a hundred thousand brackets takes the parser minutes
    plain = _LINK.sub(r"\1", text)
    for token in MarkdownIt("commonmark").enable("table").disable(["link", "image"]).parse(plain):
        if token.type in ("heading_open", "tr_open"):
            heading = True
        elif token.type in ("heading_close", "tr_close"):
            heading = False
        elif token.type == "inline":
            words = "".join(
                child.content if child.type in ("text", "code_inline") else " "
                for child in token.children or ()
                if child.type in ("text", "code_inline", "softbreak", "hardbreak")
            )
            if heading:
                left += 1
            else:
                found += _plain(words)
        elif token.type in ("fence", "code_block", "html_block"):
            left += 1
    return found, [Finding("blocks-left-out", {"count": left})] if left else []


def _word_document(data: bytes, where: str) -> tuple[list[str], list[Finding]]:
    """Paragraphs that are no headings; rows of tables with a name on the left and words on the right."""
    from docx import Document
    from docx.table import Table

    check_archive(data, where)
    try:
        document: WordDocument = Document(io.BytesIO(data))
    except Exception as error:  # the package raises whatever its parts do
        raise FormatError(
            "{where} is not a Word document that can be read ({name}).", where=where, name=type(error).__name__
        ) from None
    found, left = [], 0
    count = len(document.element.body)
    if count > _MOST_PARAGRAPHS:
        raise FormatError(
            "{where} has {count:,} paragraphs; a script has {most:,} at most. Is it the right file?",
            where=where,
            count=count,
            most=_MOST_PARAGRAPHS,
        )
    for part in document.iter_inner_content():
        if isinstance(part, Table):
            for row in part.rows:
                cells = [" ".join(cell.text.split()) for cell in row.cells]
                words = [cell for cell in dict.fromkeys(cells) if cell]
                found.append(f"{words[0].rstrip(':')}: {' '.join(words[1:])}" if len(words) > 1 else " ".join(words))
        elif (part.style.name if part.style else "").lower().startswith(("heading", "title", "toc")):
            left += bool(part.text.strip())
        else:
            found += _plain(part.text)
    return found, [Finding("headings-left-out", {"count": left})] if left else []


def check_archive(data: bytes, where: str, kind: str = _WORD) -> None:
    """Refuse an archive that would unpack into more than a script can be."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
    except (zipfile.BadZipFile, ValueError, NotImplementedError):
        raise FormatError(
            "{where} is not a {kind}: its archive is damaged. Save it anew.", where=where, kind=tr(kind)
        ) from None
    size = sum(entry.file_size for entry in entries)
    if size > _LARGEST_ARCHIVE or len(entries) > _MOST_ENTRIES:
        raise FormatError(
            "{where} unpacks into {size} MiB; {largest_archive} MiB are read at most.",
            where=where,
            size=size >> 20,
            largest_archive=_LARGEST_ARCHIVE >> 20,
        )


def _web_page(data: bytes, where: str, context: Context) -> tuple[list[str], list[Finding]]:
    """The article of a page: what surrounds it, and its headings, captions and tables, are not spoken."""
    from lxml import html
    from lxml.etree import ParserError

    text, _ = decoded(data, where, context)
    parser = html.HTMLParser(no_network=True, huge_tree=False, remove_comments=True, remove_pis=True, encoding="utf-8")
    try:
        root: HtmlElement = html.document_fromstring(text.encode("utf-8", "replace"), parser=parser)
    except (ParserError, ValueError):
        raise FormatError("{where} holds no page that can be read.", where=where) from None
    whole = len(" ".join(root.text_content().split()))
    for element in list(root.iter(*_NOT_READ)):
        if element.getparent() is not None and not (element.tag == "header" and element.find(".//p") is not None):
            element.drop_tree()
    article = _article(root)
    found = []
    for element in article.iter(*_TEXT):
        if not any(True for _ in element.iterdescendants(*_TEXT)):
            for line_end in element.iter("br"):
                line_end.tail = f"\n{line_end.tail or ''}"
            found += _plain(element.text_content())
    kept = sum(map(len, found))
    left = [Finding("page-left-out", {"letters": whole - kept, "all": whole})]
    return found, left if kept < 0.9 * whole else []


def _article(root: HtmlElement) -> HtmlElement:
    """The element that holds most of the text in paragraphs of its own, or is marked as the article."""
    marked = [one for one in root.iter("article", "main") if one.find(".//p") is not None]
    if marked:
        return max(marked, key=_letters)
    parents: dict[HtmlElement, int] = {}
    for paragraph in root.iter("p"):
        parent = paragraph.getparent()
        if parent is not None:
            parents[parent] = parents.get(parent, 0) + len(paragraph.text_content().strip())
    return max(parents, key=lambda one: parents[one], default=root)


def _letters(element: HtmlElement) -> int:
    return sum(len(paragraph.text_content().strip()) for paragraph in element.iter("p"))
