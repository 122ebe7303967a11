"""What is set for the whole desk."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from zweistimme.engines.punctual_transport import _proxy_for
from zweistimme.project.errors import EditError, StoreError
from zweistimme.store.settings import (
    AS_SYSTEM,
    LANGUAGE,
    PROJECTS,
    PROXY,
    SETTINGS,
    THEME,
    Settings,
    read_settings,
    setting_called,
    settings_file,
    value_from,
    write_settings,
)


def test_what_is_as_it_comes_is_not_kept() -> None:
    write_settings(Settings().having(THEME, "night").having(PROXY, "http://proxy:3128"))
    assert read_settings().text(THEME) == "night"
    write_settings(read_settings().having(THEME, AS_SYSTEM))
    assert settings_file().read_text() == '{\n  "values": {\n    "proxy": "http://proxy:3128"\n  }\n}'


@pytest.mark.parametrize(
    "text", ["", "{", "[]", '{"values": {"theme": 7}}', '{"values": {"theme": "pink"}}', '{"values": {"nothing": "x"}}']
)
def test_settings_that_make_no_sense_are_as_they_come(text: str) -> None:
    settings_file().parent.mkdir(parents=True, exist_ok=True)
    settings_file().write_text(text)
    assert read_settings().text(THEME) == AS_SYSTEM


def test_what_cannot_be_meant_is_refused() -> None:
    for setting, value in ((THEME, "pink"), (PROXY, "proxy:3128"), (PROJECTS, "films"), (LANGUAGE, "tlh")):
        with pytest.raises(EditError, match=value):
            Settings().having(setting, value)
    with pytest.raises(EditError, match="language, theme"):
        setting_called("colour")
    assert value_from(THEME, "night") == "night"
    assert len({one.id for one in SETTINGS}) == len(SETTINGS)


def test_a_full_disk_gets_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", "/proc/nowhere")
    with pytest.raises(StoreError, match=r"settings\.json cannot be written"):
        write_settings(Settings())


def test_engines_are_reached_through_the_proxy_that_is_set(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("https_proxy", "http://other:1")
    assert _proxy_for("https://quay.example") == "http://other:1"
    write_settings(Settings().having(PROXY, "http://proxy:3128"))
    assert _proxy_for("https://quay.example") == "http://proxy:3128"
    assert _proxy_for("http://127.0.0.1:8766") is None
    monkeypatch.setenv("no_proxy", "quay.example")
    assert _proxy_for("https://quay.example") is None


def command(*arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-c", "from zweistimme.cli.main import main; main()", "settings", *arguments],
        capture_output=True,
        text=True,
        timeout=60,
    )


def test_they_are_said_and_set_by_a_command(tmp_path: Path) -> None:
    shown = command().stdout
    assert all(f"{one.id} " in shown for one in SETTINGS)
    assert str(settings_file()) in shown
    assert command("theme", "night", "--json").stdout.split() == ["{", '"theme":', '"night"', "}"]
    assert "pink" in command("theme", "pink").stderr
    assert command("theme", "pink").returncode == 1
    assert command("shade").returncode == 1
    assert read_settings().text(THEME) == "night"
    assert "XDG_CONFIG_HOME" in os.environ
    assert tmp_path in settings_file().parents
