"""The four ways in: mapped services of three foreign shapes, resident programs, Python engines, speech that streams."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from engines.foreign import EXAMPLES, KEY, foreign
from helpers import project_with, speech, with_pitches
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.new_connection import connect_described, connect_python
from zweistimme.engines.offers import Role
from zweistimme.engines.program import ProgramEngine
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource, TranslationItem, TranslationRequest
from zweistimme.engines.registry import close_engines, engine
from zweistimme.engines.secrets import variable_for
from zweistimme.project import cast_edits, edits
from zweistimme.project.errors import EngineError, FormatError
from zweistimme.project.progress import Step, progress
from zweistimme.project.times import RATE
from zweistimme.stages.pipeline import run_step
from zweistimme.standin.voice import speak, voice_by_id
from zweistimme.store.document import Document

ROWS = [(1.0 + 4 * k, 3.0 + 4 * k, text) for k, text in enumerate(
    ("Good morning.", "Please wait a moment.", "Where are we going?", "No, not today.", "See you tomorrow.",
     "Come with me.", "Let us begin.", "Yes, of course.")
)]  # fmt: skip
WAYS = ("quill", "lark", "heavy", "tidepool")
VOICES = {"quill": "quill/alva", "lark": "lark/edda", "heavy": "heavy/hum", "tidepool": "tidepool/bubble"}


@pytest.fixture
def way(request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """One of the ways, connected under its name."""
    name = request.param
    if name in ("quill", "lark"):
        with foreign(name, tmp_path):
            from zweistimme.engines.mapped_description import service_map_from

            monkeypatch.setenv(variable_for(service_map_from(tmp_path / f"{name}.toml").address), KEY)
            yield name
    elif name == "heavy":
        connect_described("heavy", EXAMPLES / "resident-engine" / "heavy.toml")
        yield name
    else:
        connect_python("tidepool", str(EXAMPLES / "python-engine" / "tidepool.py") + ":engine")
        yield name
    close_engines()


def carried_through(folder: Path, name: str) -> Document:
    """A small project whose German version is translated and voiced by one engine."""
    document = Document.create(folder, project_with(ROWS))
    document.apply("Measured", lambda p: with_pitches(p, {"p1": 200.0}))
    document.apply("Anew", lambda p: edits.add_version(edits.remove_version(p, "de-DE"), "de-DE"))
    document.apply(f"Use {name}", partial(edits.choose_engine, role=Role.TRANSLATE, name=name))
    run_step(work_on(document), Step.TRANSLATION, "de-DE")
    document.apply("Cast", lambda p: cast_edits.cast_voice(p, "de-DE", "p1", VOICES[name]))
    run_step(work_on(document), Step.TAKES, "de-DE")
    return document


@pytest.mark.parametrize("way", WAYS, indirect=True)
def test_a_version_is_translated_and_voiced(way: str, tmp_path: Path) -> None:
    with carried_through(tmp_path / "p", way) as document:
        version = document.project.versions["de-DE"]
        assert progress(document.project, version)[Step.TAKES].complete
        assert not version.failures
        said = version.lines["s1"].text
        assert said == {"heavy": "GOOD MORNING.", "tidepool": "morning. Good"}.get(way, "Guten Morgen.")


def test_an_adapter_is_short() -> None:
    for file in [*(EXAMPLES / "mapped-services").glob("*.toml"), EXAMPLES / "resident-engine" / "heavy.toml",
                 EXAMPLES / "resident-engine" / "heavy.py", EXAMPLES / "python-engine" / "tidepool.py"]:  # fmt: skip
        assert len(file.read_text().splitlines()) < 60, file


def test_a_mapped_service_lists_its_voices_in_pages(tmp_path: Path) -> None:
    with foreign("quill", tmp_path):
        voices = engine("quill").info().voices
        assert [voice.id for voice in voices] == [voice.id for voice in engine().info().voices]
        assert voices[0].kind == "woman"


def test_a_mapped_service_gives_sound_and_word_marks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from zweistimme.engines.mapped import MappedEngine

    with foreign("quill", tmp_path) as count:
        shown = MappedEngine("quill", tmp_path / "quill.toml", KEY)
        spoken = shown.speak(speech("Guten Morgen, zusammen.", "de-DE", "alva"))
        known = engine().speak(speech("Guten Morgen, zusammen.", "de-DE", "alva"))
        assert [word.text for word in spoken.words] == [word.text for word in known.words]
        assert np.allclose(spoken.samples, known.samples, atol=1e-4)
        assert spoken.cost.amount > 0
        assert count.said == ["Guten Morgen, zusammen."]
        silent = MappedEngine("quill", tmp_path / "quill.toml", "another key")
        with pytest.raises(EngineError, match=r"does not accept the token: the key fits no lock"):
            silent.speak(speech("Ja.", "de-DE", "alva"))
        shown.close()
        silent.close()


def test_a_mapped_recogniser_makes_a_job_and_is_looked_after(tmp_path: Path) -> None:
    voice = voice_by_id("alva")
    assert voice is not None
    said = speak("Good morning. Please wait a moment.", "en-GB", voice).samples
    sound = np.concatenate((np.zeros(RATE // 2, np.float32), 0.3 * said, np.zeros(RATE // 2, np.float32)))
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    with foreign("heron", tmp_path) as count:
        shares: list[float] = []
        question = RecognitionQuestion(("en-GB",), hints=("Varnholm", "Alder Quay"))
        heard = engine("heron").recognise(source, question, shares.append)
        assert count.looks >= 3
        assert count.keys == ["Varnholm,Alder Quay"]
    known = engine().recognise(source, RecognitionQuestion(("en-GB",)), lambda _share: None)
    words = [word for segment in heard.segments for word in segment.words]
    expected = [word for segment in known.segments for word in segment.words]
    assert [word.text for word in words] == [word.text for word in expected]
    assert all(abs(a.start_us - b.start_us) < 30_000 for a, b in zip(words, expected, strict=True))
    assert max(shares) > 0.5


def test_what_is_spoken_at_a_link_is_fetched(tmp_path: Path) -> None:
    with foreign("heron", tmp_path):
        spoken = engine("heron").speak(speech("Guten Morgen.", "de-DE", "dario"))
        assert len(spoken.samples) > RATE // 2


def test_speech_is_heard_before_its_last_byte_came(tmp_path: Path) -> None:
    came: list[float] = []
    heard: list[tuple[float, int]] = []
    text = "Guten Morgen, zusammen, und einen guten Abend."
    with foreign("lark", tmp_path, came=came):
        spoken = engine("lark").speak(
            speech(text, "de-DE", "edda"), lambda piece: heard.append((time.monotonic(), len(piece)))
        )
    assert len(came) > 3
    assert heard[0][0] < came[-1], "the first sound is there before the last piece was sent"
    assert sum(count for _, count in heard) == len(spoken.samples)


def test_the_protocol_streams_too(tmp_path: Path) -> None:
    from engines.servers import service

    pieces: list[np.ndarray] = []
    request = speech("Guten Morgen, zusammen.", "de-DE", "alva")
    with service() as quay:
        streamed = quay.speak(request, pieces.append)
        again = quay.speak(request, pieces.append)
    known = engine().speak(request)
    assert np.array_equal(streamed.samples, again.samples)
    assert streamed.words == known.words == again.words
    assert np.allclose(np.concatenate(pieces)[: len(known.samples)], known.samples, atol=1e-6)
    assert len(pieces) > 5


def heavy(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, loads_s: float = 0.1) -> ProgramEngine:
    monkeypatch.setenv("HEAVY_LOADS_S", str(loads_s))
    return ProgramEngine("heavy", EXAMPLES / "resident-engine" / "heavy.toml")


def process_of(resident: ProgramEngine) -> int:
    """The process in which it lives."""
    assert resident._resident is not None
    assert resident._resident._live is not None
    return resident._resident._live._program.process.pid


def test_a_resident_program_is_loaded_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    loaded = heavy(tmp_path, monkeypatch, 1.0)
    began = time.monotonic()
    for number in range(20):
        assert len(loaded.speak(speech(f"Guten Morgen {number}.", "de-DE", "hum")).samples)
    assert time.monotonic() - began < 8, "not twenty seconds"
    first = process_of(loaded)
    loaded.speak(speech("Ja.", "de-DE", "hum"))
    assert process_of(loaded) == first
    loaded.close()
    time.sleep(0.1)
    assert not Path(f"/proc/{first}").exists()


def test_a_resident_program_that_dies_is_started_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Killed in the middle of a run: the run goes on, no line is missing, none is asked twice that was answered."""
    connect(Connection("heavy", Kind.PROGRAM, str(EXAMPLES / "resident-engine" / "heavy.toml")))
    monkeypatch.setenv("HEAVY_LOADS_S", "0.1")
    with Document.create(tmp_path / "p", project_with(ROWS)) as document:
        document.apply("Cast", lambda p: cast_edits.cast_voice(p, "de-DE", "p1", "heavy/hum"))
        run_step(work_on(document), Step.TRANSLATION, "de-DE")
        resident = engine("heavy")
        assert isinstance(resident, ProgramEngine)
        work, killed = work_on(document), []

        def deliver(label: str, edit: object) -> None:
            document.apply(label, edit)  # type: ignore[arg-type]
            if len(document.project.versions["de-DE"].takes) == 3 and not killed:
                killed.append(process_of(resident))
                os.killpg(killed[0], signal.SIGKILL)

        from dataclasses import replace

        run_step(replace(work, deliver=deliver), Step.TAKES, "de-DE")
        assert killed
        assert progress(document.project, document.project.versions["de-DE"])[Step.TAKES].complete


@pytest.mark.parametrize(
    ("body", "sentence"),
    [
        (
            "import sys; sys.exit('the model is missing')",
            r"ended with code 1 before it was ready: the model is missing",
        ),
        ("import time; time.sleep(60)", "was not ready after 1 s"),
        ("print('{\"ready\": true}', flush=True); import time; time.sleep(60)", "was not done in 1 s"),
        ("print('{\"ready\": true}', flush=True); input()", "ended in the middle"),
        (
            "import json; print('loading …'); print('{\"ready\": true}', flush=True); n = json.loads(input())['id'];"
            "print(json.dumps({'id': n, 'error': 'no breath left'}), flush=True); input()",
            "could not do it: no breath left",
        ),
        (
            "import json; print('{\"ready\": true}', flush=True); n = json.loads(input())['id'];"
            "print(json.dumps({'id': n, 'answer': {'sound': 7}}), flush=True); input()",
            "answered with a wrong field",
        ),
    ],
)
def test_resident_programs_that_misbehave(tmp_path: Path, body: str, sentence: str) -> None:
    file = tmp_path / "odd.toml"
    (tmp_path / "odd.py").write_text(body)
    start_s, seconds = (1 if "not ready" in sentence else 30), (1 if "not done" in sentence else 30)
    file.write_text(
        f'name = "odd"\n[resident]\ncommand = ["python3", "{{folder}}/odd.py"]\nstart_seconds = {start_s}\n'
        f"[speak]\nseconds = {seconds}\n"
        '[[speak.voices]]\nid = "v"\nname = "V"\nkind = "man"\nlanguages = ["de-DE"]\n'
    )
    odd = ProgramEngine("odd", file)
    with pytest.raises(EngineError, match=sentence):
        odd.speak(speech("Ja.", "de-DE", "v"))
    odd.close()


def test_python_engines_are_looked_at(tmp_path: Path) -> None:
    file = tmp_path / "odd.py"
    file.write_text(
        "from zweistimme.engines.offers import EngineInfo, VoiceInfo\n"
        "class Odd:\n"
        "    def info(self):\n"
        "        voices = (VoiceInfo('v', 'V', 'man', ('de-DE',)),)\n"
        "        return EngineInfo('odd', '1', voices=voices, pairs=(('en', 'de'),))\n"
        "    def speak(self, request):\n        return 7\n"
        "    def translate(self, request):\n        raise KeyError('the shelf')\n"
        "def made():\n    return Odd()\n"
        "nothing = 3\n"
    )
    connect_python("odd", f"{file}:made")
    odd = engine("odd")
    with pytest.raises(EngineError, match="answered with a int where its speak should be"):
        odd.speak(speech("Ja.", "de-DE", "v"))
    with pytest.raises(EngineError, match=r"odd failed .KeyError: 'the shelf'"):
        odd.translate(TranslationRequest("en", "de", (TranslationItem("a", "Yes."),)))
    with pytest.raises(EngineError, match="cannot recognise"):
        odd.recognise(SoundSource(lambda _a, n: np.zeros(n, np.float32), 10), RecognitionQuestion(("en",)), print)
    for place, sentence in (
        ("nowhere_at_all:made", "cannot be loaded"),
        (f"{file}:nothing", "has no nothing"),
        ("made", "names no factory"),
    ):
        with pytest.raises(EngineError, match=sentence):
            connect_python("x", place)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ('name = "x"\naddress = "quay.example"', "no address of a service"),
        ('name = "x"\naddress = "https://quay.example"', "can do nothing"),
        ('name = "x"\naddress = "https://q.example"\n[translate]\ntexts = "a["\ncall = { path = "/" }', "no JMESPath"),
        ('name = "x"\naddress = "https://q.example"\n[translate]\ncall = { path = "/{what}" }', r"\{what\}, which"),
        ('name = "x"\naddress = "https://q.example"\n[translate]\njob = "id"\ncall = { path = "/" }', "needs both"),
        ('name = "x"\naddress = "https://q.example"\n[translate]\n', "Field required @ translate.call"),
    ],
)
def test_maps_are_checked_with_their_place(tmp_path: Path, text: str, sentence: str) -> None:
    file = tmp_path / "x.toml"
    file.write_text(text)
    with pytest.raises((FormatError, EngineError), match=sentence):
        connect_described("x", file)


def test_an_installed_package_offers_its_engine(monkeypatch: pytest.MonkeyPatch) -> None:
    """By its entry point, without being connected; it is nobody's to remove, and its name is taken."""
    from importlib.metadata import EntryPoint

    from zweistimme.engines import connections

    place = str(EXAMPLES / "python-engine" / "tidepool.py") + ":engine"
    points = [EntryPoint("tidepool", place, connections.GROUP), EntryPoint("bundled", "x:y", connections.GROUP)]
    monkeypatch.setattr(connections, "entry_points", lambda group: points)
    connections.installed.cache_clear()
    try:
        assert [one.name for one in connections.connections()] == ["bundled", "tidepool"]
        assert engine("tidepool").info().voices[0].name == "Bubble"
        with pytest.raises(EngineError, match="offers an engine called tidepool"):
            connect_python("tidepool", place)
        with pytest.raises(EngineError, match="no connection called tidepool to remove"):
            connections.disconnect("tidepool")
    finally:
        connections.installed.cache_clear()
