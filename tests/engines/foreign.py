"""Services of three foreign shapes on loopback, as stand-ins for those that do not speak the protocol. What they
answer is made by the bundled engine; the examples in docs/examples map them.
"""

from __future__ import annotations

import base64
import io
import struct
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import soundfile
from fastapi import FastAPI, Form, Header, HTTPException, Response, UploadFile
from fastapi.responses import JSONResponse, StreamingResponse

from helpers import speech
from zweistimme.engines.connections import Connection, Kind, connect
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource, TranslationItem, TranslationRequest
from zweistimme.engines.registry import engine
from zweistimme.project.times import RATE
from zweistimme.server import Serving, parsed_faults, running_app

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
KEY = "saltmarsh-key-77"
CODES = {"DE": "de-DE", "EN": "en-GB"}
PIECE_S = 0.1


class Counted:
    """What a service was asked, and for what it would have charged."""

    def __init__(self) -> None:
        self.said: list[str] = []
        self.translated: list[str] = []
        self.looks = 0
        self.keys: list[str] = []


def _german(text: str) -> str:
    request = TranslationRequest("en-GB", "de-DE", (TranslationItem("a", text),))
    return engine().translate(request).items[0].texts[0]


def _wav(text: str, language: str, voice: str) -> tuple[bytes, Any]:
    spoken = engine().speak(speech(text, language, voice))
    file = io.BytesIO()
    soundfile.write(file, spoken.samples, RATE, subtype="PCM_16", format="WAV")
    return file.getvalue(), spoken


def quill(count: Counted) -> FastAPI:
    """JSON with names of its own."""
    app = FastAPI()

    def check(key: str) -> None:
        if key != KEY:
            raise HTTPException(401)

    @app.exception_handler(HTTPException)
    async def refused(_request: Any, error: HTTPException) -> Response:
        return JSONResponse({"error": {"message": "the key fits no lock"}}, error.status_code)

    @app.post("/v2/translate")
    def translate(body: dict[str, Any], x_api_key: Annotated[str, Header()] = "") -> dict[str, Any]:
        check(x_api_key)
        count.translated += body["text"]
        assert (body["source_lang"], body["target_lang"]) == ("EN", "DE")
        return {"translations": [{"text": _german(text)} for text in body["text"]]}

    @app.get("/v2/voices")
    def voices(after: str = "") -> dict[str, Any]:
        every = [{"key": v.id, "label": v.name, "sex": v.kind, "speaks": v.languages, "hertz": RATE}
                 for v in engine().info().voices]  # fmt: skip
        start = int(after or 0)
        return {"items": every[start : start + 3], "more": str(start + 3) if start + 3 < len(every) else None}

    @app.post("/v2/say/{voice}")
    def say(voice: str, body: dict[str, Any], x_api_key: Annotated[str, Header()] = "") -> dict[str, Any]:
        check(x_api_key)
        count.said.append(body["input"])
        sound, spoken = _wav(body["input"], CODES[body["lang"]], voice)
        marks = [{"w": w.text, "at": w.start_us / 1000, "until": w.end_us / 1000} for w in spoken.words]
        return {"audio": {"data": base64.b64encode(sound).decode(), "marks": marks}}

    return app


def lark(count: Counted, came: list[float] | None = None) -> FastAPI:
    """Forms, and sound that comes in pieces without a length."""
    app = FastAPI()

    @app.post("/tr")
    def translate(q: Annotated[str, Form()]) -> dict[str, Any]:
        count.translated.append(q)
        return {"result": {"best": _german(q)}}

    @app.get("/tts")
    def tts(t: str, v: str, l: str, x: str) -> Response:  # noqa: E741 - it calls them so
        assert x == "harbour"
        count.said.append(t)
        sound, _ = _wav(t, l, v)
        head, samples = bytearray(sound[:44]), sound[44:]
        struct.pack_into("<I", head, 4, 0xFFFFFFFF)
        struct.pack_into("<I", head, 40, 0)

        def pieces() -> Iterator[bytes]:
            import time

            yield bytes(head)
            for start in range(0, len(samples), 19_200):
                yield samples[start : start + 19_200]
                if came is not None:
                    time.sleep(PIECE_S)
                    came.append(time.monotonic())

        return StreamingResponse(pieces(), media_type="audio/wav")

    return app


def heron(count: Counted) -> FastAPI:
    """Jobs and links."""
    app = FastAPI()
    tasks: dict[str, Any] = {}
    clips: dict[str, bytes] = {}

    @app.post("/listen")
    def listen(
        file: UploadFile, language: Annotated[str, Form()], names: Annotated[str, Form()] = ""
    ) -> dict[str, Any]:
        samples, rate = soundfile.read(file.file, dtype="float32")
        assert rate == 16_000
        import soxr

        sound = np.asarray(soxr.resample(samples, rate, RATE), dtype=np.float32)
        source = SoundSource(lambda start, n: sound[start : start + n], len(sound))
        key = f"t{len(tasks)}"
        tasks[key] = engine().recognise(source, RecognitionQuestion((language,)), lambda _share: None)
        count.keys.append(names)
        return {"task": key}

    @app.get("/tasks/{key}")
    def look(key: str, response: Response) -> dict[str, Any]:
        count.looks += 1
        response.headers["Retry-After"] = "0"
        return {"phase": "ready" if count.looks > 2 else "at it", "percent": min(100, 50 * count.looks)}

    @app.get("/tasks/{key}/lines")
    def lines(key: str) -> dict[str, Any]:
        heard = tasks[key]
        return {"spoken": heard.language, "lines": [
            {"tokens": [{"t": w.text, "from": f"{w.start_us / 1e6:.3f}", "to": f"{w.end_us / 1e6:.3f}s",
                         "sure": w.confidence, "who": segment.speaker} for w in segment.words]}
            for segment in heard.segments]}  # fmt: skip

    @app.post("/speak")
    def speak(body: dict[str, Any]) -> dict[str, Any]:
        count.said.append(body["words"])
        key = f"c{len(clips)}"
        clips[key] = _wav(body["words"], body["tongue"], body["as"])[0]
        return {"link": f"/clips/{key}"}

    @app.get("/clips/{key}")
    def clip(key: str) -> Response:
        return Response(clips[key], media_type="audio/wav")

    return app


SHAPES = {"quill": quill, "lark": lark, "heron": heron}


@contextmanager
def foreign(name: str, folder: Path, faults: str = "", seconds: float = 120.0, **more: Any) -> Iterator[Counted]:
    """One of them, running and connected under its name by its example, whose address is put right."""
    count = Counted()
    with ExitStack() as stack:
        address = stack.enter_context(running_app(SHAPES[name](count, **more), Serving(faults=parsed_faults(faults))))
        text = (EXAMPLES / "mapped-services" / f"{name}.toml").read_text()
        line = next(line for line in text.splitlines() if line.startswith("address"))
        file = folder / f"{name}.toml"
        file.write_text(text.replace(line, f'address = "{address}"\nseconds = {seconds}'))
        connect(Connection(name, Kind.MAPPED, str(file)))
        yield count
