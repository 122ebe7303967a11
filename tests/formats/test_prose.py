"""Scripts without times: what is spoken is read, what surrounds it is not."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
from docx import Document

from zweistimme.formats.prose import ProseLine, read_prose
from zweistimme.project.errors import FormatError
from zweistimme.sentences import sentence_of

WANTED = [
    ProseLine("Twice a day the sea walks up.", "Mira"),
    ProseLine("It turns! And it does.", "Tobin Oake"),
    ProseLine("Nobody asks."),
]


def lines_of(path: Path) -> list[ProseLine]:
    return list(read_prose(path).lines)


def test_plain_text_with_names_and_directions(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text(
        "# a comment\nMira: Twice a day\nthe sea walks up.\n"
        "Tobin Oake: (laughing) It turns! [bell] And it does.\n\nNobody asks.\n\n***\n"
    )
    assert lines_of(path) == WANTED


def test_markdown_without_headings_code_and_tables(tmp_path: Path) -> None:
    path = tmp_path / "a.md"
    path.write_text(
        "# The Tide Clock\n\n**Mira:** Twice a *day* the sea\nwalks up.\n\n- Tobin Oake: It turns! And it does.\n\n"
        "```\ncode\n```\n\n| a | b |\n|---|---|\n| c | d |\n\n[Nobody](http://x.example) asks.\n"
    )
    prose = read_prose(path)
    assert list(prose.lines) == WANTED
    assert "headings, tables and blocks of code left out" in sentence_of(prose.notes[0])


def test_word_documents_with_paragraphs_and_tables(tmp_path: Path) -> None:
    document = Document()
    document.add_heading("The Tide Clock", 1)
    document.add_paragraph("Mira: Twice a day the sea walks up.")
    table = document.add_table(rows=1, cols=2)
    table.cell(0, 0).text, table.cell(0, 1).text = "Tobin Oake", "It turns! And it does."
    document.add_paragraph("Nobody asks.")
    path = tmp_path / "a.docx"
    document.save(str(path))
    prose = read_prose(path)
    assert list(prose.lines) == WANTED
    assert sentence_of(prose.notes[0]) == "1 heading left out."


PAGE = """<!DOCTYPE html><html><head><title>x</title><style>p</style></head><body>
<header><nav><ul><li>Home</li><li>Shop now</li></ul></nav></header><aside><p>Subscribe to our letters today.</p></aside>
{article}
<footer><p>All rights reserved.</p></footer><script>alert("p")</script></body></html>"""
ARTICLE = (
    "<h1>The Clock</h1><p>Mira: Twice a day <b>the sea</b>\n walks up.</p>"
    "<p>Tobin Oake: It turns! And it does.</p><p>Nobody asks.</p>"
)


@pytest.mark.parametrize("wrap", ["<article>{}</article>", "<main><div>{}</div></main>", "<div><div>{}</div></div>"])
def test_only_the_article_of_a_web_page(tmp_path: Path, wrap: str) -> None:
    path = tmp_path / "a.html"
    path.write_text(PAGE.format(article=wrap.format(ARTICLE)))
    prose = read_prose(path)
    assert list(prose.lines) == WANTED
    assert "are not its article" in sentence_of(prose.notes[0])


def test_files_that_are_no_script(tmp_path: Path) -> None:
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("word/document.xml", b" " * (80 << 20))
    plain = io.BytesIO()
    with zipfile.ZipFile(plain, "w") as archive:
        archive.writestr("a.txt", "x")
    for name, data, sentence in (
        ("a.txt", b"\n\n# nothing\n[bell]\n", "holds nothing to be said"),
        ("a.docx", b"PK\x03\x04 broken", "archive is damaged"),
        ("b.docx", b"no archive", "archive is damaged"),
        ("c.docx", bomb.getvalue(), "unpacks into 80 MiB"),
        ("d.docx", plain.getvalue(), "not a Word document"),
        ("a.html", b"", "holds no page|holds nothing"),
        ("b.html", b"<html><nav><p>Home</p></nav></html>", "holds nothing to be said"),
    ):
        path = tmp_path / name
        path.write_bytes(data)
        with pytest.raises(FormatError, match=sentence):
            read_prose(path)


def test_markdown_that_is_all_brackets_is_read_in_no_time(tmp_path: Path) -> None:
    path = tmp_path / "a.md"
    path.write_text("Mira: Good day.\n\n" + "[" * 60_000)
    assert lines_of(path)[0] == ProseLine("Good day.", "Mira")


def test_a_document_that_is_no_script_is_refused_at_once(tmp_path: Path) -> None:

    made = Document()
    made.save(str(tmp_path / "small.docx"))
    with (
        zipfile.ZipFile(tmp_path / "small.docx") as source,
        zipfile.ZipFile(tmp_path / "big.docx", "w", zipfile.ZIP_DEFLATED) as sink,
    ):
        for name in source.namelist():
            data = source.read(name)
            if name == "word/document.xml":
                data = data.replace(b"<w:body>", b"<w:body>" + b"<w:p><w:r><w:t>So.</w:t></w:r></w:p>" * 40_000)
            sink.writestr(name, data)
    with pytest.raises(FormatError, match="40,001 paragraphs; a script has 30,000 at most"):
        read_prose(tmp_path / "big.docx")
