"""Every fault, in each of the four ways, through a whole version: a sentence at the line, the rest done, nothing asked
again that was answered.
"""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path

import pytest

from demo_project import work_on
from engines.foreign import KEY, foreign
from helpers import project_with
from zweistimme.engines.mapped_description import service_map_from
from zweistimme.engines.new_connection import connect_described, connect_python
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import close_engines
from zweistimme.engines.request_queue import PATIENCE
from zweistimme.engines.secrets import variable_for
from zweistimme.project import cast_edits, edits
from zweistimme.project.errors import EngineError
from zweistimme.project.progress import Step
from zweistimme.sentences import sentence_of
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document

ROWS = [(1.0 + 4 * k, 3.0 + 4 * k, text) for k, text in enumerate(
    ("Good morning.", "Please wait a moment.", "Where are we going?", "No, not today.", "See you tomorrow.")
)]  # fmt: skip
TAG = "de-DE"


@pytest.fixture(autouse=True)
def _impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pauses before asking again are short here."""
    monkeypatch.setattr("zweistimme.engines.request_queue._pause_s", lambda _patience, _state: 0.01)
    assert PATIENCE.most > 0


def carried(folder: Path, name: str, voice: str) -> tuple[dict[str, str], set[str], set[str], str]:
    """Translate and voice a version with one engine: what is said at lines, which have words and takes, what the run
    said."""
    failed: dict[str, str] = {}
    ended = ""
    with Document.create(folder, project_with(ROWS)) as document:
        document.apply("Anew", lambda p: edits.add_version(edits.remove_version(p, TAG), TAG))
        document.apply(f"Use {name}", partial(edits.choose_engine, role=Role.TRANSLATE, name=name))
        document.apply("Cast", lambda p: cast_edits.cast_voice(p, TAG, "p1", voice))
        work = replace(work_on(document), fail=lambda _tag, one: failed.update({one.segment_id: sentence_of(one.why)}))
        for step in (Step.TRANSLATION, Step.TAKES):
            try:
                run_step(replace(work, project=document.project), step, TAG)
            except EngineError as error:
                ended = str(error)
        version = document.project.versions[TAG]
        worded = {key for key, line in version.lines.items() if line.text}
        taken = {take.segment_id for take in version.takes.values()}
    return failed, worded, taken, ended


SERVICE_FAULTS = ("limit", "busy", "server-error", "cut", "not-json", "drip", "endless", "gzip-bomb", "redirect",
                  "no-rights", "quota")  # fmt: skip
ENDING = {"redirect", "no-rights", "quota"}


@pytest.mark.parametrize("fault", SERVICE_FAULTS)
@pytest.mark.parametrize(("name", "voice"), [("quill", "quill/alva"), ("lark", "lark/edda")])
def test_faults_of_mapped_services(
    name: str, voice: str, fault: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    share = 0.2 if fault in ("drip", "endless", "gzip-bomb") else 0.35
    with foreign(name, tmp_path, faults=f"{fault}={share}", seconds=1.0) as count:
        monkeypatch.setenv(variable_for(service_map_from(tmp_path / f"{name}.toml").address), KEY)
        failed, worded, taken, ended = carried(tmp_path / "p", name, voice)
    close_engines()
    assert all(said.endswith(".") for said in failed.values())
    assert taken <= worded
    if fault in ENDING and ended:
        assert name in ended
    else:
        missing = {f"s{k}" for k in range(1, 6)} - taken
        assert missing <= set(failed), "what is missing says why"
    for text in set(count.said):
        assert count.said.count(text) <= 5


PROGRAM = """
import json, os, sys, time
sys.path.insert(0, "{examples}")
print(json.dumps({{"ready": True}}), flush=True)
for line in sys.stdin:
    asked = json.loads(line)
    if "stop" in asked:
        continue
    with open("{log}", "a") as log:
        log.write(asked["role"] + "\\n")
    if asked["role"] == "translate":
        items = [{{"id": i["id"], "wordings": [{{"text": i["text"].upper()}}]}} for i in asked["request"]["items"]]
        print(json.dumps({{"id": asked["id"], "answer": {{"items": items}}}}), flush=True)
        continue
    bad = "WAIT" in asked["request"]["ssml"]
    if bad and "{fault}" == "dies":
        sys.exit("out of memory")
    if bad and "{fault}" == "hangs":
        time.sleep(60)
    if bad and "{fault}" == "refuses":
        print(json.dumps({{"id": asked["id"], "error": "no such word"}}), flush=True)
        continue
    sound = "bm90aGluZyB0aGF0IGFueWJvZHkgY291bGQgaGVhcg==" if bad else "{sound}"
    answer = {{"sound": 7 if bad and "{fault}" == "wrong" else sound}}
    print(json.dumps({{"id": asked["id"], "answer": answer}}), flush=True)
"""


@pytest.mark.parametrize(
    ("fault", "sentence"),
    [
        ("dies", "odd ended in the middle: out of memory."),
        ("hangs", "odd was not done in 1 s and was stopped."),
        ("refuses", "odd could not do it: no such word."),
        ("wrong", "odd answered with a wrong field"),
        ("garbage", "odd answered with sound that is neither WAV nor FLAC."),
    ],
)
def test_faults_of_resident_programs(fault: str, sentence: str, tmp_path: Path) -> None:
    from helpers import speech
    from zweistimme.engines.registry import engine
    from zweistimme.engines.wire import speech_answer

    sound = speech_answer(engine().speak(speech("Ja.", TAG, "alva"))).sound
    log = tmp_path / "log"
    (tmp_path / "odd.py").write_text(PROGRAM.format(examples=tmp_path, log=log, fault=fault, sound=sound))
    (tmp_path / "odd.toml").write_text(
        'name = "odd"\n[resident]\ncommand = ["python3", "{folder}/odd.py"]\n[translate]\npairs = [["en", "de"]]\n'
        f"[speak]\nseconds = {1 if fault == 'hangs' else 60}\n[[speak.voices]]\n"
        'id = "v"\nname = "V"\nkind = "man"\nlanguages = ["de-DE"]\n'
    )
    connect_described("odd", tmp_path / "odd.toml")
    failed, worded, taken, ended = carried(tmp_path / "p", "odd", "odd/v")
    assert worded == {"s1", "s2", "s3", "s4", "s5"}
    assert taken == {"s1", "s3", "s4", "s5"}
    assert list(failed) == ["s2"]
    assert failed["s2"].startswith(sentence)
    assert "1 of 5 takes could not be made" in ended
    assert log.read_text().split().count("speak") <= 4 + 5


@pytest.mark.parametrize(
    ("act", "sentence"),
    [
        ("raise MemoryError('the model is too large')", "odd failed (MemoryError: the model is too large)."),
        ("return None", "odd answered with a NoneType where its speak should be."),
        ("return np.full(4800, np.nan, np.float32)", "odd answered with something that is no clip of one channel."),
        ("return np.zeros(4800, np.float32)", "odd answered with a silent clip."),
    ],
)
def test_faults_of_python_engines(act: str, sentence: str, tmp_path: Path) -> None:
    file = tmp_path / "odd.py"
    file.write_text(f"""
import numpy as np
from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.engines.protocol import Translation, Wording, Wordings
class Odd:
    def info(self):
        return EngineInfo("odd", "1", pairs=(("en", "de"),), voices=(VoiceInfo("v", "V", "man", ("de-DE",)),))
    def translate(self, request):
        return Translation(tuple(Wordings(i.id, (Wording(i.text.upper()),)) for i in request.items))
    def speak(self, request):
        if "WAIT" in request.ssml:
            {act}
        return (0.3 * np.sin(np.arange(48_000) / 30)).astype(np.float32)
""")
    connect_python("odd", f"{file}:Odd")
    failed, worded, taken, ended = carried(tmp_path / "p", "odd", "odd/v")
    assert len(worded) == 5
    assert taken == {"s1", "s3", "s4", "s5"}
    assert failed == {"s2": sentence}
    assert "1 of 5 takes could not be made" in ended
    with suppress(EngineError):
        close_engines()
