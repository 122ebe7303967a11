"""A token goes where it was given for: whatever a description or an answer says, nothing is sent anywhere else."""

from __future__ import annotations

from pathlib import Path

import pytest
from fastapi import FastAPI, Request

from helpers import speech
from zweistimme.engines.http_calls import HttpCaller, Waits
from zweistimme.engines.mapped import MappedEngine
from zweistimme.engines.mapped_description import service_map_from
from zweistimme.engines.new_connection import connect_described
from zweistimme.engines.origin import is_local
from zweistimme.engines.registry import engine
from zweistimme.project.errors import BadAnswer, EngineRefused, FormatError
from zweistimme.server import Serving, running_app

VOICES = '[[speak.voices]]\nid = "v"\nname = "V"\nkind = "man"\nlanguages = ["de-DE"]\nsample_rate = 16000\n'
ELSEWHERE = "http://127.0.0.1:9/steal"
CALL = 'call = { path = "/say", form = { t = "{text}" } }\n'


def _local_but_for_the_service(host: str) -> bool:
    """Addresses for documentation are nobody's; here one stands for a service elsewhere."""
    return host != "198.51.100.7" and is_local(host)


def listening() -> tuple[FastAPI, list[str]]:
    """An app that keeps whatever it is asked."""
    app, asked = FastAPI(), list[str]()

    @app.api_route("/{path:path}", methods=["GET", "POST", "DELETE"])
    def whatever(path: str, request: Request) -> dict[str, str]:
        asked.append(f"{path} {request.headers.get('authorization', '')}".strip())
        return {}

    return app, asked


@pytest.mark.parametrize(
    "parts",
    [
        f'[speak]\ncall = {{ path = "{ELSEWHERE}", form = {{ t = "{{text}}" }} }}\n',
        f'[speak]\n{CALL}list = {{ path = "{ELSEWHERE}", voices = "v" }}\n',
        f'[speak]\n{CALL}job = "id"\npoll = {{ path = "{ELSEWHERE}", state = "s", done = ["d"] }}\n',
        f'[speak]\n{CALL}job = "id"\npoll = {{ path = "/j", result = "{ELSEWHERE}", state = "s", done = ["d"] }}\n',
        f'[speak]\n{CALL}job = "id"\npoll = {{ path = "/j", stop = "{ELSEWHERE}", state = "s", done = ["d"] }}\n',
        '[speak]\ncall = { path = "//127.0.0.1:9/steal", form = { t = "{text}" } }\n',
        '[speak]\ncall = { path = "https://{voice}/steal", form = { t = "{text}" } }\n',
    ],
)
def test_a_path_that_leads_away_is_refused_when_it_is_connected(parts: str, tmp_path: Path) -> None:
    file = tmp_path / "odd.toml"
    file.write_text(f'name = "odd"\naddress = "http://127.0.0.1:8/base"\n{parts}{VOICES}')
    with pytest.raises(FormatError, match="leads to another place than the service itself"):
        service_map_from(file)


def test_nothing_is_sent_to_another_origin(tmp_path: Path) -> None:
    app, asked = listening()
    with running_app(app, Serving()) as here, running_app(app, Serving()) as there:
        caller = HttpCaller("odd", f"{here}/base", {"Authorization": "Bearer key"}, Waits(answer=5.0), secret=True)
        for path in (f"{there}/steal", "https://quay.example/steal", f"{here.replace('http', 'https')}/x"):
            with pytest.raises(EngineRefused, match="Nothing was sent"):
                caller.ask("GET", path)
        assert asked == []
        caller.ask("GET", "/own")
        caller.ask("GET", f"{here}/also")
        assert asked == ["base/own Bearer key", "also Bearer key"]
        caller.close()


def test_a_link_never_leads_from_outside_to_this_machine(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "odd.toml"
    link = f'[speak]\nsound = "at"\nsound_as = "link"\n{CALL}{VOICES}'
    file.write_text(f'name = "odd"\naddress = "https://198.51.100.7/base"\n{link}')
    odd = MappedEngine("odd", file)
    for place in ("http://127.0.0.1:8822/admin/shutdown?now=1", "https://10.0.0.1/x", "https://[::1]/x"):
        monkeypatch.setattr(odd._calls, "json", lambda *_, place=place, **__: {"at": place})
        monkeypatch.setattr(
            "zweistimme.engines.mapped.is_local", lambda host: host != "198.51.100.7" and is_local(host)
        )
        with pytest.raises(BadAnswer, match="from this machine or its network"):
            odd.speak(speech("Ja.", "de-DE", "v"))
    odd.close()


def test_a_description_that_was_changed_since_it_was_connected_is_not_used(tmp_path: Path) -> None:
    app, asked = listening()
    file = tmp_path / "odd.toml"
    with running_app(app, Serving()) as here:
        file.write_text(f'name = "odd"\naddress = "{here}"\n[speak]\n{CALL}{VOICES}')
        connect_described("odd", file)
        assert engine("odd").info().voices
        file.write_text(f'name = "odd"\naddress = "{here}"\nversion = "2"\n[speak]\n{CALL}{VOICES}')
        with pytest.raises(EngineRefused, match="was changed since it was connected"):
            engine("odd")
        connect_described("odd", file)
        assert engine("odd").info().version == "2"
    assert asked == []
