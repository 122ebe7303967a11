"""Services of other shapes: whatever a map can say, tried against a stand-in that looks at what it was sent."""

from __future__ import annotations

import base64
import io
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi import FastAPI, HTTPException, Request, Response

from helpers import speech
from zweistimme.engines.body_templates import filled, filled_path
from zweistimme.engines.extra_questions import asked_extra
from zweistimme.engines.extra_roles import Bed, BedRequest, BedSection, Draft, DraftRequest
from zweistimme.engines.http_calls import Waits
from zweistimme.engines.json_paths import JsonPath, in_microseconds
from zweistimme.engines.mapped import MappedEngine
from zweistimme.engines.protocol import (
    About,
    RecognitionQuestion,
    Situation,
    SoundSource,
    TranslationItem,
    TranslationRequest,
)
from zweistimme.project.errors import BadAnswer, Cancelled, EngineBusy, EngineError, EngineRefused
from zweistimme.server import Serving, running_app

TONE = (0.3 * np.sin(np.arange(16_000) / 9)).astype(np.float32)
SOUND = SoundSource(lambda start, count: np.tile(TONE, 4)[start : start + count], 48_000)
QUESTION = RecognitionQuestion(("de-DE", "en-GB"), speakers=2)
VOICES = '[[speak.voices]]\nid = "v"\nname = "V"\nkind = "man"\nlanguages = ["de-DE"]\nsample_rate = 16000\n'
QUICK = Waits(answer=5.0, look=0.01, stuck=5.0)


@contextmanager
def mapped(app: FastAPI, folder: Path, parts: str) -> Iterator[MappedEngine]:
    """An engine for an app by a map."""
    with running_app(app, Serving()) as address:
        file = folder / "odd.toml"
        file.write_text(f'name = "odd"\naddress = "{address}/base"\n{parts}')
        made = MappedEngine("odd", file, waits=QUICK)
        try:
            yield made
        finally:
            made.close()


def recorder() -> tuple[FastAPI, list[dict[str, Any]], dict[str, Any]]:
    """An app that answers everything with what *answers* has for the path, and keeps what it was sent."""
    app, sent, answers = FastAPI(), list[dict[str, Any]](), dict[str, Any]()

    @app.api_route("/{path:path}", methods=["GET", "POST", "PUT", "DELETE"])
    async def any_(path: str, request: Request) -> Response:
        kind = request.headers.get("content-type", "")
        body: Any = await request.body()
        if kind.startswith("application/json"):
            body = await request.json()
        elif kind.startswith("multipart"):
            async with request.form() as form:
                body = {name: value if isinstance(value, str) else await value.read() for name, value in form.items()}
        sent.append({"path": path, "method": request.method, "query": dict(request.query_params), "body": body,
                     "headers": dict(request.headers)})  # fmt: skip
        answer = answers.get(path, answers.get(f"{request.method} {path}"))
        if isinstance(answer, list):
            answer = answer.pop(0) if len(answer) > 1 else answer[0]
        if isinstance(answer, int):
            raise HTTPException(answer)
        if isinstance(answer, bytes):
            return Response(answer)
        from fastapi.responses import JSONResponse

        return JSONResponse(answer)

    return app, sent, answers


def test_a_recogniser_takes_the_sound_inside_its_json(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/hear"] = {"tongue": "German", "parts": [
        {"from_ms": 100, "to_ms": 900, "by": None, "tokens": [{"t": "Guten", "a": "0.1s", "b": "0.5s"}]}]}  # fmt: skip
    parts = """codes = { "de-DE" = "German", en = "English" }
[recognise]
languages = ["de-DE", "en-GB"]
sound = "wav"
rate = 16000
language = "tongue"
segments = "parts[].{start_ms: from_ms, end_ms: to_ms, speaker: by, words: tokens[].{text: t, start_s: a, end_s: b}}"
[recognise.call]
method = "PUT"
path = "/hear"
query = { people = "{speakers}", among = "{languages}" }
headers = { "X-Lang" = "{language}" }
json = { audio = { data = "{sound_base64}", rate = 16000 } }
"""
    with mapped(app, tmp_path, parts) as odd:
        heard = odd.recognise(SOUND, QUESTION, lambda _share: None)
    assert heard.language == "de-DE"
    assert heard.segments[0].speaker == "A"
    assert [(w.text, w.start_us, w.end_us) for w in heard.segments[0].words] == [("Guten", 100_000, 500_000)]
    (asked,) = sent
    assert (asked["method"], asked["query"]) == ("PUT", {"people": "2", "among": "German,English"})
    assert asked["headers"]["x-lang"] == "German"
    samples, rate = soundfile.read(io.BytesIO(base64.b64decode(asked["body"]["audio"]["data"])))
    assert (rate, len(samples)) == (16_000, 16_000)


def test_a_sound_goes_up_as_the_body_or_as_a_part(tmp_path: Path) -> None:
    for call, field in (('body = "{sound}"', None), ('multipart = { clip = "{sound}", lang = "{language}" }', "clip")):
        app, sent, answers = recorder()
        answers["base/hear"] = {"words": []}
        parts = f'[recognise]\nlanguages = ["de-DE"]\nwords = "words"\ncall = {{ path = "/hear", {call} }}\n'
        with mapped(app, tmp_path, parts) as odd:
            assert odd.recognise(SOUND, QUESTION, lambda _share: None).segments == ()
            answers["base/hear"] = {"tokens": []}
            with pytest.raises(BadAnswer, match=r"answered without its words \(words\)"):
                odd.recognise(SOUND, QUESTION, lambda _share: None)
            answers["base/hear"] = {"words": []}
        body = sent[0]["body"] if field is None else sent[0]["body"][field]
        assert body[:4] == b"fLaC"
        if field:
            assert sent[0]["body"]["lang"] == "de-DE"


JOB = """[recognise]
languages = ["de-DE"]
words = "words"
job = "task"
call = { path = "/hear", body = "{sound}" }
[recognise.poll]
path = "/tasks/{job}"
state = "state"
done = ["ready"]
failed = ["broken"]
error = "why"
progress = "percent"
progress_of = 100
stop = "/tasks/{job}"
"""


def test_a_job_that_fails_says_why_and_one_that_is_left_is_stopped(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/hear"] = {"task": "a/b"}
    answers["base/tasks/a/b"] = [{"state": "at it", "percent": 20}, {"state": "broken", "why": "too much wind"}]
    with mapped(app, tmp_path, JOB) as odd:
        with pytest.raises(EngineError, match=r"odd could not recognise the sound: too much wind\."):
            odd.recognise(SOUND, QUESTION, lambda _share: None)
        answers["base/tasks/a/b"] = {"state": "at it"}
        begun = time.monotonic()

        def report(_share: float) -> None:
            if time.monotonic() - begun > 0.3:
                raise Cancelled

        with pytest.raises(Cancelled):
            odd.recognise(SOUND, QUESTION, report)
        assert sent[-1]["method"] == "DELETE"
        answers["base/hear"] = {"id": 7}
        with pytest.raises(BadAnswer, match=r"answered without its job \(task\)"):
            odd.recognise(SOUND, QUESTION, lambda _share: None)


def test_several_wordings_terms_and_what_is_known_of_a_text(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/tr"] = {"all": [["Guten Morgen.", "Morgen."], "Ja."]}
    parts = """[translate]
pairs = [["en", "de"]]
texts = "all"
[translate.call]
path = "/tr"
json = { q = "{items}", say = "{texts}", fix = "{terms}", near = "{context}", within = "{longest_s}", n = "{wordings}" }
"""
    items = (
        TranslationItem("a", "Good morning.", longest_us=1_500_000),
        TranslationItem("b", "Yes.", after="Then go."),
    )
    request = TranslationRequest("en-GB", "de-DE", items, wordings=2)
    with mapped(app, tmp_path, parts) as odd:
        answer = odd.translate(request)
        assert [item.texts for item in answer.items] == [("Guten Morgen.", "Morgen."), ("Ja.",)]
        assert sent[0]["body"] == {
            "q": [{"id": "a", "text": "Good morning."}, {"id": "b", "text": "Yes."}], "say": ["Good morning.", "Yes."],
            "fix": {}, "near": "Then go.", "within": 1.5, "n": 2,
        }  # fmt: skip
        answers["base/tr"] = {"all": ["Eins."]}
        with pytest.raises(BadAnswer, match="wrote 1 lines for 2 texts"):
            odd.translate(request)
        answers["base/tr"] = {"other": 7}
        with pytest.raises(BadAnswer, match="wrote 0 lines for 2 texts"):
            odd.translate(request)


def test_who_says_what_to_whom_is_told_where_the_map_has_a_place_for_it(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/tr"] = {"all": "Ja."}
    parts = """[translate]
pairs = [["en", "de"]]
texts = "all"
[translate.call]
path = "/tr"
json = { say = "{text}", about = "{about}", who = "{situation}" }
"""
    situation = Situation("Mira", "Tobin", "formal", "whispering", on_screen=False)
    items = (TranslationItem("a", "Yes.", situation=situation), TranslationItem("b", "No."))
    request = TranslationRequest("en-GB", "de-DE", items, about=About("A clock", "", "The sea is a she."))
    with mapped(app, tmp_path, parts) as odd:
        assert odd.info().situations
        odd.translate(request)
    told = [one["body"] for one in sent]
    assert told[0]["who"] == "Mira to Tobin, formal, whispering, off screen"
    assert told[0]["about"] == "A clock\nThe sea is a she."
    assert not told[1].get("who")


def test_samples_without_a_head_and_sound_in_a_link_elsewhere(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/say"] = (TONE * 32_767).astype("<i2").tobytes()
    call = 'call = { path = "/say", form = { t = "{text}", fast = "{rate}", how = "{direction}" } }\n'
    with mapped(app, tmp_path, f'[speak]\nsound_form = "pcm"\n{call}{VOICES}') as odd:
        spoken = odd.speak(speech("Guten Morgen & danke.", "de-DE", "v"))
    assert len(spoken.samples) == 48_000
    assert sent[0]["body"] == b"t=Guten+Morgen+%26+danke.&fast=1"
    file = io.BytesIO()
    soundfile.write(file, TONE, 16_000, format="WAV")
    answers["elsewhere.wav"] = file.getvalue()
    with running_app(app, Serving()) as other:
        answers["base/say"] = {"at": f"{other}/elsewhere.wav"}
        link = f'[speak]\nsound = "at"\nsound_as = "link"\n{call}{VOICES}'
        with mapped(app, tmp_path, f'headers = {{ "X-Own" = "yes" }}\n{link}') as odd:
            assert len(odd.speak(speech("Ja.", "de-DE", "v")).samples) == 48_000
            assert "x-own" not in sent[-1]["headers"], "what is for the service is shown to nobody else"
            answers["base/say"] = {"at": "http://198.51.100.7/a.wav"}
            with pytest.raises(BadAnswer, match="without encryption"):
                odd.speak(speech("Ja.", "de-DE", "v"))
            answers["base/say"] = {}
            with pytest.raises(BadAnswer, match=r"answered without its sound \(at\)"):
                odd.speak(speech("Ja.", "de-DE", "v"))


def test_its_own_statuses_mean_what_the_map_says(tmp_path: Path) -> None:
    app, _, answers = recorder()
    parts = f"""errors = {{ message = "detail", status = {{ 418 = "wait", 456 = "quota", 400 = "token" }} }}
[speak]
call = {{ path = "/say", body = "{{ssml}}" }}
{VOICES}"""
    with mapped(app, tmp_path, parts) as odd:
        for status, kind, sentence in (
            (418, EngineBusy, "asks to wait"),
            (456, EngineRefused, "The quota of odd is used up"),
            (400, EngineRefused, "does not accept the token: Bad Request. It is looked for"),
        ):
            answers["base/say"] = status
            with pytest.raises(kind, match=sentence):
                odd.speak(speech("Ja.", "de-DE", "v"))


def test_other_roles_are_mapped_by_putting_the_answer_together(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/write"] = {"story": [{"who": "Ada", "line": "The tide turns."}], "head": "Tides"}
    parts = """[draft]
languages = ["en"]
answer = "{turns: story[].{person: who, text: line}, title: head}"
call = { path = "/write", json = { about = "{subject}", cast = "{people}", length = "{seconds}" } }
"""
    with mapped(app, tmp_path, parts) as odd:
        draft = asked_extra(odd, DraftRequest("en-GB", 12.0, "tides", people=("Ada",)), Draft)
        assert (draft.turns[0].text, draft.title) == ("The tide turns.", "Tides")
        assert sent[0]["body"] == {"about": "tides", "cast": ["Ada"], "length": 12.0}
        with pytest.raises(EngineError, match=r"lets Ada speak, whom nobody had asked for"):
            asked_extra(odd, DraftRequest("en-GB", 12.0, "tides", people=("Ben",)), Draft)
        with pytest.raises(EngineError, match="odd cannot compose; it can draft"):
            asked_extra(odd, BedRequest((BedSection(1.0, "calm"),)), Bed)


def test_the_same_question_has_the_same_key_and_another_attempt_another(tmp_path: Path) -> None:
    from dataclasses import replace

    app, sent, answers = recorder()
    answers["base/say"] = (TONE * 32_767).astype("<i2").tobytes()
    call = 'call = { path = "/say", form = { t = "{text}" } }\n'
    with mapped(app, tmp_path, f'[speak]\nsound_form = "pcm"\n{call}{VOICES}') as odd:
        request = speech("Ja.", "de-DE", "v")
        for asked in (request, request, replace(request, attempt=1), speech("Nein.", "de-DE", "v")):
            odd.speak(asked)
    keys = [one["headers"]["idempotency-key"] for one in sent]
    assert keys[0] == keys[1]
    assert len(set(keys)) == 3


def test_it_is_asked_by_several_threads_at_once(tmp_path: Path) -> None:
    app, sent, answers = recorder()
    answers["base/say"] = (TONE * 32_767).astype("<i2").tobytes()
    call = 'call = { path = "/say", form = { t = "{text}" } }\n'
    with mapped(app, tmp_path, f'[speak]\nsound_form = "pcm"\n{call}{VOICES}') as odd:
        threads = [
            threading.Thread(target=lambda k=k: odd.speak(speech(f"Nummer {k}.", "de-DE", "v"))) for k in range(8)
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(10)
    assert len({one["body"] for one in sent}) == 8


def test_places_are_filled_by_kind() -> None:
    values = {"text": 'a "b"', "rate": 1.5, "list": ["x", "y"], "none": None}
    assert filled({"a": "{text}", "b": "{rate}", "c": "r={rate}", "d": "{none}", "e": [3, "{list}"]}, values) == {
        "a": 'a "b"', "b": 1.5, "c": "r=1.5", "e": [3, ["x", "y"]],
    }  # fmt: skip
    assert filled_path("/v/{text}/{list}", values) == "/v/a%20%22b%22/x%2Cy"
    assert in_microseconds({"start_s": "1e400", "end_ms": "soon", "x_us": 7}) == {"start_s": "1e400", "end_ms": "soon",
                                                                               "x_us": 7}  # fmt: skip
    assert JsonPath("to_number(a)").of({"a": []}) is None
    with pytest.raises(ValueError, match="Invalid jmespath"):
        JsonPath("a[")


def test_another_price_or_patience_makes_no_answer_another(tmp_path: Path) -> None:
    """Else what was answered would be paid for once more; another call is another service."""
    file = tmp_path / "odd.toml"
    known = set()
    for more in ("", "seconds = 5.0\n", "price = { a_character = 0.1 }\n", "limits = { at_once = 4 }\n"):
        call = 'call = { path = "/say", form = { t = "{text}" } }\n'
        file.write_text(f'name = "odd"\naddress = "https://quay.example"\n{more}[speak]\n{call}{VOICES}')
        known.add(MappedEngine("odd", file).identity)
    assert len(known) == 1
    file.write_text(file.read_text().replace("/say", "/sing"))
    assert MappedEngine("odd", file).identity not in known
