"""The application: the protocol around an engine. Its OpenAPI document is generated from the protocol's types."""

from __future__ import annotations

import hmac
from collections.abc import Callable
from dataclasses import asdict, replace
from typing import Annotated, Any, Final, TypeVar

from fastapi import Depends, FastAPI, Form, Header, Request, UploadFile
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response, StreamingResponse
from fastapi.security import HTTPAuthorizationCredentials, HTTPBearer
from starlette.exceptions import HTTPException

from zweistimme import __version__
from zweistimme.engines.offers import VERSION, EngineInfo, Usage
from zweistimme.engines.protocol import (
    DialogueRequest,
    Engine,
    Hear,
    RecognitionQuestion,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.wire import (
    PROBLEM_TYPE,
    STREAM_TYPE,
    DialogueAnswer,
    Problem,
    RecognitionJob,
    SpeechAnswer,
    parsed,
    path_of,
    speech_answer,
)
from zweistimme.project.errors import EngineError, ZweistimmeError
from zweistimme.project.times import RATE
from zweistimme.server.account import Account, Key, Terms, once
from zweistimme.server.extra_calls import add_extra_calls
from zweistimme.server.recognition_jobs import Listening
from zweistimme.server.spoken_lines import spoken_lines

T = TypeVar("T")
LARGEST_TEXT: Final = 8 << 20
LARGEST_SOUND: Final = 2 << 30
"""The largest request bodies, in bytes."""
_PROBLEMS: Final[dict[int | str, dict[str, Any]]] = {
    status: {"model": Problem, "description": about}
    for status, about in (
        (400, "The request cannot be met"),
        (401, "A token is needed"),
        (404, "Not there"),
        (413, "Too large"),
        (422, "The request does not follow the protocol"),
    )
}


def make_app(engine: Engine, *, token: str | None = None, terms: Terms | None = None) -> FastAPI:
    """An application that offers *engine*. Callers must show *token* if there is one."""
    terms = terms or Terms()
    app = FastAPI(
        title="Zweistimme engine protocol",
        version="1",
        summary="Recognise, translate and speak",
        description=f"Offered by Zweistimme {__version__}. Times are whole microseconds.",
        docs_url=None,
        redoc_url=None,
        dependencies=[Depends(_guard(token))],
        max_body_size=LARGEST_TEXT,
        responses=_PROBLEMS,
    )
    _explain_problems(app)
    account = Account(terms)
    _add_facts(app, engine, terms, account)
    _add_translation(app, engine, account)
    _add_speech(app, engine, account)
    _add_recognition(app, engine, account)
    add_extra_calls(app, engine, account)
    return app


_BEARER: Final = HTTPBearer(auto_error=False, description="Only where the server was given a token.")


def _guard(token: str | None) -> Callable[..., None]:
    def check(given: Annotated[HTTPAuthorizationCredentials | None, Depends(_BEARER)]) -> None:
        shown = given.credentials.encode() if given else b""
        if token is not None and not hmac.compare_digest(shown, token.encode()):
            raise HTTPException(401, "The token is missing or wrong.", {"WWW-Authenticate": "Bearer"})

    return check


def _add_facts(app: FastAPI, engine: Engine, terms: Terms, account: Account) -> None:
    @app.get("/v1/engine")
    def about() -> EngineInfo:
        """What the engine says of itself."""
        info = engine.info()
        voices = tuple(replace(voice, sample_rate=RATE) for voice in info.voices)  # as clips are sent from here
        return replace(
            info, voices=voices, limits=terms.limits or info.limits, price=terms.price,
            repeats_free=not terms.charges_again, protocol=VERSION, streams=True,
        )  # fmt: skip

    @app.get("/v1/usage")
    def usage() -> Usage:
        """What was used so far, and what is left."""
        return account.usage()


def _add_translation(app: FastAPI, engine: Engine, account: Account) -> None:
    @app.post("/v1/translations", response_model=Translation)
    def translate(request: TranslationRequest, key: Key = None) -> Response:
        """Translate texts; every item is answered once."""

        def answer() -> Translation:
            account.within(sum(len(i.text) + len(i.before) + len(i.after) for i in request.items), len(request.items))
            made = engine.translate(request)
            return replace(made, cost=account.charged(sum(len(item.text) for item in request.items)))

        return once(account, key, answer)


def _add_speech(app: FastAPI, engine: Engine, account: Account) -> None:
    @app.post("/v1/speech", response_model=SpeechAnswer)
    def speak(request: SpeechRequest, key: Key = None, accept: Annotated[str, Header()] = "") -> Response:
        """Speak one line; in pieces, as lines of JSON, for whoever accepts these."""

        def answer(hear: Hear | None = None) -> SpeechAnswer:
            account.within(len(request.ssml))
            made = engine.speak(request, hear)
            return speech_answer(replace(made, cost=account.charged(len(request.ssml))))

        if STREAM_TYPE in accept:
            account.within(len(request.ssml))
            engine.info().voice(request.voice)
            return StreamingResponse(spoken_lines(account, key, answer), media_type=STREAM_TYPE)
        return once(account, key, answer)

    @app.post("/v1/dialogues", response_model=DialogueAnswer)
    def converse(request: DialogueRequest, key: Key = None) -> Response:
        """Speak the lines of several speakers together: a clip for each, with its place."""

        def answer() -> DialogueAnswer:
            for turn in request.turns:
                account.within(len(turn.ssml))
            clips = engine.converse(request)
            turns = tuple(
                speech_answer(replace(clip, cost=account.charged(len(turn.ssml))))
                for clip, turn in zip(clips, request.turns, strict=True)
            )
            return DialogueAnswer(turns)

        return once(account, key, answer)


def _add_recognition(app: FastAPI, engine: Engine, account: Account) -> None:
    listening = Listening(engine)

    @app.post("/v1/recognitions", max_body_size=LARGEST_SOUND)
    def recognise(
        request: Request,
        sound: UploadFile,
        question: Annotated[str, Form(max_length=4_000_000, description="A RecognitionQuestion as JSON.")],
        key: Key = None,
    ) -> RecognitionJob:
        """Begin to recognise a sound (WAV or FLAC); ask for the job until it is done."""
        try:
            asked = parsed(RecognitionQuestion, question)
        except ValueError as error:
            raise HTTPException(422, f"The question has {error}.") from None
        stuck = request.scope.get("state", {}).get("fault") == "never-ends"
        return listening.begin(sound.file, asked, account.charged, key=key, stuck=stuck)

    @app.get("/v1/jobs/{job_id}")
    def job(job_id: str) -> RecognitionJob:
        """How far a recognition is."""
        return listening.job(job_id)

    @app.delete("/v1/jobs/{job_id}")
    def stop(job_id: str) -> RecognitionJob:
        """Stop a recognition."""
        return listening.stop(job_id)


def _explain_problems(app: FastAPI) -> None:
    """Everything that goes wrong is said as problem details (RFC 9457)."""

    def problem(status: int, detail: str, headers: dict[str, str] | None = None, kind: str = "about:blank") -> Response:
        titles = {400: "Cannot be met", 401: "Token needed", 402: "Quota used up", 404: "Not there",
                  405: "Not this way", 413: "Too large", 422: "Not as the protocol asks"}  # fmt: skip
        body = asdict(Problem(titles.get(status, "Error"), status, detail, kind))
        return JSONResponse(body, status, headers, media_type="application/problem+json")

    @app.exception_handler(HTTPException)
    async def plain(_request: Request, error: HTTPException) -> Response:
        kind = f"{PROBLEM_TYPE}quota" if error.status_code == 402 else "about:blank"
        return problem(error.status_code, str(error.detail), dict(error.headers or {}), kind)

    @app.exception_handler(RequestValidationError)
    async def invalid(_request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        place = tuple(part for part in first["loc"] if part != "body")
        return problem(422, f"{first['msg']} @ {path_of(place)}.")

    @app.exception_handler(ZweistimmeError)
    async def refused(_request: Request, error: ZweistimmeError) -> Response:
        missing = isinstance(error, EngineError) and ("no voice" in str(error) or "do not speak" in str(error))
        return problem(404 if missing else 400, str(error))
