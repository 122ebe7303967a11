"""What is said to people is gathered, translated whole, and said in the language that was asked for."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

import pytest
from babel.messages.catalog import Catalog, Message
from babel.messages.pofile import read_po

import messages as gathering
from helpers import project_with
from zweistimme.messages import fill, language, listed, tr, tr_act, use
from zweistimme.project.errors import EditError, EngineError, MissingVoices, StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_name
from zweistimme.project.model import Failure, Made
from zweistimme.sentences import sentence_of
from zweistimme.stages.pipeline import VERBS
from zweistimme.store.document import Document
from zweistimme.store.rows import decode, encode


@pytest.fixture(scope="module")
def gathered() -> Catalog:
    return gathering.template()


@pytest.fixture(scope="module", params=sorted(gathering.translations()))
def translated(request: pytest.FixtureRequest) -> Catalog:
    with gathering.translations()[request.param].open("rb") as file:
        return read_po(file, locale=request.param)


@pytest.fixture
def german() -> Iterator[None]:
    gathering.compile_all()
    use("de")
    yield
    use("en")


def said(message: Message) -> list[str]:
    """The translations of a message."""
    return list(message.string) if isinstance(message.string, tuple) else [message.string]


def places(text: str) -> Counter[str]:
    """The names of the places in a text."""
    return Counter(name for _, name, _, _ in Formatter().parse(text) if name is not None)


def test_every_message_has_its_translation_and_none_is_left_over(gathered: Catalog, translated: Catalog) -> None:
    there = {(message.id, message.context): message for message in translated if message.id}
    wanted = {(message.id, message.context) for message in gathered if message.id}
    assert not wanted - set(there), "gather them with: tools/messages.py update, then translate"
    assert not set(there) - wanted, "no longer said: tools/messages.py update"
    assert not [message.id for message in there.values() if not all(said(message)) or message.fuzzy]


def test_translations_have_the_places_of_their_messages(translated: Catalog) -> None:
    wrong = []
    for message in translated:
        ids = message.id if isinstance(message.id, tuple) else (message.id,)
        for text in said(message) if message.id else ():
            if not any(set(places(text)) == set(places(one)) for one in ids):
                wrong.append((message.id, text))
    assert not wrong


def test_counting_has_as_many_words_as_the_language_has_forms(translated: Catalog) -> None:
    wrong = [
        (message.id, spec)
        for message in translated
        for text in said(message)
        for _, _, spec, _ in Formatter().parse(text)
        if spec and "|" in spec and len(spec.split("|")) != translated.num_plurals
    ]
    assert not wrong


def test_edges_of_messages_are_kept(translated: Catalog) -> None:
    """What is put before or behind another text needs its space; a sentence ends as one."""
    wrong = []
    for message in translated:
        if isinstance(message.id, str) and message.id:
            for edge in (" ", "\n"):
                same = message.id.startswith(edge) == str(message.string).startswith(edge)
                if not same or message.id.endswith(edge) != str(message.string).endswith(edge):
                    wrong.append(message.id)
            if message.id.endswith(".") and str(message.string)[-1:] not in (".", "!", "?", "…"):
                wrong.append(message.id)
    assert not wrong


def test_a_message_that_the_code_has_put_together_is_refused() -> None:
    with pytest.raises(gathering.Unclear, match=r"odd\.py:1"):
        list(gathering.messages_in('tr(f"{count} lines")', "odd.py"))


def test_messages_are_known_by_what_they_are_given_to() -> None:
    code = """
def lines(project: Path = ProjectArgument) -> None:
    '''List them.'''
    raise EditError("There is no {name}.", name=name)
document.apply("Pin a take" if pin else "Unpin a take", edit)
run(document, f"Fit {tag}", stage)
print("not for people", tr("Found nowhere."))
"""
    found = {(one.text, one.context) for one in gathering.messages_in(code, "a.py", command_line=True)}
    assert found == {
        ("List them.", None),
        ("There is no {name}.", None),
        ("Pin a take", "act"),
        ("Unpin a take", "act"),
        ("Fit", "act"),
        ("Found nowhere.", None),
    }


@pytest.mark.usefixtures("german")
def test_figures_and_counts_are_written_as_the_language_does() -> None:
    assert tr("{n:line|lines}", n=1) == "1 Zeile"
    assert tr("{n:line|lines}", n=1200) == "1.200 Zeilen"
    assert tr("{seconds:.1f} s", seconds=3.25) == "3,2 s"
    assert listed(["Mira", "Tobin", "Juna"]) == "Mira, Tobin und Juna"
    assert fill("{n:Wort|Wörter}", {"n": 2.5}) == "2,5 Wörter"
    assert language_name("en-GB") == "Englisch (Vereinigtes Königreich)"


@pytest.mark.usefixtures("german")
def test_errors_and_findings_are_said_in_the_language_and_kept_as_data() -> None:
    error = EditError("This project already has a version {tag}.", tag="de-DE")
    assert str(error) == "Dieses Projekt hat schon eine Fassung de-DE."
    assert error.finding == Finding("This project already has a version {tag}.", {"tag": "de-DE"})
    assert sentence_of(error.finding) == str(error)
    assert str(MissingVoices([("de-DE", "Mira", 1)])).startswith("Ohne Stimme: Mira in de-DE (1 Zeile).")
    assert sentence_of(Finding("voices-stand-in", {"engine": "quay", "wanted": "de-AT", "related": "de-DE"})) == (
        "Keine Stimme von quay spricht Deutsch (Österreich); Stimmen für Deutsch (Deutschland) springen ein. Ablehnen "
        "lässt sich das auf der Seite Besetzung oder mit cast --no-substitutes."
    )
    use("en")
    assert str(error) == "This project already has a version de-DE."


@pytest.mark.usefixtures("german")
def test_a_reason_within_a_sentence_is_said_in_the_language_of_the_reader() -> None:
    use("en")
    full = StoreError("{folder} cannot be made: {why}. Choose another folder.", folder="a", why=OSError(28, "voll"))
    kept = decode("failure", "s1", encode(Failure("s1", Made.TAKE, full.finding, "x")))
    assert str(full) == "a cannot be made: No space left on device. Choose another folder."
    use("de")
    said = "a kann nicht angelegt werden: Kein Platz mehr auf dem Datenträger. Wählen Sie einen anderen Ordner."
    assert str(full) == str(kept.why) == sentence_of(kept.why) == said
    use("en")
    within = EngineError("{who} answered with {why}.", who="quay", why=full)
    assert within.finding.figures["why"] == full.finding
    assert str(StoreError("{why}", why=OSError(99_999, "Something rare"))) == "Something rare"


@pytest.mark.usefixtures("german")
def test_what_was_done_is_kept_in_one_language_and_shown_in_another() -> None:
    assert tr_act("Voice") == "Sprechen"
    assert tr("Voice") == "Stimme"
    assert tr_act("Fit de-DE") == "Einpassen de-DE"
    assert tr_act("Transcript from a file.srt") == "Transkript aus a file.srt"
    assert tr_act("Something of a newer desk") == "Something of a newer desk"
    assert all(tr_act(verb) != verb for verb in VERBS.values())


@pytest.mark.usefixtures("german")
@pytest.mark.parametrize(
    ("environment", "wanted"),
    [
        ({"LANGUAGE": "de"}, "de"),
        ({"LANGUAGE": "tlh:de_AT:en"}, "de"),
        ({"LC_ALL": "de_DE.UTF-8", "LANG": "en_GB.UTF-8"}, "de"),
        ({"LANG": "de_CH@euro"}, "de"),
        ({"LANG": "C"}, "en"),
        ({"LANG": "ja_JP.UTF-8"}, "en"),
        ({}, "en"),
    ],
)
def test_the_environment_says_which_language(
    environment: dict[str, str], wanted: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        monkeypatch.delenv(name, raising=False)
    for name, value in environment.items():
        monkeypatch.setenv(name, value)
    use()
    assert language() == wanted
    use("en")


def command(*arguments: str | Path, language: str = "de") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-c", "from zweistimme.cli.main import main; main()", *map(str, arguments)],
        capture_output=True, text=True, timeout=60, env={**os.environ, "LANGUAGE": language, "COLUMNS": "100"},
    )  # fmt: skip


@pytest.mark.usefixtures("german")
def test_the_command_line_speaks_the_language(tmp_path: Path) -> None:
    shown = command("--help").stdout
    assert shown.startswith("Verwendung: ")
    assert "Alle Takes in die Zeitachse einpassen." in shown
    assert "Diese Hilfe zeigen und enden." in shown
    wrong = command("fit", "--nix", tmp_path)
    assert wrong.returncode == 2
    assert "Es gibt keine Option --nix. Mehr sagt zweistimme fit --help." in wrong.stderr
    missing = command("status", tmp_path)
    assert missing.returncode == 1
    assert missing.stderr.startswith(f"zweistimme: In {tmp_path} ist kein Zweistimme-Projekt.")
    assert not [word for word in ("Usage", "Error", "Options", "Missing") if word in shown + wrong.stderr]


@pytest.mark.usefixtures("german")
def test_what_programs_read_is_the_same_in_every_language(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", project_with([(1, 3, "Good morning.")])):
        pass
    for arguments in (("status", tmp_path / "p", "--json"), ("engines", "--json"), ("lines", tmp_path / "p", "--json")):
        answers = [json.loads(command(*arguments, language=tag).stdout) for tag in ("en", "de")]
        assert answers[0] == answers[1]


def test_the_language_that_was_set_goes_before_that_of_the_environment() -> None:
    assert command("settings", "language", "de", language="en").returncode == 0
    assert "Noch nicht" not in command("--version", language="en").stdout
    assert command("--help", language="en").stdout.startswith("Verwendung: ")
    assert command("settings", "language", "", language="en").returncode == 0
    assert command("--help", language="en").stdout.startswith("Usage: ")
