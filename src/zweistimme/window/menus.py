"""The menu bar and what a right press offers, as lists of actions."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QMenuBar, QWidget

from zweistimme.messages import tr
from zweistimme.store.settings import LANGUAGE, read_settings
from zweistimme.window.line_up import LANES

RECENT: Final = "recent"
SPEAKERS: Final = "speakers"
LANGUAGES: Final = "languages"
_LINE: Final = ""
"""Where a line is drawn between parts of a menu."""


@dataclass(frozen=True, slots=True)
class MenuSpec:
    """A menu: its title and the names of its actions; RECENT, SPEAKERS and LANGUAGES are menus within it."""

    title: str
    items: tuple[str, ...]


MENUS: Final = (
    MenuSpec("&Project", (
        "new", "open", RECENT, "demo", _LINE, "programme", _LINE,
        "add_version", "bring_translation", "send_version", "take_back", "import_takes", "remove_version", _LINE,
        "bring_transcript", "align", "write_transcript", _LINE, "pack", "close", "settings", "quit",
    )),
    MenuSpec("&Edit", ("undo", "redo", "history", _LINE, "find", "choose_all", "choose_next", "choose_previous")),
    MenuSpec("&Transcript", (
        "recognise", "find_speech", "record", _LINE, "edit_source", "split", "merge", "insert", "delete", "recut",
        _LINE, "start_here", "end_here", "start_earlier", "start_later", "end_earlier", "end_later", "snap",
        "word_earlier", "word_later", "step",
        _LINE, SPEAKERS, _LINE, "accept", "accept_all", "fillers", "realign",
    )),
    MenuSpec("&Line", (
        "edit_line", "copy_original", "shorter", "offer_1", "help_1", "other_wordings", "choose_fitting", _LINE,
        "follow_original", "compare", "say_back", "concordance", "terms", "term_1", "brief", "mend", _LINE,
        "settle", "review", "make_final", "reopen", "lock", "note", _LINE, "screen", _LINE, "continue", "stop",
    )),
    MenuSpec("Ta&kes", (
        "another_take", "five_takes", "next_take", "score_1", "best_takes", "before_after", "hear_back", "hear_along",
        _LINE,
        "directions", "pronounce", "spread_manner", _LINE, "audition", "sampling", _LINE,
        "pin", "hold_word", "free_pins", "take_earlier", "take_later", "take_shorter", "take_longer",
    )),
    MenuSpec("Li&sten", (
        "play", "loop", "from_word", "play_take", "play_original", "way_1", _LINE,
        *(f"lane_{name}" for name in LANES), *(f"alone_{name}" for name in LANES), "before", _LINE,
        "slower", "faster", _LINE, "second_back", "second_on", "frame_back", "frame_on", "to_selection", _LINE,
        "follow", "select_along",
    )),
    MenuSpec("&Go", (
        "next_line", "previous_line", "next_open", "next_unsettled", "next_noticed", "next_wordless", _LINE,
        "next_word", "previous_word", "next_doubt", "previous_doubt", _LINE, "next_version",
    )),
    MenuSpec("&View", (
        "page_Score", "page_Speakers", "page_Cast", "page_Fit", "page_Mix", "page_Hand-over", "page_Engines", _LINE,
        "closer", "wider",
        "timecode", "pitch", _LINE, "by_text", "sift", "fold_panel", "fold_closeup", "jobs", "theme", LANGUAGES,
    )),
    MenuSpec("&Help", ("manual", "finder", "sheet", "about")),
)  # fmt: skip
_LISTENED: Final = ("play_original", "from_word")
CONTEXT: Final[Mapping[str, tuple[str, ...]]] = {
    "original": (
        "edit_source", *_LISTENED, _LINE, "split", "merge", "recut", "delete", _LINE, "start_here", "end_here", "snap",
        _LINE, SPEAKERS, "screen", _LINE, "accept_all", "fillers", "realign",
    ),
    "word": ("from_word", "split", _LINE, "accept", "next_doubt", "fillers", "realign"),
    "dub": (
        "edit_line", "play_take", _LINE, "shorter", "other_wordings", "another_take", "record", _LINE,
        "settle", "review", "make_final", "reopen", "lock", "note", _LINE, "pin", "screen",
    ),
    "take": ("play_take", "play_original", "loop", _LINE, "pronounce", "pin", "another_take", "five_takes", "record"),
    "ribbon": ("pin", "screen", "shorter", "another_take", _LINE, "play_take", "loop", _LINE, "next_open"),
    "nothing": ("play", "insert", "next_wordless", _LINE, "recognise", "find_speech", _LINE, "closer", "wider"),
    "overview": ("play", "follow", _LINE, "next_open", _LINE, "closer", "wider"),
}  # fmt: skip
"""What is offered by what lies under the pointer."""


class Menus:
    """Makes menus of the actions there are. *recent* gives the projects that were open lately, *speakers* the names of
    the first nine people; *speak* has the desk speak another language."""

    def __init__(
        self,
        actions: Mapping[str, QAction],
        recent: Callable[[], Iterable[Path]],
        open_project: Callable[[Path], object],
        speakers: Callable[[], list[str]],
        speak: Callable[[str], object],
    ) -> None:
        self._actions, self._recent, self._open, self._speakers = actions, recent, open_project, speakers
        self._speak = speak

    def fill_bar(self, bar: QMenuBar) -> None:
        """Put all menus into the menu bar."""
        for spec in MENUS:
            menu = bar.addMenu(tr(spec.title))
            assert menu is not None
            self._fill(menu, spec.items)

    def offer(self, kind: str, at: QPoint, parent: QWidget) -> QMenu:
        """Show what can be done with a kind of thing, at a place on the screen."""
        menu = QMenu(parent)
        self._fill(menu, CONTEXT[kind])
        menu.aboutToHide.connect(menu.deleteLater)
        menu.popup(at)
        return menu

    def _fill(self, menu: QMenu, items: Iterable[str]) -> None:
        for item in items:
            if item == _LINE:
                menu.addSeparator()
            elif item == RECENT:
                self._later(menu, tr("Open &lately"), self._show_recent)
            elif item == SPEAKERS:
                self._later(menu, tr("&Give to"), self._show_speakers)
            elif item == LANGUAGES:
                self._later(menu, f"{tr(LANGUAGE.title)} / Language", self._show_languages)
            else:
                menu.addAction(self._actions[item])

    @staticmethod
    def _later(menu: QMenu, title: str, show: Callable[[QMenu], None]) -> None:
        """A menu within a menu, filled when it is shown."""
        inner = menu.addMenu(title)
        assert inner is not None
        inner.aboutToShow.connect(lambda: show(inner))

    def _show_recent(self, menu: QMenu) -> None:
        menu.clear()
        for folder in self._recent():
            action = menu.addAction(f"{folder.name}   {folder.parent}".replace("&", "&&"))
            assert action is not None
            action.triggered.connect(lambda _on=False, folder=folder: self._open(folder))
        menu.setEnabled(True)
        if menu.isEmpty():
            nothing = menu.addAction(tr("nothing yet"))
            assert nothing is not None
            nothing.setEnabled(False)

    def _show_speakers(self, menu: QMenu) -> None:
        menu.clear()
        for number, name in enumerate(self._speakers(), 1):
            given = self._actions[f"speaker_{number}"]
            action = menu.addAction(f"{name}\t{number}".replace("&", "&&"))
            assert action is not None
            action.triggered.connect(given.trigger)
            action.setEnabled(given.isEnabled())
        menu.addSeparator()
        menu.addAction(self._actions["new_speaker"])

    def _show_languages(self, menu: QMenu) -> None:
        menu.clear()
        chosen = read_settings().text(LANGUAGE)
        for tag, name in (LANGUAGE.choices or {}).items():
            action = menu.addAction(tr(name))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(tag == chosen)
            action.triggered.connect(lambda _on=False, tag=tag: self._speak(tag))
