"""The translation memory on the command line."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

from cli.test_cli import refused, run
from helpers import project_with
from zweistimme.project import edits
from zweistimme.store.document import Document

ROWS = [(1.0, 2.0, "Good morning."), (3.0, 4.0, "Hand me the lantern.")]
TMX = """<tmx version="1.4"><header srclang="en" creationtool="x" creationtoolversion="1" segtype="sentence" o-tmf="x"
 adminlang="en" datatype="plaintext"/><body><tu><tuv xml:lang="en"><seg>Hand me the rope.</seg></tuv><tuv xml:lang="es">
 <seg>Dame la cuerda.</seg></tuv></tu><tu><tuv xml:lang="en"><seg>Alone.</seg></tuv></tu></body></tmx>"""


def test_what_a_project_settles_is_found_given_away_and_brought_back(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")):
        pass
    assert "Nothing yet" in run("memory", "status").stdout
    run(
        "line",
        tmp_path / "p",
        "2",
        "--to",
        "es-ES",
        "--text",
        "Dame el farol.",
        "--state",
        "final",
        "--note",
        "Agreed.",
    )
    listed = run("lines", tmp_path / "p", "--to", "es-ES").stdout
    assert "final" in listed
    assert "Agreed." in listed
    assert "en-GB to es-ES: 1 unit" in run("memory", "status").stdout
    (tmp_path / "back.tmx").write_text(TMX, encoding="utf-8")
    brought = run("memory", "import", tmp_path / "back.tmx").stdout
    assert "1 unit, 1 of them new. 1 unit was left out" in brought
    (row, other) = json.loads(
        run("memory", "search", "Hand me the lamp.", "--like", "--from", "en-GB", "--to", "es-ES", "--json").stdout
    )
    assert {row["use"], other["use"]} == {"Dame el farol.", "Dame la cuerda."}
    assert "Dame el farol." in run("memory", "search", "FAROL").stdout
    number = json.loads(run("memory", "search", "cuerda", "--json").stdout)[0]["id"]
    assert "La soga." in run("memory", "edit", number, "--text", "La soga.").stdout
    run("memory", "mute", number, "--project", tmp_path / "p")
    assert "2 units" in run("memory", "export", tmp_path / "all.tmx").stdout
    assert "is gone" in run("memory", "delete", number).stdout
    assert "Nothing was settled that has" in run("memory", "search", "soga").stdout
    assert "1 unit, 1 of them new" in run("memory", "import", tmp_path / "back.tmx").stdout
    assert "0 lines taken in" in run("memory", "keep", tmp_path / "p").stdout


def test_lines_are_locked_and_unlocked(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")):
        pass
    line = ("line", tmp_path / "p", "1", "--to", "es-ES")
    assert "has no line" in refused(*line, "--lock")
    run(*line, "--text", "Buenos días.", "--lock")
    assert "locked, so its words stay" in refused(*line, "--text", "Hola.")
    assert "(locked)" in run("lines", tmp_path / "p", "--to", "es-ES").stdout
    assert "Hola." in run(*line, "--unlock", "--text", "Hola.").stdout


def test_wrong_input_is_answered_in_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "no.tmx").write_text("<html/>", encoding="utf-8")
    assert "TMX with <tmx>" in refused("memory", "import", tmp_path / "no.tmx")
    assert "has no unit 99" in refused("memory", "edit", "99", "--text", "x")
    assert "has no unit 99" in refused("memory", "delete", "99")
    assert "--like goes with --from and --to" in refused("memory", "search", "x", "--like", code=2)
    run("settings", "memory", "off")
    assert "switched off" in refused("memory", "keep", tmp_path, code=2)


def test_wordings_are_checked_mended_and_let_be(tmp_path: Path) -> None:
    project = tmp_path / "p"
    with Document.create(project, edits.add_version(project_with(ROWS), "es-ES")):
        pass
    check = ("check", project, "--to", "es-ES")
    run("line", project, "1", "--to", "es-ES", "--text", "Buenos días")
    run("line", project, "2", "--to", "es-ES", "--text", "Dame el el farol a las 7.")
    found = json.loads(run(*check, "--json").stdout)
    assert [(one["line"], one["kind"]) for one in found if "length" not in one["kind"]] == [
        (1, "end-missing"), (2, "number-added"), (2, "word-doubled"),
    ]  # fmt: skip
    assert "→ Buenos días." in run(*check, "--line", "1").stdout
    mended = run(*check, "--mend").stdout
    assert "2 things mended" in mended
    assert "number-added" in mended
    assert "number-added" not in run(*check, "--let-be", "number-added", "--line", "2").stdout
    assert "Nothing is noticed" in run(*check, "--let-be", "length-under").stdout
    assert "number-added" in run(*check, "--notice", "number-added", "--line", "2").stdout
    assert "There is no remark “x”" in refused(*check, "--let-be", "x", code=2)
    assert "was not let be" in refused(*check, "--notice", "number-added")


def test_a_version_is_sent_and_taken_back(tmp_path: Path) -> None:
    project, file = tmp_path / "p", tmp_path / "es.xlf"
    with Document.create(project, edits.add_version(project_with(ROWS), "es-ES")):
        pass
    to = ("--to", "es-ES")
    run("line", project, "1", *to, "--text", "Buenos días.")
    assert "is written" in run("export", project, file, *to).stdout
    file.write_text(file.read_text(encoding="utf-8").replace("Buenos días.", "¡Buenas!"), encoding="utf-8")
    assert "1 line would change" in run("import", project, file, *to, "--look").stdout
    run("line", project, "1", *to, "--text", "Hola.")
    left = run("import", project, file, *to).stdout
    assert "changed here, too" in left
    assert "0 lines taken" in left
    (row,) = json.loads(run("import", project, file, *to, "--all", "--json").stdout)
    assert (row["after"], row["taken"], row["clash"]) == ("¡Buenas!", True, True)
    assert "¡Buenas!" in run("lines", project, *to).stdout
    assert "“.pdf” is not written" in refused("export", project, tmp_path / "x.pdf", *to)
    assert "has es-ES where de-DE is wanted" in refused("import", project, file, "--to", "de-DE")


def test_what_fits_is_chosen(tmp_path: Path) -> None:
    project = tmp_path / "p"
    rows = [(1.0, 1.6, "My grandfather cast that wheel in 1884, with 36 teeth."), (3.0, 4.0, "Hand me the lantern.")]
    with Document.create(project, edits.add_version(project_with(rows), "es-ES")):
        pass
    run("translate", project, "--to", "es-ES")
    looked = run("choose", project, "--to", "es-ES", "--look").stdout
    assert "1 line worded otherwise" in looked
    found = json.loads(run("choose", project, "--to", "es-ES", "--json").stdout)["es-ES"]
    assert found["choices"][0]["after"] in run("lines", project, "--to", "es-ES").stdout
    assert "0 lines worded otherwise" in run("choose", project, "--to", "es-ES").stdout


def test_a_project_follows_its_original_or_holds(tmp_path: Path) -> None:
    project = tmp_path / "p"
    with Document.create(project, edits.add_version(project_with(ROWS), "es-ES")):
        pass
    run("translate", project, "--to", "es-ES", "--follow", "--only", "stale")
    assert "no wording yet" in run("lines", project, "--to", "es-ES").stdout
    with Document.open(project) as document:
        assert document.project.follow
    run("translate", project, "--to", "es-ES", "--hold", "--only", "missing")
    with Document.open(project) as document:
        assert not document.project.follow
        assert len(document.project.versions["es-ES"].lines) == 2


def test_a_version_is_said_back(tmp_path: Path) -> None:
    project = tmp_path / "p"
    with Document.create(project, edits.add_version(project_with(ROWS), "es-ES")):
        pass
    run("translate", project, "--to", "es-ES")
    said = json.loads(run("say-back", project, "--to", "es-ES", "--json").stdout)
    assert {one["number"] for one in said} == {1, 2}
    assert "Good morning." in run("say-back", project, "--to", "es-ES", "--line", "1").stdout


def test_mending_all_at_once_settles_nothing_and_leaves_what_is_final(tmp_path: Path) -> None:
    project = tmp_path / "p"
    rows = [*ROWS, (5.0, 6.0, "Good morning.")]
    with Document.create(project, edits.add_version(project_with(rows), "es-ES")):
        pass
    to = ("--to", "es-ES")
    run("line", project, "1", *to, "--text", "Buenos días", "--state", "initial")
    run("line", project, "2", *to, "--text", "Dame el farol", "--state", "final")
    run("check", project, *to, "--mend")
    first, second, _ = json.loads(run("lines", project, *to, "--json").stdout)["es-ES"]
    assert (first["text"], first["how_far"]) == ("Buenos días.", "initial")
    assert (second["text"], second["how_far"]) == ("Dame el farol", "final")
    run("line", project, "1", *to, "--state", "reviewed")
    third = json.loads(run("lines", project, *to, "--json").stdout)["es-ES"][2]
    assert (third["text"], third["how_far"]) == ("Buenos días.", "initial"), "what says the same says it so"
    (tmp_path / "es.srt").write_text(
        "1\n00:00:01,000 --> 00:00:02,000\nHola.\n\n2\n00:00:03,000 --> 00:00:04,000\nEl farol.\n", encoding="utf-8"
    )
    said = run("translate", project, "--translation", f"es-ES={tmp_path / 'es.srt'}")
    assert "1 line is final or locked and keeps its words" in said.stderr


def test_what_others_settled_is_taken_in_only_when_somebody_wants_it(tmp_path: Path) -> None:
    """A project that was received, as a folder or as a package, gives nothing to the memory by being opened or
    changed; it does once it is taken in, and not any more once it is left out."""
    with Document.create(tmp_path / "theirs", edits.add_version(project_with(ROWS), "es-ES")):
        pass
    shutil.copytree(tmp_path / "theirs", tmp_path / "here")
    run("pack", tmp_path / "theirs", tmp_path / "sent.zweistimme")
    run("unpack", tmp_path / "sent.zweistimme", tmp_path / "unpacked")
    for folder in (tmp_path / "here", tmp_path / "unpacked"):
        told = run("line", folder, "1", "--to", "es-ES", "--text", "Bueno.").stderr
        assert "was not made on this desk" in told
        assert "Nothing was settled" in run("memory", "search", "Bueno.").stdout
    assert "1 line taken in" in run("memory", "keep", tmp_path / "here").stdout
    assert "not made on this desk" not in run("line", tmp_path / "here", "2", "--to", "es-ES", "--text", "Malo.").stderr
    assert "Malo." in run("memory", "search", "Malo.").stdout
    run("memory", "leave", tmp_path / "here")
    assert not run("line", tmp_path / "here", "2", "--to", "es-ES", "--text", "Peor.").stderr
    assert "Nothing was settled" in run("memory", "search", "Peor.").stdout


def test_the_memory_does_not_grow_by_its_own_export(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")):
        pass
    run("line", tmp_path / "p", "1", "--to", "es-ES", "--text", "Bueno.")
    run("memory", "export", tmp_path / "all.tmx")
    assert "1 unit, 0 of them new" in run("memory", "import", tmp_path / "all.tmx").stdout
