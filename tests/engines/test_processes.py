"""Programs end with the desk however it ends, see only what they need, and fill neither memory nor disk."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from helpers import speech
from zweistimme.engines.processes import environment_for, output_of
from zweistimme.engines.program import ProgramEngine
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource, Term, TranslationItem, TranslationRequest
from zweistimme.engines.wav import SoundAsItComes, with_its_length
from zweistimme.engines.wire import lines_of
from zweistimme.project.errors import BadAnswer, EngineError, FormatError
from zweistimme.project.times import RATE


@pytest.mark.parametrize("ending", [signal.SIGKILL, signal.SIGTERM, signal.SIGHUP])
def test_a_program_ends_with_the_desk_however_it_ends(tmp_path: Path, ending: signal.Signals) -> None:
    """Also what the program itself has started."""
    pids = tmp_path / "pids"
    desk = subprocess.Popen(
        [sys.executable, "-c", f"""
import signal
from pathlib import Path
from zweistimme.engines.processes import output_of
signal.signal(signal.SIGHUP, signal.SIG_DFL)  # which whoever runs the tests may have had ignored
output_of(["sh", "-c", "sleep 60 & echo $$ $! > {pids}.new; mv {pids}.new {pids}; sleep 60"], b"", who="X", seconds=60,
          folder=Path("{tmp_path}"))
"""]
    )  # fmt: skip
    end = time.monotonic() + 20
    while not pids.exists() and time.monotonic() < end:
        time.sleep(0.02)
    there = [int(pid) for pid in pids.read_text().split()]
    desk.send_signal(ending)
    desk.wait()
    end = time.monotonic() + 5
    while any(map(_runs, there)) and time.monotonic() < end:
        time.sleep(0.02)
    assert not any(map(_runs, there))


def _runs(pid: int) -> bool:
    try:
        return "State:\tZ" not in Path(f"/proc/{pid}/status").read_text()
    except FileNotFoundError:
        return False


def test_a_program_sees_no_token(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("ZWEISTIMME_TOKEN_QUAY_EXAMPLE_443", "saltmarsh")
    monkeypatch.setenv("OTHER_SERVICE_KEY", "saltmarsh")
    monkeypatch.setenv("MODEL_FOLDER", "/models")
    seen = output_of(["env"], b"", who="X", seconds=9, folder=tmp_path, environment=["MODEL_FOLDER"]).decode()
    assert "saltmarsh" not in seen
    assert "MODEL_FOLDER=/models" in seen
    assert f"PATH={os.environ['PATH']}" in seen
    assert "ZWEISTIMME_TOKEN_QUAY_EXAMPLE_443" not in environment_for(["ZWEISTIMME_TOKEN_QUAY_EXAMPLE_443"])


def test_what_a_program_says_and_writes_is_bounded(tmp_path: Path) -> None:
    chatty = ["sh", "-c", "head -c 50000000 /dev/zero >&2; echo; echo well"]
    assert output_of(chatty, b"", who="X", seconds=20, folder=tmp_path).strip() == b"well"
    out = tmp_path / "out"
    with pytest.raises(BadAnswer, match="wrote more than 1 MiB"):
        output_of(["sh", "-c", f"yes > {out}"], b"", who="X", seconds=20, folder=tmp_path, out=out, largest=1 << 20)
    assert out.stat().st_size < 1 << 30


def test_what_cannot_be_started_is_said(tmp_path: Path) -> None:
    plain = tmp_path / "plain.txt"
    plain.write_text("no program")
    with pytest.raises(EngineError, match=r"plain.txt cannot be started \(Permission denied\)"):
        output_of([str(plain)], b"", who="X", seconds=5, folder=tmp_path)
    assert output_of(["sh", "-c", "exec <&-; sleep 0.1; echo done"], bytes(1 << 20), who="X", seconds=9,
                     folder=tmp_path) == b"done\n"  # fmt: skip


def wav(samples: np.ndarray, rate: int, *, length: int | None = None) -> bytes:
    """A WAV file, whose head says another length if wanted."""
    file = io.BytesIO()
    soundfile.write(file, samples, rate, subtype="PCM_16", format="WAV")
    data = bytearray(file.getvalue())
    if length is not None:
        data[40:44] = length.to_bytes(4, "little")
    return bytes(data)


TONE = (0.3 * np.sin(np.arange(16_000) / 9)).astype(np.float32)


@pytest.mark.parametrize("length", [0, 0xFFFFFFFF, 40_000])
def test_a_wav_file_whose_head_does_not_know_its_length_is_read_whole(length: int) -> None:
    read, rate = soundfile.read(io.BytesIO(with_its_length(wav(TONE, 16_000, length=length))))
    assert (len(read), rate) == (16_000, 16_000)
    assert with_its_length(b"RIFF") == b"RIFF"


@pytest.mark.parametrize(
    ("subtype", "rate"), [("PCM_16", 16_000), ("PCM_24", RATE), ("PCM_32", 24_000), ("FLOAT", RATE)]
)
def test_sound_is_heard_as_it_comes(subtype: str, rate: int) -> None:
    file = io.BytesIO()
    soundfile.write(file, TONE, rate, subtype=subtype, format="WAV")
    heard: list[np.ndarray] = []
    ear = SoundAsItComes(heard.append)
    data = file.getvalue()
    for start in range(0, len(data), 777):
        ear.came(data[start : start + 777])
    together = np.concatenate(heard)
    assert abs(len(together) - len(TONE) * RATE // rate) < RATE // 50
    if rate == RATE:
        assert np.allclose(together, TONE, atol=1e-4)
    deaf: list[np.ndarray] = []
    SoundAsItComes(deaf.append).came(b"<html>" * 100)
    assert not deaf


TOML = """
name = "odd"
[speak]
command = ["python3", "{folder}/odd.py", "speak", "{model}", "{text}", "{marks}"]
reads = "nothing"
writes = "pcm"
[[speak.voices]]
id = "v"
name = "V"
kind = "man"
languages = ["en-GB"]
sample_rate = 16000
values = { model = "harbour.bin" }
[translate]
command = ["python3", "{folder}/odd.py", "translate", "{terms}"]
reads = "json"
writes = "json"
pairs = [["en", "de"]]
[recognise]
command = ["python3", "{folder}/odd.py", "recognise", "{sound}", "{hints}"]
languages = ["en-GB"]
sound = "wav"
rate = 16000
[draft]
command = ["python3", "{folder}/odd.py", "draft"]
languages = ["en"]
"""
PROGRAM = """
import json, sys, wave
role, *given = sys.argv[1:]
if role == "speak":
    model, text, marks = given
    assert model == "harbour.bin"
    open(marks, "w").write(f"clip 1 0.10 0.20 {text.split()[0]} 1.0")
    sys.stdout.buffer.write(bytes(range(250)) * 200)
elif role == "translate":
    asked = json.load(sys.stdin)
    terms = open(given[0]).read()
    items = [{"id": i["id"], "wordings": [{"text": f"{i['text']} {terms.strip()} {i['longest_us']}"}]}
             for i in asked["items"]]
    print(json.dumps({"items": items}))
elif role == "recognise":
    with wave.open(given[0]) as sound:
        assert (sound.getframerate(), sound.getsampwidth()) == (16000, 2)
    words = [{"text": w, "start_us": k, "end_us": k + 1} for k, w in enumerate(open(given[1]).read().split())]
    print(json.dumps({"language": "en-GB", "probability": None,
                      "segments": [{"start_us": 0, "end_us": 9, "speaker": "A", "words": words}]}))
else:
    print(json.dumps({"turns": [{"person": "A", "text": json.load(sys.stdin)["subject"]}]}))
"""


def test_a_program_is_given_what_the_protocol_has(tmp_path: Path) -> None:
    """Text in the command, a voice's own values, samples without a head, word marks, terms, lengths, hints, JSON."""
    (tmp_path / "odd.py").write_text(PROGRAM)
    (tmp_path / "odd.toml").write_text(TOML)
    odd = ProgramEngine("odd", tmp_path / "odd.toml")
    spoken = odd.speak(speech("Good morning & welcome.", "en-GB", "v"))
    assert [word.text for word in spoken.words] == ["Good"]
    assert len(spoken.samples) == pytest.approx(25_000 * 3, abs=10)
    items = (TranslationItem("a", "One.", longest_us=1_500_000),)
    answer = odd.translate(TranslationRequest("en", "de", items, (Term("Quay", "Kai"),)))
    assert answer.items[0].texts == ("One. Quay\tKai 1500000",)
    silence = SoundSource(lambda _start, count: np.zeros(count, np.float32), 48_000)
    heard = odd.recognise(silence, RecognitionQuestion(("en-GB",), ("Varnholm", "Alder Quay")), lambda _share: None)
    assert [word.text for word in heard.segments[0].words] == ["Varnholm", "Alder", "Quay"]
    from zweistimme.engines.extra_questions import asked_extra
    from zweistimme.engines.extra_roles import Draft, DraftRequest

    draft = asked_extra(odd, DraftRequest("en-GB", 10.0, "The tide."), Draft)
    assert draft.turns[0].text == "The tide."
    (tmp_path / "odd.toml").write_text(TOML.replace("{model}", "{engine}"))
    with pytest.raises(FormatError, match=r"\{engine\}, which stands for nothing"):
        ProgramEngine("odd", tmp_path / "odd.toml")


def test_what_a_program_speaks_is_heard_as_it_comes(tmp_path: Path) -> None:
    (tmp_path / "slow.py").write_text(
        "import struct, sys, time\n"
        "out = sys.stdout.buffer\n"
        "out.write(struct.pack('<4sI4s4sIHHIIHH4sI', b'RIFF', 0, b'WAVE', b'fmt ', 16, 1, 1, 48000, 96000, 2, 16,"
        " b'data', 0))\n"
        "for k in range(5):\n    out.write(struct.pack('<4800h', *[9000] * 4800)); out.flush(); time.sleep(0.1)\n"
    )
    (tmp_path / "slow.toml").write_text(
        'name = "slow"\n[speak]\ncommand = ["python3", "{folder}/slow.py"]\nstreams = true\n[[speak.voices]]\n'
        'id = "v"\nname = "V"\nkind = "man"\nlanguages = ["de-DE"]\n'
    )
    slow = ProgramEngine("slow", tmp_path / "slow.toml")
    assert slow.info().streams
    heard: list[float] = []
    spoken = slow.speak(speech("Ja.", "de-DE", "v"), lambda _piece: heard.append(time.monotonic()))
    assert len(spoken.samples) == 24_000
    assert heard[-1] - heard[0] > 0.1


RESIDENT = """
import json, sys
print("loading the model …", flush=True)
print(json.dumps({"ready": True}), flush=True)
for line in sys.stdin:
    asked = json.loads(line)
    if "stop" in asked:
        continue
    if asked["role"] == "recognise":
        print(json.dumps({"id": asked["id"], "progress": 0.5}), flush=True)
        size = len(open(asked["sound"], "rb").read())
        words = [{"text": str(size), "start_us": 0, "end_us": 9}]
        answer = {"language": "en-GB", "probability": None, "segments": [
            {"start_us": 0, "end_us": 9, "speaker": "A", "words": words}]}
    else:
        answer = {"items": [{"id": i["id"], "tone": "calm", "strength": 0.5} for i in asked["request"]["items"]]}
    print(json.dumps({"id": 99, "answer": {}}), flush=True)  # which nobody has asked
    print(json.dumps({"id": asked["id"], "answer": answer}), flush=True)
"""


def test_a_resident_program_recognises_and_does_the_other_things(tmp_path: Path) -> None:
    (tmp_path / "ear.py").write_text(RESIDENT)
    (tmp_path / "ear.toml").write_text(
        'name = "ear"\n[resident]\ncommand = ["python3", "{folder}/ear.py"]\nidle_seconds = 0.3\n'
        '[recognise]\nlanguages = ["en-GB"]\nsound = "pcm"\nrate = 16000\n[sense]\nlanguages = ["en"]\n'
    )
    ear = ProgramEngine("ear", tmp_path / "ear.toml")
    shares: list[float] = []
    silence = SoundSource(lambda _start, count: np.zeros(count, np.float32), 96_000)
    heard = ear.recognise(silence, RecognitionQuestion(("en-GB",)), shares.append)
    assert heard.segments[0].words[0].text == "64000", "two seconds of 16-bit samples at 16 kHz"
    from zweistimme.engines.extra_questions import asked_extra
    from zweistimme.engines.extra_roles import ToneItem, ToneRequest, Tones

    tones = asked_extra(ear, ToneRequest("en-GB", (ToneItem("a", "Easy."),)), Tones)
    assert tones.items[0].tone == "calm"
    assert ear._resident is not None
    end = time.monotonic() + 5
    while ear._resident._live is not None and time.monotonic() < end:
        time.sleep(0.02)
    assert ear._resident._live is None, "it rests after a while"
    assert asked_extra(ear, ToneRequest("en-GB", (ToneItem("a", "Easy."),)), Tones).items
    ear.close()


def test_a_resident_program_that_closes_its_output_is_over(tmp_path: Path) -> None:
    """Though it goes on running: nobody waits for it, and it is ended."""
    (tmp_path / "mute.py").write_text(
        "import os, time\nprint('{\"ready\": true}', flush=True)\nos.close(1)\ntime.sleep(60)\n"
    )
    (tmp_path / "mute.toml").write_text(
        'name = "mute"\n[resident]\ncommand = ["python3", "{folder}/mute.py"]\n[speak]\n[[speak.voices]]\nid = "v"\n'
        'name = "V"\nkind = "man"\nlanguages = ["de-DE"]\n'
    )
    mute = ProgramEngine("mute", tmp_path / "mute.toml")
    began = time.monotonic()
    with pytest.raises(EngineError, match="mute ended"):
        mute.speak(speech("Ja.", "de-DE", "v"))
    assert time.monotonic() - began < 20
    mute.close()


def test_lines_that_come_in_pieces_are_put_together() -> None:
    assert list(lines_of([b"a", b"b\nc", b"\n\nd"])) == [b"ab", b"c", b"", b"d"]
