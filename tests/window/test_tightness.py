"""The strip beside the overview: where a version will be tight, before anything is spoken."""

from __future__ import annotations

from functools import partial

from pytestqt.qtbot import QtBot

from driving import view_of
from zweistimme.project.line_edits import set_line_text
from zweistimme.window.main_window import MainWindow
from zweistimme.window.strain import Strain


def test_a_wording_that_cannot_be_said_in_time_is_marked_and_a_short_one_is_not(
    window: MainWindow, qtbot: QtBot
) -> None:
    desk, overview = view_of(window).desk, view_of(window).page.overview
    first = desk.project.segments[0]

    def strain() -> Strain:
        found = {start: one for start, _, one in overview.tightness.stretches}
        return found.get(first.start_us, Strain.CALM)

    for text, wanted in (("So viele Wörter, " * 12, Strain.HARD), ("Kurz.", Strain.CALM)):
        desk.apply("x", partial(set_line_text, tag=desk.tag, segment_id=first.id, text=text))
        qtbot.waitUntil(lambda wanted=wanted: strain() is wanted, timeout=5_000)  # type: ignore[misc]
    assert overview.grab().width() > 0
