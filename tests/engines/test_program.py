"""Engines that are programs: the shipped example, and programs that misbehave."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from helpers import project_with, speech
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.offers import Limits
from zweistimme.engines.processes import output_of
from zweistimme.engines.program import ProgramEngine
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource, TranslationItem, TranslationRequest
from zweistimme.engines.request_queue import ask_all
from zweistimme.project import edits
from zweistimme.project.errors import BadAnswer, Cancelled, EngineError, EngineFault, EngineTooSlow, FormatError
from zweistimme.project.progress import Step
from zweistimme.sentences import sentence_of
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document

EXAMPLE = Path(__file__).parents[2] / "docs" / "examples" / "little-engine" / "little.toml"
SILENCE = SoundSource(lambda _start, count: np.zeros(count, np.float32), 48_000)


def program(tmp_path: Path, body: str, *, seconds: float = 5.0, writes: str = "json") -> ProgramEngine:
    """A program of one shell line, in each role."""
    text = f"""
    name = "odd"
    [speak]
    command = ["sh", "-c", '''{body}''']
    seconds = {seconds}
    [[speak.voices]]
    id = "v"
    name = "V"
    kind = "man"
    languages = ["en-GB"]
    [translate]
    command = ["sh", "-c", '''{body}''']
    pairs = [["en", "de"]]
    [recognise]
    command = ["sh", "-c", '''{body}''']
    languages = ["en-GB"]
    writes = "{writes}"
    """
    file = tmp_path / "odd.toml"
    file.write_text(text)
    return ProgramEngine("odd", file)


def test_the_example_speaks_translates_and_recognises() -> None:
    little = ProgramEngine("little", EXAMPLE)
    spoken = little.speak(speech("Guten Morgen & danke.", "de-DE", "hum"))
    assert len(spoken.samples) == pytest.approx(6 * 2600 * 3, abs=50)
    items = (TranslationItem("a", "Good morning."), TranslationItem("b", "Two\nlines."))
    answer = little.translate(TranslationRequest("en-GB", "de-DE", items))
    assert [item.texts for item in answer.items] == [("GOOD MORNING. (de-DE)", "GOOD!"), ("TWO LINES. (de-DE)", "TWO!")]
    heard = little.recognise(SILENCE, RecognitionQuestion(("en-GB",)), lambda _share: None)
    assert [[w.text for w in segment.words] for segment in heard.segments] == [["Hello", "harbour"], ["again"]]


@pytest.mark.parametrize(
    ("body", "kind", "sentence"),
    [
        ("echo hello", BadAnswer, "neither WAV nor FLAC"),
        ("echo the shelf is empty >&2; exit 3", EngineFault, "ended with code 3: the shelf is empty"),
        ("sleep 60", EngineTooSlow, "was not done in 1 s"),
        ("true", BadAnswer, "neither WAV nor FLAC"),
    ],
)
def test_programs_that_misbehave(tmp_path: Path, body: str, kind: type[Exception], sentence: str) -> None:
    odd = program(tmp_path, body, seconds=1.0)
    began = time.monotonic()
    with pytest.raises(kind, match=sentence):
        odd.speak(speech("Hi.", "en-GB", "v"))
    assert time.monotonic() - began < 5


def test_answers_of_another_form(tmp_path: Path) -> None:
    question = RecognitionQuestion(("en-GB",))
    request = TranslationRequest("en", "de", (TranslationItem("a", "One."), TranslationItem("b", "Two.")))
    with pytest.raises(BadAnswer, match="wrote 1 lines for 2 texts"):
        program(tmp_path, "echo Eins").translate(request)
    with pytest.raises(BadAnswer, match="not JSON"):
        program(tmp_path, "echo nothing").recognise(SILENCE, question, lambda _share: None)
    with pytest.raises(BadAnswer, match=r"line 1: .* is not CTM"):
        program(tmp_path, "echo nothing", writes="ctm").recognise(SILENCE, question, lambda _share: None)
    cues = "printf '1\\n00:00:01,000 --> 00:00:02,000\\nADA: Good morning.\\n'"
    heard = program(tmp_path, cues, writes="srt").recognise(SILENCE, question, lambda _share: None)
    assert [(s.speaker, [w.text for w in s.words]) for s in heard.segments] == [("ADA", ["Good", "morning."])]


def test_a_text_that_comes_back_empty_is_a_line_that_failed(tmp_path: Path) -> None:
    program(tmp_path, "while read -r line; do echo; done")
    connect(Connection("odd", Kind.PROGRAM, str(tmp_path / "odd.toml")))
    failed: dict[str, str] = {}
    with Document.create(
        tmp_path / "p", edits.add_version(project_with([(1, 3, "Good morning.")]), "de-AT")
    ) as document:
        document.apply("Use odd", lambda p: edits.choose_engine(p, "translate", "odd"))
        with pytest.raises(EngineError, match="1 of 1 line could not be translated"):
            run_step(
                replace(
                    work_on(document), fail=lambda _tag, one: failed.update({one.segment_id: sentence_of(one.why)})
                ),
                Step.TRANSLATION,
                "de-AT",
            )
        assert failed == {"s1": "odd answered with an empty text."}
        assert not document.project.versions["de-AT"].lines


def test_no_shell_sees_what_is_spoken(tmp_path: Path) -> None:
    """A line that looks like a command is text on the input, nothing else."""
    marker = tmp_path / "marker"
    odd = program(tmp_path, "cat > /dev/null; exit 7")
    with pytest.raises(EngineFault, match="code 7"):
        odd.speak(speech(f"$(touch {marker}); `touch {marker}`", "en-GB", "v", direction=f"; touch {marker}"))
    assert not marker.exists()


def test_output_is_bounded_and_nothing_is_left_running(tmp_path: Path) -> None:
    with pytest.raises(BadAnswer, match="wrote more than 1 MiB"):
        output_of(["sh", "-c", "yes"], b"", who="Yes", seconds=20, folder=tmp_path, largest=1 << 20)
    marker = tmp_path / "late"
    with pytest.raises(EngineTooSlow, match="not done"):
        output_of(["sh", "-c", f"(sleep 1; touch {marker}) & sleep 9"], b"", who="X", seconds=0.3, folder=tmp_path)
    time.sleep(1.2)
    assert not marker.exists(), "its children are ended with it"


def test_programs_that_speak_are_stopped_with_the_run(tmp_path: Path) -> None:
    marker = tmp_path / "late"
    odd = program(tmp_path, f"sleep 1.5; touch {marker}", seconds=30)
    began = time.monotonic()

    def report(_share: float) -> None:
        if time.monotonic() - began > 0.4:
            raise Cancelled

    with pytest.raises(Cancelled):
        ask_all(
            range(4),
            lambda _number: odd.speak(speech("Hi.", "en-GB", "v")),
            limits=Limits(at_once=4),
            took=lambda _number, _clip: None,
            report=report,
        )
    time.sleep(2)
    assert not marker.exists(), "nothing goes on behind a stopped run"


def test_a_program_is_stopped_with_the_job(tmp_path: Path) -> None:
    def look(share: float) -> None:
        if share >= 0.1:
            raise Cancelled

    began = time.monotonic()
    with pytest.raises(Cancelled):
        program(tmp_path, "sleep 60").recognise(SILENCE, RecognitionQuestion(("en-GB",)), look)
    assert time.monotonic() - began < 5


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("name = ", "is not TOML"),
        ('name = "x"', "can do nothing"),
        ('[speak]\ncommand = ["a"]', "Field required @ name"),
        (
            'name = "x"\n[speak]\ncommand = ["a"]\n[[speak.voices]]\nid = "v"',
            r"Field required @ speak.voices\[0\].name",
        ),
        (
            'name = "x"\n[translate]\ncommand = ["a", "{who}"]\npairs = [["en", "de"]]',
            r"\{who\}, which stands for nothing",
        ),
        ('name = "x"\n[translate]\ncommand = []\npairs = [["en", "de"]]', "translate.command"),
    ],
)
def test_descriptions_are_checked_with_their_place(tmp_path: Path, text: str, sentence: str) -> None:
    file = tmp_path / "x.toml"
    file.write_text(text)
    with pytest.raises(FormatError, match=sentence):
        ProgramEngine("x", file)


def test_programs_that_are_not_there(tmp_path: Path) -> None:
    with pytest.raises(FormatError, match="There is no file"):
        ProgramEngine("x", tmp_path / "none.toml")
    with pytest.raises(EngineError, match="nowhere cannot be started"):
        output_of(["/nowhere"], b"", who="X", seconds=1, folder=tmp_path)
