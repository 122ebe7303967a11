"""Voices from samples, descriptions, drafts, beds and tones: the stand-ins, the service, the command line."""

from __future__ import annotations

import base64
import io
import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile

from cli.test_cli import run
from engines.servers import service
from helpers import speech
from zweistimme.engines.extra_questions import asked_extra
from zweistimme.engines.extra_roles import (
    CALLS,
    Asked,
    Bed,
    BedRequest,
    BedSection,
    Call,
    Consent,
    Description,
    DescriptionRequest,
    Draft,
    DraftRequest,
    ImitationRequest,
    MadeVoice,
    SeenPicture,
    ToneItem,
    ToneRequest,
    Tones,
    VoiceRemoval,
    VoiceSample,
)
from zweistimme.engines.protocol import Engine
from zweistimme.engines.registry import engine
from zweistimme.project.errors import EngineError
from zweistimme.project.times import RATE
from zweistimme.project.writing import words_in
from zweistimme.server import FAULTS
from zweistimme.standin.voice import VOICES, speak

SAID = {
    "en-GB": "The old clock stops twice every night, and nobody knows who winds it up again in the morning.",
    "de-DE": "Die alte Uhr bleibt jede Nacht zweimal stehen, und niemand weiß, wer sie am Morgen wieder aufzieht.",
}
CONSENT = Consent("Ada Brook", "Yes, make one.", "2026-11-27")


def flac(samples: np.ndarray) -> str:
    file = io.BytesIO()
    soundfile.write(file, samples, RATE, subtype="PCM_24", format="FLAC")
    return base64.b64encode(file.getvalue()).decode()


def png(colour: tuple[int, int, int]) -> str:
    """A picture of one colour."""
    import av

    frame = av.VideoFrame.from_ndarray(np.full((54, 96, 3), colour, dtype=np.uint8), format="rgb24")
    coder = av.CodecContext.create("png", "w")
    coder.width, coder.height, coder.pix_fmt = 96, 54, "rgb24"
    return base64.b64encode(b"".join(bytes(packet) for packet in [*coder.encode(frame), *coder.encode(None)])).decode()


QUESTIONS: dict[type[Asked], tuple[Asked, type]] = {
    DescriptionRequest: (DescriptionRequest("en-GB", (SeenPicture(0, png((10, 20, 200))),), 4.0, 12), Description),
    DraftRequest: (DraftRequest("de-DE", 20.0, "die Flut", people=("Ada", "Ben")), Draft),
    BedRequest: (BedRequest((BedSection(1.0, "calm"), BedSection(1.5, "sea", 0.9))), Bed),
    ToneRequest: (ToneRequest("en-GB", (ToneItem("a", "Hurry, look!"), ToneItem("b", "A chair."))), Tones),
}


@pytest.fixture(params=["here", "over HTTP"])
def asked(request: pytest.FixtureRequest) -> Iterator[Engine]:
    """The bundled engine, in this process and behind the protocol."""
    if request.param == "here":
        yield engine()
    else:
        with service() as quay:
            yield quay


@pytest.mark.parametrize("kind", list(QUESTIONS))
def test_every_question_has_its_answer(asked: Engine, kind: type[Asked]) -> None:
    question, answer_kind = QUESTIONS[kind]
    answer = asked_extra(asked, question, answer_kind)
    match answer:
        case Description():
            assert answer.texts[0].startswith("The light is dim.")
            assert "Blue prevails." in answer.texts[0]
            assert all(len(words_in(text)) <= 12 for text in answer.texts)
        case Draft():
            assert {turn.person for turn in answer.turns} == {"Ada", "Ben"}
            assert "die Flut" in answer.turns[0].text
        case Bed():
            sound, rate = soundfile.read(io.BytesIO(base64.b64decode(answer.sound)))
            assert (sound.shape, rate) == ((round(2.5 * RATE), 2), RATE)
            assert np.abs(sound).max() > 0.01
        case Tones():
            assert [item.tone for item in answer.items] == ["lively", ""]


@pytest.mark.parametrize("tag", list(SAID))
def test_a_voice_made_from_samples_is_alike_in_what_is_measured(tag: str) -> None:
    """A person of other pitch and size comes out as another voice."""
    made = {}
    for voice in (VOICES[1], VOICES[5]):
        sample = VoiceSample(flac(speak(SAID[tag], tag, voice).samples), SAID[tag])
        request = ImitationRequest(f"Like {voice.name}", (tag,), (sample,), CONSENT)
        made[voice.id] = asked_extra(engine(), request, MadeVoice).voice
        assert made[voice.id].pitch_hz == pytest.approx(voice.larynx.pitch_hz, rel=0.15)
    assert made["brandt"].kind == "man"
    assert made["fenn"].kind == "child"
    known = {voice.id for voice in engine().info(anew=True).voices}
    assert {voice.id for voice in made.values()} <= known
    spoken = engine().speak(speech("Ja." if tag == "de-DE" else "Yes.", tag, made["brandt"].id))
    assert len(spoken.samples) > RATE // 10


def imitation() -> ImitationRequest:
    """A voice that nobody gets."""
    sample = VoiceSample(flac(speak(SAID["en-GB"], "en-GB", VOICES[0]).samples))
    return ImitationRequest("Nobody", ("en-GB",), (sample,), CONSENT)


def test_no_voice_without_consent_or_of_too_little() -> None:
    with service() as quay, pytest.raises(EngineError, match=r"at least 1 character"):
        quay.ask(ImitationRequest("X", ("en-GB",), (VoiceSample(flac(np.zeros(9))),), Consent("", "", "2026-11-27")))
    short = VoiceSample(flac(0.3 * np.sin(np.arange(RATE) / 40)))
    with pytest.raises(EngineError, match=r"The samples last 1.0 s; a voice is made of 2 s to 600 s"):
        engine().ask(ImitationRequest("X", ("en-GB",), (short,), CONSENT))
    for data in ("c2FsdG1hcnNo", "no base64"):
        with pytest.raises(EngineError, match="Sample 1"):
            engine().ask(ImitationRequest("X", ("en-GB",), (VoiceSample(data),), CONSENT))


def test_cuts_and_movement_are_told_apart() -> None:
    def texts(*colours: tuple[int, int, int]) -> str:
        pictures = tuple(SeenPicture(k, png(colour)) for k, colour in enumerate(colours))
        return asked_extra(engine(), DescriptionRequest("en-GB", pictures, 5.0, 40), Description).texts[0]

    assert "Nothing moves." in texts((90, 90, 90), (90, 90, 90))
    assert "There is movement." in texts((90, 90, 90), (104, 104, 104))
    assert "changes 2 times" in texts((0, 0, 0), (200, 200, 200), (0, 0, 0))
    with pytest.raises(EngineError, match="neither PNG nor JPEG"):
        engine().ask(DescriptionRequest("en-GB", (SeenPicture(0, "c2FsdG1hcnNo"),), 5.0, 40))


@pytest.mark.parametrize(
    "fault", ["server-error", "not-json", "wrong-field", "missing-field", "cut", "quota", "redirect"]
)
@pytest.mark.parametrize("call", CALLS, ids=lambda call: call.name)
def test_every_fault_of_every_call_is_a_sentence(fault: str, call: Call) -> None:
    assert fault in FAULTS
    with service(fault) as quay:
        question = QUESTIONS[call.request][0] if call.request in QUESTIONS else NOT_REPEATED[call.request]()
        with pytest.raises(EngineError) as said:
            asked_extra(quay, question, call.answer)
        assert str(said.value).endswith(".")


NOT_REPEATED = {ImitationRequest: imitation, VoiceRemoval: lambda: VoiceRemoval("made-ada")}


def test_each_role_is_tried_on_the_command_line(tmp_path: Path) -> None:
    picture = tmp_path / "a.png"
    picture.write_bytes(base64.b64decode(png((200, 10, 10))))
    said = run("try", "speak", SAID["en-GB"], "--voice", "edda", "--out", str(tmp_path / "a.wav"), "--pitch", "1.2")
    assert said.returncode == 0, said.stderr
    made = run("try", "imitate", str(tmp_path / "a.wav"), "--name", "Ada", "--said", SAID["en-GB"],
               "--consent-of", "Ada Brook", "--consent", "Yes.")  # fmt: skip
    assert made.stdout.startswith("made-ada: Ada (woman"), made.stderr
    assert run("try", "describe", str(picture), "--language", "es-ES").stdout.startswith("La luz es tenue.")
    assert json.loads(run("try", "draft", "tides", "--person", "Ada", "--json").stdout)["turns"][0]["person"] == "Ada"
    assert run("try", "compose", "1:calm", "1:room:0.2", "--out", str(tmp_path / "b.flac")).returncode == 0
    assert soundfile.info(tmp_path / "b.flac").duration == 2.0
    assert run("try", "sense", "Goodbye…").stdout.split()[0] == "sad"
    assert (
        run("try", "translate", "Good morning.", "--from", "en-GB", "--to", "de-DE").stdout.strip() == "Guten Morgen."
    )
    heard = run("try", "recognise", str(tmp_path / "a.wav"), "--json")
    assert json.loads(heard.stdout)["language"] == "en-GB"


@pytest.mark.parametrize(
    ("arguments", "code", "sentence"),
    [
        (["compose", "5", "--out", "x"], 2, "“5” is no section"),
        (["compose", "5:jazz", "--out", "x"], 1, "composes nothing “jazz”"),
        (["describe", "/nowhere.png"], 2, "cannot be read"),
        (["sense", "ja", "--language", "ja-JP"], 1, "tells no tones in ja-JP"),
        (["draft"], 1, "nothing to write about"),
        (["speak", "x", "--voice", "nobody", "--out", "x"], 1, "has no voice nobody"),
        (["sense", "x", "--engine", "nowhere"], 1, "no engine called nowhere"),
    ],
)
def test_what_cannot_be_tried_is_said(arguments: list[str], code: int, sentence: str) -> None:
    said = run("try", *arguments)
    assert said.returncode == code
    assert sentence in said.stderr
