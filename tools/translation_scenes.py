"""Pictures of translating: states, terms, matches and remarks, in both scales; a version said back, and one taken
back."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication

from camera import grab, settle
from zweistimme.memory.memory import Memory
from zweistimme.project.line_edits import set_line_text, set_locked, set_note, set_states
from zweistimme.project.term_edits import put_terms
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.project.units import Unit
from zweistimme.project.wordings import LineState

if TYPE_CHECKING:
    from zweistimme.window.bridge import Desk
    from zweistimme.window.main_window import MainWindow

_SAID = (
    ("My grandfather cast that wheel in 1871, with 24 teeth.", "Mein Großvater goss dieses Rad 1871, mit 24 Zähnen."),
    ("My grandmother painted that wheel.", "Meine Großmutter hat dieses Rad bemalt."),
    ("The great wheel turns twice a day.", "Das große Rad dreht sich zweimal am Tag."),
    ("Listen to the wheel.", "Hör auf das Rad."),
)
_TERMS = {
    "k1": Term(
        "wheel", {"de-DE": Rendering("Rad", ("Zahnrad",), ("Reifen",))}, "the great one of the clock", PartOfSpeech.NOUN
    ),
    "k2": Term("tide", {"de-DE": Rendering("Gezeiten", ("Flut", "Ebbe"))}, part=PartOfSpeech.NOUN),
    "k3": Term("Varnholm", {"de-DE": Rendering(pronunciation="ˈfaʁnhɔlm")}, part=PartOfSpeech.NAME, kept=True),
    "k4": Term("tooth", {"de-DE": Rendering("Zahn")}, part=PartOfSpeech.NOUN),
}


def pictures_of_translating(app: QApplication, window: MainWindow) -> None:
    """Afterwards everything is as before."""
    view = window.view
    assert view is not None
    desk, ids = view.desk, [segment.id for segment in view.desk.project.segments]
    with Memory() as memory:
        memory.put(
            Unit("en-GB", desk.tag, source, target, origin="The Bell of Ostholm", author="Ida", made="2026-04-02")
            for source, target in _SAID
        )
    done = _settled(desk, ids)
    desk.select(ids[6])
    view.navigation.open_panel("Terms")
    settle(app, 2.5)
    grab(window, "translating")
    view.page.flip_scale()
    view.page.flip_sieve()
    view.page.sieve.beside.setCurrentIndex(1)
    view.page.lines.put_beside(str(view.page.sieve.beside.currentData()))
    view.page.memory.look_for("wheel")
    view.navigation.open_panel("Search the translation memory")
    settle(app, 2.0)
    grab(window, "by-text")
    view.page.flip_sieve()
    view.page.flip_scale()
    view.page.drawer.shut()
    for _ in range(done):
        desk.undo()


def _settled(desk: Desk, ids: list[str]) -> int:
    """Lines in all states, a note, and something to be noticed; how many steps that is to undo."""
    tag = desk.tag
    steps = (
        partial(set_states, tag=tag, segment_ids=ids[:3], state=LineState.TRANSLATED),
        partial(set_states, tag=tag, segment_ids=ids[3:5], state=LineState.REVIEWED),
        partial(set_states, tag=tag, segment_ids=ids[5:6], state=LineState.FINAL),
        partial(set_locked, tag=tag, segment_ids=ids[4:5], locked=True),
        partial(set_note, tag=tag, segment_id=ids[6], author="Ida", text="Cast, or poured?", written="2026-05-04"),
        partial(put_terms, terms=_TERMS),
        partial(
            set_line_text, tag=tag, segment_id=ids[6],
            text="Mein Großvater hat dieses Rad 1884 gegossen, mit Zähnen",
        ),
    )  # fmt: skip
    for step in steps:
        desk.apply("Settle", step)
    return len(steps)
