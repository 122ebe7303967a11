"""The manual page speaks of every command, and what desktops are told names the files that there are."""

from __future__ import annotations

import configparser
from importlib import import_module
from pathlib import Path
from xml.etree import ElementTree

import typer

from man_page import page
from zweistimme.cli.app import App
from zweistimme.cli.commands import COMMANDS
from zweistimme.cli.main import app
from zweistimme.store.names import PACKED
from zweistimme.store.packing import MIMETYPE

PACKAGING = Path(__file__).parents[2] / "packaging"


def test_the_manual_page_has_every_command() -> None:
    text = page()
    assert text.startswith(".TH ZWEISTIMME 1")
    for name in COMMANDS:
        assert ".SS " + name.replace("-", "\\-") in text
    assert ".SS engines budget NAME [AMOUNT]" in text
    assert "\\fB\\-\\-keep\\-going\\fR" in text
    assert ".B 130" in text


def test_what_help_says_of_a_command_is_what_the_command_says() -> None:
    group = typer.main.get_command(app)
    for name, entry in COMMANDS.items():
        command = group.get_command(None, name)  # type: ignore[attr-defined]
        assert " ".join((command.help or "").split()).startswith(entry.about)
    for module in sorted({entry.module for entry in COMMANDS.values()}):
        made = App()
        import_module(f"zweistimme.cli.{module}").register(made)
        there = {one.name or one.callback.__name__ for one in made.registered_commands if one.callback}
        there |= {one.name for one in made.registered_groups if one.name}
        assert {name.replace("_", "-") for name in there} == {
            name for name, entry in COMMANDS.items() if entry.module == module
        }


def test_desktops_are_told_of_packed_projects() -> None:
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(PACKAGING / "zweistimme.desktop")
    assert entry["Desktop Entry"]["MimeType"] == f"{MIMETYPE};"
    root = ElementTree.parse(PACKAGING / "zweistimme.xml").getroot()
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    kind = root.find("m:mime-type", space)
    assert kind is not None
    assert kind.get("type") == MIMETYPE
    glob = kind.find("m:glob", space)
    assert glob is not None
    assert glob.get("pattern") == f"*{PACKED}"
    assert (PACKAGING / "zweistimme.svg").is_file()
