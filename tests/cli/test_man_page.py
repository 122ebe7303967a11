"""The manual page speaks of every command, and what desktops are told names the files that there are."""

from __future__ import annotations

import configparser
from pathlib import Path
from xml.etree import ElementTree

from man_page import page
from zweistimme.cli.main import app
from zweistimme.store.names import PACKED
from zweistimme.store.packing import MIMETYPE

PACKAGING = Path(__file__).parents[2] / "packaging"


def test_the_manual_page_has_every_command() -> None:
    text = page()
    assert text.startswith(".TH ZWEISTIMME 1")
    for command in app.registered_commands:
        name = command.name or getattr(command.callback, "__name__", "")
        assert ".SS " + name.replace("_", "-").replace("-", "\\-") in text
    assert ".SS engines budget NAME [AMOUNT]" in text
    assert "\\fB\\-\\-keep\\-going\\fR" in text
    assert ".B 130" in text


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
