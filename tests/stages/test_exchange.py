"""Versions sent to people who have no desk, and taken back: XLIFF 2.1, Word tables, CSV."""

from __future__ import annotations

import io
import random
import re
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from docx import Document as WordDocument
from docx.oxml import OxmlElement
from lxml import etree
from openpyxl import load_workbook
from openpyxl.comments import Comment

from helpers import project_with
from zweistimme.formats.exchange_row import Exchange, mark_of
from zweistimme.formats.xliff import CORE, META, OWN, SIZE, STYLE, read_xliff
from zweistimme.project import line_edits, transcript
from zweistimme.project.errors import FormatError
from zweistimme.project.facts import line_is_stale
from zweistimme.project.model import Project
from zweistimme.project.reshape import split_before
from zweistimme.project.wordings import LineNote, LineState, Origin, OriginKind
from zweistimme.stages.translate.exchange import (
    READERS,
    Change,
    doubts,
    exchange_of,
    proposed,
    read_exchange,
    take_back,
    written_exchange,
)
from zweistimme.store.document import Document

TAG = "de-DE"
ROWS = [(1.0, 3.0, "Fish & <chips>, please."), (4.0, 6.0, "Two\u00a0ropes."), (7.0, 9.0, "It is late.")]
KINDS = (".xlf", ".docx", ".xlsx", ".csv")


@pytest.fixture
def project() -> Project:
    made = line_edits.set_line_text(project_with(ROWS), TAG, "s1", "Fisch & <Pommes>, „bitte“.")
    made = line_edits.set_states(made, TAG, ["s1"], LineState.REVIEWED)
    made = line_edits.set_locked(made, TAG, ["s3"], True)
    return line_edits.set_note(made, TAG, "s1", "Ida", "Is this about fish?", "2026-05-01T10:00:00+00:00")


def sent(project: Project, kind: str, folder: Path) -> Path:
    file = folder / f"back{kind}"
    file.write_bytes(written_exchange(project, TAG, kind))
    return file


def edited(file: Path, number: int, wording: str, note: str = "") -> None:
    """A person changes a wording in a file."""
    if file.suffix == ".docx":
        document = WordDocument(str(file))
        row = document.tables[0].rows[number]
        row.cells[4].text = wording
        if note:
            row.cells[6].text = note
        document.save(str(file))
    elif file.suffix == ".xlsx":
        workbook = load_workbook(file)
        workbook.active.cell(number + 1, 5).value = wording
        workbook.active.cell(number + 1, 7).value = note
        workbook.save(file)
    elif file.suffix == ".csv":
        lines = file.read_bytes().decode("utf-8-sig").split("\r\n")
        cells = lines[number].split(",")
        assert '"' not in lines[number]
        cells[4], cells[6] = wording, note
        lines[number] = ",".join(cells)
        file.write_text("\r\n".join(lines), encoding="utf-8", newline="")
    else:
        root = etree.fromstring(file.read_bytes())
        unit = root.findall(f".//{{{CORE}}}unit")[number - 1]
        target = unit.find(f".//{{{CORE}}}target")
        assert target is not None
        target.text = wording
        if note:
            notes = etree.Element(f"{{{CORE}}}notes")
            etree.SubElement(notes, f"{{{CORE}}}note").text = note
            unit.insert(1, notes)
        file.write_bytes(etree.tostring(root))


def changes_of(project: Project, file: Path) -> list[Change]:
    return proposed(project, TAG, read_exchange(file))[0]


@pytest.mark.parametrize("kind", KINDS)
def test_what_nobody_touched_changes_nothing(project: Project, kind: str, tmp_path: Path) -> None:
    found, said = proposed(project, TAG, read_exchange(sent(project, kind, tmp_path)))
    assert (found, said) == ([], [])


def test_xliff_comes_back_as_it_was(project: Project, tmp_path: Path) -> None:
    there = exchange_of(project, TAG)
    back = read_exchange(sent(project, ".xlf", tmp_path))
    assert (back.title, back.source_tag, back.target_tag) == (project.title, "en-GB", TAG)
    exact = [replace(row, start_us=0, end_us=0, seconds=0.0, letters=0) for row in there.rows]
    assert list(back.rows) == exact


@pytest.mark.parametrize("kind", KINDS)
def test_what_a_reviewer_changed_is_taken_with_the_note(project: Project, kind: str, tmp_path: Path) -> None:
    file = sent(project, kind, tmp_path)
    edited(file, 2, "Zwei Seile!", "Not so harsh?")
    (change,) = changes_of(project, file)
    assert (change.number, change.after, change.sure) == (2, "Zwei Seile!", True)
    after = take_back(project, TAG, [change], file.name)
    line = after.versions[TAG].lines["s2"]
    assert (line.text, line.origin) == ("Zwei Seile!", Origin(OriginKind.IMPORT, file.name))
    assert line.state is (LineState.TRANSLATED if kind == ".xlf" else LineState.REVIEWED)
    assert [note.text for note in line.notes] == ["Not so harsh?"]
    assert [offer.text for offer in line.offers] == [project.versions[TAG].lines["s2"].text]
    assert after.versions[TAG].lines["s1"] is project.versions[TAG].lines["s1"]
    assert changes_of(after, file) == [], "taken once"


@pytest.mark.parametrize("kind", KINDS)
def test_a_final_line_is_not_replaced_by_a_file_unless_somebody_wants_that(
    project: Project, kind: str, tmp_path: Path
) -> None:
    final = line_edits.set_states(project, TAG, ["s2"], LineState.FINAL)
    file = sent(final, kind, tmp_path)
    assert changes_of(final, file) == []
    edited(file, 2, "Zwei Seile!")
    (change,) = changes_of(final, file)
    assert (change.final, change.sure, doubts(change)) == (True, False, ["final"])


@pytest.mark.parametrize("kind", KINDS)
def test_both_sides_moved_is_said_and_left_to_a_person(project: Project, kind: str, tmp_path: Path) -> None:
    file = sent(project, kind, tmp_path)
    edited(file, 2, "Zwei Seile!")
    edited(file, 3, "Spät ist es.")
    meanwhile = line_edits.set_line_text(project, TAG, "s2", "Her mit zwei Seilen.")
    meanwhile = transcript.set_segment_text(meanwhile, "s3", "It is very late.")
    by_number = {change.number: change for change in changes_of(meanwhile, file)}
    assert (by_number[2].clash, by_number[2].sure, by_number[2].before) == (True, False, "Her mit zwei Seilen.")
    if kind == ".xlf":
        assert (by_number[3].moved, by_number[3].locked) == (True, True)
        after = take_back(meanwhile, TAG, by_number.values(), file.name)
        line = after.versions[TAG].lines["s3"]
        assert (line.text, line.locked) == ("Spät ist es.", True)
        assert line_is_stale(after.segments[2], line), "the original has changed since"
    else:
        assert 3 not in by_number, "without an id, a line is known by its original"


@pytest.mark.parametrize("kind", KINDS)
def test_lines_are_found_again_though_they_were_numbered_anew(project: Project, kind: str, tmp_path: Path) -> None:
    file = sent(project, kind, tmp_path)
    edited(file, 3, "Spät ist es.")
    cut = split_before(project, "s1", 2)
    (change,) = [one for one in changes_of(cut, file) if one.after == "Spät ist es."]
    assert (change.segment_id, change.number) == ("s3", 4)
    gone = transcript.delete_segments(project, ["s3"])
    found, said = proposed(gone, TAG, read_exchange(file))
    assert ([one.after for one in found], [one.code for one in said]) == ([], ["lines-gone"])


def test_an_emptied_cell_is_not_taken_by_itself(project: Project, tmp_path: Path) -> None:
    file = sent(project, ".docx", tmp_path)
    edited(file, 2, "")
    (change,) = changes_of(project, file)
    assert (change.emptied, change.sure) == (True, False)


def test_tracked_changes_count_as_made_and_comments_are_notes(project: Project, tmp_path: Path) -> None:
    file = sent(project, ".docx", tmp_path)
    document = WordDocument(str(file))
    paragraph = document.tables[0].rows[2].cells[4].paragraphs[0]
    old = paragraph.runs[0]
    document.add_comment(old, text="Which ropes?", author="Ned")
    deleted, put_in = OxmlElement("w:del"), OxmlElement("w:ins")
    old._r.addprevious(deleted)
    gone = OxmlElement("w:r")
    gone_text = OxmlElement("w:delText")
    gone_text.text = old.text
    gone.append(gone_text)
    deleted.append(gone)
    old.text = ""
    run = paragraph.add_run("Zwei Taue.")
    paragraph._p.append(put_in)
    put_in.append(run._r)
    document.save(str(file))
    (change,) = changes_of(project, file)
    assert change.after == "Zwei Taue."
    assert change.notes == (LineNote("Which ropes?", "Ned"),)


def faults_of(data: bytes) -> list[str]:
    """What of a document is not as XLIFF 2.1 states it (4.2, 4.3, 5.4 metadata, 5.5 size and length restriction)."""
    root = etree.fromstring(data)
    faults = [] if root.tag == f"{{{CORE}}}xliff" and root.get("version") == "2.1" else ["root"]
    if not root.get("srcLang"):
        faults.append("srcLang")
    if next(root.iter(f"{{{CORE}}}target"), None) is not None and not root.get("trgLang"):
        faults.append("trgLang")
    for file in root:
        ids = [unit.get("id") for unit in file.iter(f"{{{CORE}}}unit")]
        faults += ["unit ids"] if None in ids or len(set(ids)) != len(ids) else []
        restricted = any(unit.get(f"{{{SIZE}}}sizeRestriction") for unit in file.iter(f"{{{CORE}}}unit"))
        faults += ["profiles"] if restricted and file.find(f"{{{SIZE}}}profiles") is None else []
        for unit in file.iter(f"{{{CORE}}}unit"):
            order = [child.tag for child in unit]
            known = [f"{{{META}}}metadata", f"{{{CORE}}}notes", f"{{{CORE}}}segment"]
            faults += ["order in a unit"] if order != sorted(order, key=known.index) or known[2] not in order else []
            faults += ["translate"] if unit.get("translate", "yes") not in ("yes", "no") else []
            for group in unit.iter(f"{{{META}}}metaGroup"):
                faults += ["meta"] if any(not one.get("type") for one in group) or not len(group) else []
            for segment in unit.iter(f"{{{CORE}}}segment"):
                faults += ["state"] if segment.get("state") not in [state.value for state in LineState] else []
                parts = [child.tag.rpartition("}")[2] for child in segment]
                faults += ["segment"] if parts not in (["source"], ["source", "target"]) else []
            faults += ["style"] if not _styled(unit) else []
            notes = [note.get("id") for note in unit.iter(f"{{{CORE}}}note")]
            faults += ["note ids"] if len(set(notes)) != len(notes) else []
    return faults


def _styled(unit: etree._Element) -> bool:
    """Whether a unit is previewed as 5.6.4 states: an element of HTML, and attributes of it in pairs."""
    element, sub = unit.get(f"{{{STYLE}}}fs"), unit.get(f"{{{STYLE}}}subFs")
    pairs = re.split(r"\\\\", re.sub(r"\\,", "", sub or "a,b"))
    return (
        element in (None, "p", "div", "span")
        and (sub is None or element is not None)
        and "".join(pairs).count(",") == 1
    )


def test_what_is_written_holds_what_the_specification_states(project: Project) -> None:
    data = written_exchange(project, TAG, ".xlf")
    assert faults_of(data) == []
    spoilt = data.replace(b' state="reviewed"', b' state="done"').replace(b"xliff:codepoints", b"x")
    assert faults_of(spoilt) == ["state"]
    assert faults_of(data.replace(b'id="s2"', b'id="s1"')) == ["unit ids"]
    assert "style" in faults_of(data.replace(b'subFs="title,', b'subFs="title'))
    root = etree.fromstring(data)
    first = root.find(f".//{{{CORE}}}unit")
    assert first is not None
    assert first.get(f"{{{SIZE}}}sizeRestriction", "").startswith("0,")
    facts = {one.get("type"): one.text for one in first.iter(f"{{{META}}}meta")}
    assert (facts["start"], facts["speaker"], facts["target-sent"]) == (
        "1.000",
        "Ada",
        mark_of("Fisch & <Pommes>, „bitte“."),
    )
    note = first.find(f".//{{{CORE}}}note")
    assert note is not None
    assert note.get(f"{{{OWN}}}author") == "Ida"
    assert [unit.get("translate") for unit in root.iter(f"{{{CORE}}}unit")] == [None, None, "no"]


BY_HAND = b"""<?xml version="1.0"?>
<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.0" srcLang="en" trgLang="de">
 <file id="f1" original="Tide"><group id="g1"><unit id="s1"><notes><note id="n1">Ask <!-- who? -->Juna.</note></notes>
  <originalData><data id="d1">&lt;b&gt;</data></originalData>
  <segment id="a" state="final"><source>Hand me <pc id="1">the</pc> lantern.</source>
   <target>Gib mir <pc id="1">die</pc> <mrk id="m1">Laterne</mrk><ph id="2" dataRef="d1"/>.</target></segment>
  <ignorable><source> </source></ignorable>
  <segment id="b" state="translated"><source>Now<cp hex="0007"/>.</source><target>Jetzt.</target></segment>
 </unit></group>
  <unit id="other"><segment><source>Wait.</source></segment></unit></file></xliff>"""


def test_a_file_after_the_specifications_own_examples_is_read() -> None:
    back = read_xliff(BY_HAND, "tide.xlf")
    first, second = back.rows
    assert (back.title, first.segment_id) == ("Tide", "s1")
    assert (first.source, first.target) == ("Hand me the lantern. Now\x07.", "Gib mir die Laterne. Jetzt.")
    assert first.state is LineState.TRANSLATED, "that of the segment that is least far"
    assert [note.text for note in first.notes or ()] == ["Ask Juna."]
    assert (second.segment_id, second.target, second.state) == ("other", "", LineState.INITIAL)


@pytest.mark.parametrize(("name", "data", "words"), [
    ("x.xlf", b"<xliff", "not well-formed"),
    ("x.xlf", b"<tmx/>", "begins with <tmx>, XLIFF with <xliff>"),
    ("x.xlf", b'<xliff version="1.2"/>', "is XLIFF 1.2; 2.0, 2.1 and 2.2 are read"),
    ("x.csv", b"a,b\n1,2\n", "no table of lines"),
    ("x.csv", b"\xff\xfe\x00", "not in UTF-8"),
    ("x.docx", b"PK", "not a Word document"),
    ("x.pdf", b"", "is not read"),
])  # fmt: skip
def test_what_is_no_such_file_is_refused_in_a_sentence(tmp_path: Path, name: str, data: bytes, words: str) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(FormatError, match=words):
        read_exchange(tmp_path / name)


def test_a_file_of_another_language_is_not_taken(project: Project) -> None:
    with pytest.raises(FormatError, match="has fr-FR where de-DE is wanted"):
        proposed(project, TAG, Exchange("x", "en-GB", "fr-FR"))
    assert proposed(project, TAG, Exchange("x", "en-US", "de-AT")) == ([], [])
    with pytest.raises(FormatError, match="is not written"):
        written_exchange(project, TAG, ".pdf")


def spoilt(good: bytes, dice: random.Random) -> bytes:
    data = bytearray(good)
    for _ in range(dice.randint(1, 5)):
        place = dice.randrange(len(data))
        if dice.random() < 0.5:
            data[place] = dice.randrange(256)
        else:
            other = good[dice.randrange(len(good)) :][: dice.randint(0, 20)]
            data[place : place + dice.randint(0, 9)] = other
    return bytes(data)


def spoilt_word(good: bytes, dice: random.Random) -> bytes:
    """One whose archive is whole, and whose text is spoilt."""
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(good)) as old, zipfile.ZipFile(made, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            new.writestr(name, spoilt(data, dice) if name == "word/document.xml" else data)
    return made.getvalue()


@pytest.mark.parametrize("kind", KINDS)
def test_spoilt_files_are_read_or_refused_and_never_crash(project: Project, kind: str) -> None:
    dice, good = random.Random(kind), written_exchange(project, TAG, kind)
    refused, rounds = 0, 120 if kind == ".docx" else 800
    for _ in range(rounds):
        data = spoilt_word(good, dice) if kind == ".docx" else spoilt(good, dice)
        try:
            back = READERS[kind](data, f"spoilt{kind}")
            take_back(project, TAG, proposed(project, TAG, back)[0], "spoilt")
        except FormatError:
            refused += 1
    assert refused < rounds


def test_a_thousand_lines_are_written_and_read_in_a_moment(tmp_path: Path) -> None:
    many = project_with([(k * 2.0, k * 2.0 + 1, f"Line number {k}.") for k in range(600)])
    for kind in KINDS:
        assert changes_of(many, sent(many, kind, tmp_path)) == []
    assert len(WordDocument(io.BytesIO(written_exchange(many, TAG, ".docx"))).tables[0].rows) == 601


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("text", ["- Nein.", "=1+1", "@Juna!", "'- So.", "+49 ruft an.", "Vraiment\u202f?\u00a0Oui."])
def test_what_a_spreadsheet_would_count_and_spaces_that_do_not_break_come_back(
    kind: str, text: str, tmp_path: Path
) -> None:
    project = line_edits.set_line_text(project_with(ROWS), TAG, "s2", text)
    file = sent(project, kind, tmp_path)
    assert changes_of(project, file) == []
    (back,) = [row.target for row in read_exchange(file).rows if row.number == 2]
    assert back == text
    if kind == ".csv":
        cells = file.read_bytes().decode("utf-8-sig").split("\r\n")[2].split(",")
        assert cells[4][0] not in "=+-@"


def test_a_workbook_keeps_words_that_look_like_formulas_and_gives_comments_back(
    project: Project, tmp_path: Path
) -> None:
    project = line_edits.set_line_text(project, TAG, "s2", "=Zwei+Taue.")
    file = sent(project, ".xlsx", tmp_path)
    workbook = load_workbook(file)
    cell = workbook.active["E3"]
    assert (cell.value, cell.data_type) == ("=Zwei+Taue.", "s")
    workbook.active["D3"].comment = Comment("Which ropes?", "Tom")
    workbook.active["E4"].value = 36
    workbook.save(file)
    rows = {row.number: row for row in read_exchange(file).rows}
    assert (rows[2].target, rows[2].notes) == ("=Zwei+Taue.", (LineNote("Which ropes?", "Tom"),))
    assert rows[3].target == "36"
    (tmp_path / "x.xlsx").write_bytes(b"PK")
    with pytest.raises(FormatError, match="not a workbook"):
        read_exchange(tmp_path / "x.xlsx")


@pytest.mark.parametrize("kind", [".docx", ".xlsx"])
def test_tables_have_the_picture_at_each_line_and_come_back_all_the_same(
    kind: str, demo: Document, tmp_path: Path
) -> None:
    heard: list[float] = []
    data = written_exchange(demo.project, TAG, kind, with_pictures=True, report=heard.append)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        pictures = [name for name in archive.namelist() if "/media/" in name]
        assert all(archive.read(name)[:3] == b"\xff\xd8\xff" for name in pictures)
    assert 1 < len(pictures) <= len(demo.project.segments)
    assert heard == sorted(heard)
    (tmp_path / f"a{kind}").write_bytes(data)
    changes, said = proposed(demo.project, TAG, read_exchange(tmp_path / f"a{kind}"))
    assert not changes
    assert not said
    with pytest.raises(FormatError, match="Pictures go into"):
        written_exchange(demo.project, TAG, ".csv", with_pictures=True)
