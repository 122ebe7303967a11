"""The manual inside the window."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QUrl
from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.messages.lookup import NAMES
from zweistimme.window import manual_view
from zweistimme.window.actions import ACTIONS
from zweistimme.window.app import make_app
from zweistimme.window.main_window import MainWindow
from zweistimme.window.manual_view import PAGES, Manual, headings, manual_text, place_of
from zweistimme.window.pages import PAGES as DESK_PAGES

FOLDER = Path(manual_view.__file__).parent / "manual"
LANGUAGES = sorted(path.name for path in FOLDER.iterdir())


@pytest.fixture
def manual(qtbot: QtBot) -> Manual:
    make_app()
    made = Manual()
    qtbot.addWidget(made)
    made.show()
    return made


def test_it_opens_where_one_is(window: MainWindow) -> None:
    view = view_of(window)
    for page, title in (("Score", "The Score"), ("Cast", "The voice map"), ("Hand-over", "Hand-over")):
        view.navigation.show_page(page)
        window.actions_by_id["manual"].trigger()
        manual = window.findChild(Manual)
        assert manual is not None
        item = manual.list.currentItem()
        assert item is not None
        assert item.text().strip() == title
        assert manual.text.textCursor().block().text() == title
    view.navigation.open_panel("Record")
    assert place_of(view) == ("transcript", headings(manual_text("transcript", "en")).index("Recording"))
    assert len(window.findChildren(Manual)) == 1, "asked for again, it is the same one"


def test_every_page_and_panel_stands_in_it(window: MainWindow) -> None:
    view = view_of(window)
    for spec in DESK_PAGES:
        view.navigation.show_page(spec.id)
        assert place_of(view) != ("desk", 0), spec.id
    assert place_of(None) == ("desk", 0)


def test_what_is_typed_is_found_from_page_to_page(manual: Manual) -> None:
    manual.show_place("desk", 0)
    manual.search.setText("RTTM")
    shown = [row for row in range(manual.list.count()) if not manual.list.isRowHidden(row)]
    assert 0 < len(shown) < manual.list.count()
    manual.find_next()
    first = (manual._page, manual.text.textCursor().position())
    assert manual.text.textCursor().selectedText() == "RTTM"
    manual.find_next()
    assert (manual._page, manual.text.textCursor().position()) != first
    manual.search.setText("zyxw")
    assert manual.said.text() == "Found nowhere."


def test_links_lead_to_the_other_page_and_to_files(manual: Manual, monkeypatch: pytest.MonkeyPatch) -> None:
    manual._link(QUrl("transcript.md"))
    assert manual._page == "transcript"
    opened: list[str] = []
    monkeypatch.setattr(manual_view.QDesktopServices, "openUrl", lambda url: opened.append(url.toString()))
    manual._link(QUrl("../../../../../docs/engine-protocol.md"))
    assert opened[0].endswith("docs/engine-protocol.md")
    manual._link(QUrl("../nowhere.md"))
    assert manual.said.text() == "nowhere.md comes with the source of the desk."


@pytest.mark.parametrize("tag", LANGUAGES)
@pytest.mark.parametrize("page", PAGES)
def test_every_language_has_the_same_headings_in_the_same_order(page: str, tag: str) -> None:
    levels = [re.findall(r"^(#+) ", (FOLDER / name / f"{page}.md").read_text(), re.MULTILINE) for name in ("en", tag)]
    assert levels[0] == levels[1]


def test_there_is_a_manual_for_every_language_of_the_desk() -> None:
    assert set(NAMES) == set(LANGUAGES)


@pytest.mark.parametrize("tag", LANGUAGES)
def test_the_keys_it_names_are_those_there_are(tag: str) -> None:
    keys = {spec.keys for spec in ACTIONS if spec.keys}
    written = {
        "Strg": "Ctrl", "Umschalt": "Shift", "Eingabe": "Return", "Links": "Left", "Rechts": "Right",
        "↑": "Up", "↓": "Down", "←": "Left", "→": "Right",
    }  # fmt: skip
    named = set()
    for page in PAGES:
        for found in re.findall(r"`((?:(?:Ctrl|Strg|Alt|Shift|Umschalt)\+)+[^` ]+|F\d+)`", manual_text(page, tag)):
            for word, key in written.items():
                found = found.replace(word, key)
            named.add(found)
    assert not named - keys
