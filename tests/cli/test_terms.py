"""Names, terms and the brief on the command line."""

from __future__ import annotations

import json
from pathlib import Path

from cli.test_cli import refused, run
from helpers import project_with
from zweistimme.project import edits
from zweistimme.store.document import Document

ROWS = [(1.0, 2.0, "The light of Varnholm."), (3.0, 4.0, "Is the light of Varnholm out?"), (5.0, 6.0, "It is.")]


def a_project(folder: Path) -> Path:
    with Document.create(folder, edits.add_version(project_with(ROWS), "es-ES")):
        pass
    return folder


def test_terms_are_found_said_checked_and_exchanged(tmp_path: Path) -> None:
    project = a_project(tmp_path / "p")
    assert "There are none yet" in run("terms", "list", project).stdout
    found = json.loads(run("terms", "propose", project, "--add", "--json").stdout)
    assert ("Varnholm", 2, "properNoun") in [(one["text"], one["count"], one["part"]) for one in found]
    assert "Varnholm  stays as it is" in run("terms", "list", project).stdout
    said = run(
        "terms", "set", project, "light", "--in", "es-ES=faro", "--in", "es-ES=farola", "--not", "es-ES=luz",
        "--note", "on the quay", "--part", "noun", "--said", "es-ES=/ˈfaɾo/",
    ).stdout  # fmt: skip
    assert "faro | farola" in said
    assert "not: luz" in said
    run("line", project, "1", "--to", "es-ES", "--text", "La luz de Varnholm.")
    kinds = {row["kind"] for row in json.loads(run("check", project, "--json").stdout)}
    assert {"term-missing", "word-instead"} <= kinds
    run("check", project, "--mend")
    assert "La faro de Varnholm." in run("lines", project, "--to", "es-ES").stdout
    for name in ("t.tbx", "t.csv"):
        assert "terms." in run("terms", "export", project, tmp_path / name).stdout
        other = a_project(tmp_path / f"of-{name}")
        run("terms", "import", other, tmp_path / name)
        lists = [json.loads(run("terms", "list", one, "--json").stdout) for one in (project, other)]
        assert sorted(map(str, lists[0])) == sorted(map(str, lists[1]))
        assert "0 of them new, 0 added to" in run("terms", "import", other, tmp_path / name).stdout
    run("terms", "remove", project, "LIGHT")
    assert "faro" not in run("terms", "list", project).stdout


def test_wrong_terms_are_said(tmp_path: Path) -> None:
    project = a_project(tmp_path / "p")
    assert "TAG=WORD" in refused("terms", "set", project, "light", "--in", "faro")
    assert "not a language tag" in refused("terms", "set", project, "light", "--in", "e=faro")
    assert "no term “rope”" in refused("terms", "remove", project, "rope")
    (tmp_path / "t.docx").write_bytes(b"x")
    assert "no file of terms" in refused("terms", "import", project, tmp_path / "t.docx")
    assert "no file of terms" in refused("terms", "export", project, tmp_path / "t.ods")


def test_the_brief_is_said_and_shown(tmp_path: Path) -> None:
    project = a_project(tmp_path / "p")
    assert "Nothing has been said" in run("brief", project).stdout
    said = run(
        "brief", project, "--subject", "A clock", "--audience", "children", "--notes", "The sea is a she."
    ).stdout
    assert "about: A clock" in said
    assert json.loads(run("brief", project, "--json").stdout)["audience"] == "children"
    assert "no address" in refused("brief", project, "--address", "Ada")
    assert "no speaker “Nobody”" in refused("brief", project, "--address", "Nobody>Ada=formal")
