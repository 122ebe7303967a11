"""Nothing needs the window: lines, takes, engines, money and packages on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from cli.test_cli import refused, run
from helpers import project_with
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.ledger import Ledger
from zweistimme.engines.offers import Limits, Price
from zweistimme.project import edits
from zweistimme.server import Serving, Terms, running
from zweistimme.store.document import Document

ROWS = [(1.0, 2.0, "Good morning."), (3.0, 4.0, "Please wait a moment.")]


@pytest.fixture
def project(tmp_path: Path) -> Path:
    with Document.create(tmp_path / "p", edits.add_version(project_with(ROWS), "es-ES")):
        return tmp_path / "p"


def test_lines_are_listed_written_directed_and_given_takes(project: Path) -> None:
    assert "no wording yet" in run("lines", project, "--to", "es-ES").stdout
    run("translate", project, "--to", "es-ES")
    run("cast", project, "--to", "es-ES", "--voice", "Ada=alva")
    run("voice", project, "--to", "es-ES")
    run("line", project, "2", "--to", "es-ES", "--text", "Un momento, por favor.", "--direction", "softly")
    run("voice", project, "--to", "es-ES")
    run("fit", project, "--to", "es-ES")
    (first, second) = json.loads(run("lines", project, "--to", "es-ES", "--json").stdout)["es-ES"]
    assert (first["state"], second["text"], second["direction"]) == ("voiced", "Un momento, por favor.", "softly")
    assert [take["chosen"] for take in second["takes"]] == [False, True]
    assert "says something older" in run("line", project, "2", "--to", "es-ES", "--take", "take 1").stdout
    run("line", project, "1", "--to", "es-ES", "--pin", "1.4", "--pin-length", "0.9")
    with Document.open(project) as document:
        version = document.project.versions["es-ES"]
        assert version.placements["s1"].start_us == 1_400_000
        assert version.lines["s2"].state.settled
    run("line", project, "1", "--to", "es-ES", "--unpin")
    assert "no take “take 9”. Its takes: “take 1”" in refused(
        "line", project, "2", "--to", "es-ES", "--take", "take 9", code=2
    )
    assert "lines go from 1 to 2" in refused("line", project, "7", "--to", "es-ES", "--text", "x", code=2)
    assert "Say what is to change" in refused("line", project, "1", "--to", "es-ES", code=2)
    assert "not a language tag" in refused("lines", project, "--to", "not a tag", code=2)


def test_engines_are_chosen_for_a_version_and_asked_anew(project: Path) -> None:
    terms = Terms(price=Price(0.001, 0.0, "EUR"), limits=Limits(at_once=2))
    with running(Serving(terms=terms)) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        run("use", project, "translate=quay", "--to", "es-ES")
        chosen = json.loads(run("use", project, "--json").stdout)
        assert chosen["es-ES"]["translate"] == "quay"
        assert chosen[""]["translate"] == chosen["es-ES"]["speak"] == "bundled"
        assert "no role of an engine" in refused("use", project, "sing=quay", code=2)
        run("translate", project, "--to", "es-ES")
        (entry,) = Ledger().entries(engine="quay")
        assert (entry.asked, entry.answered) == (1, 1)
        assert "go together" in refused("translate", project, "--to", "es-ES", "--anew", code=2)
        run("translate", project, "--to", "es-ES", "--anew", "--line", "1")
        (entry,) = Ledger().entries(engine="quay")
        assert entry.asked == 2
        run("engines", "budget", "quay", str(entry.cost.amount + 0.005), "--per", "ever")
        stopped = refused("translate", project, "--to", "es-ES", "--anew", "--line", "2", code=4)
        assert "budget of quay is reached" in stopped
        rows = json.loads(run("ledger", project, "--json").stdout)
        assert [(row["engine"], row["asked"]) for row in rows] == [("quay", 2)]
        assert "quay" in run("ledger").stdout
        assert "spent." in run("engines", "budget", "quay").stdout
        assert json.loads(run("engines", "budget", "quay", "--none", "--json").stdout)["budget"] is None
        run("translate", project, "--to", "es-ES", "--anew", "--line", "2")
    with Document.open(project) as document:
        assert len(document.project.versions["es-ES"].lines) == 2


def test_keep_going_does_what_can_be_done_and_says_that_a_part_was_not(project: Path) -> None:
    run("versions", project, "--add", "gl-ES")
    said = refused("translate", project, "--to", "gl-ES", "--to", "es-ES", "--keep-going", code=4)
    assert "could not be done: 1, the rest is" in said
    with Document.open(project) as document:
        assert len(document.project.versions["es-ES"].lines) == 2
    refused("translate", project, "--to", "gl-ES", "--to", "es-ES", code=1)


def test_a_failed_line_stays_failed_until_it_is_made(project: Path) -> None:
    from zweistimme.server import Faults

    run("translate", project, "--to", "es-ES")
    with running(Serving(faults=Faults({"no-voice": 1.0}))) as address:
        connect(Connection("quay", Kind.SERVICE, address))
        run("cast", project, "--to", "es-ES", "--voice", "Ada=quay/alva")
        refused("voice", project, "--to", "es-ES", code=1)
    rows = json.loads(run("lines", project, "--to", "es-ES", "--json").stdout)["es-ES"]
    assert all("voice is not there" in row["failed"] for row in rows)
    run("cast", project, "--to", "es-ES", "--voice", "Ada=alva")
    rows = json.loads(run("lines", project, "--to", "es-ES", "--json").stdout)["es-ES"]
    assert not any(row["failed"] for row in rows)  # another voice is another question


def test_a_project_is_packed_unpacked_and_cleaned(project: Path, tmp_path: Path) -> None:
    assert "p.zweistimme:" in run("pack", project).stdout
    assert "must end in .zweistimme" in refused("pack", project, tmp_path / "p.zip", code=2)
    assert "is ready" in run("unpack", tmp_path / "p.zweistimme", tmp_path / "q").stdout
    assert "no packed project" in refused("unpack", project / "project.sqlite", tmp_path / "r")
    assert json.loads(run("clean", tmp_path / "q", "--json").stdout)["clips"] == {"files": 0, "bytes": 0}
    assert "removed" in run("clean", tmp_path / "q", "--cache").stdout


def test_what_can_be_read_can_be_read_as_json(project: Path) -> None:
    for command in (
        ("status", project), ("versions", project), ("estimate", project), ("lines", project), ("use", project),
        ("ledger",),
        ("engines",), ("engines", "test"), ("voices", project), ("clean", project),
    ):  # fmt: skip
        json.loads(run(*command, "--json").stdout)
