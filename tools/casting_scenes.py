"""Pictures of voices and takes: the voice map, auditions, a take heard back, how a word is said."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtWidgets import QApplication

from camera import grab, settle
from zweistimme.project.edits import add_take
from zweistimme.project.facts import chosen_take
from zweistimme.project.progress import Step
from zweistimme.stages.pipeline import run_step

if TYPE_CHECKING:
    from zweistimme.window.bridge import Desk
    from zweistimme.window.casting.page import CastPage
    from zweistimme.window.main_window import MainWindow


def picture_of_casting(app: QApplication, window: MainWindow) -> None:
    """People and voices on the map, all of them measured."""
    from zweistimme.window.casting.page import CastPage

    view = window.view
    assert view is not None
    view.navigation.show_page("Cast")
    page: CastPage = view.pages.of("Cast", CastPage)
    settle(app, 2)
    page.acts.measure.click()
    settle(app, 1)
    while view.desk.jobs.runs:
        settle(app, 0.1)
    page.map.choose_person("p3")
    settle(app, 2)
    grab(window, "cast")


def picture_of_auditions(app: QApplication, window: MainWindow) -> None:
    """Lines of a person in several voices, scored and compared."""
    view = window.view
    assert view is not None
    view.navigation.audition("p1")
    panel = view.page.auditions
    settle(app, 1)
    panel.add_alike()
    settle(app, 1.5)
    while view.desk.jobs.runs:
        settle(app, 0.1)
    settle(app)
    table = panel.table
    for row, score in ((1, 3), (3, 4), (2, 5)):
        table.setCurrentCell(row, 1)
        panel.hear()
        settle(app, 0.7)
        panel.score(score)
    panel.prefer()
    settle(app, 0.3)
    grab(window, "auditions")
    view.playback.player.pause()
    view.page.drawer.shut()


def pictures_of_takes(app: QApplication, window: MainWindow) -> None:
    """A line whose take has lost a word, heard back; and a name that a dictionary says how to say."""
    view = window.view
    assert view is not None
    desk, ids = view.desk, [segment.id for segment in view.desk.project.segments]
    for key in (ids[4], ids[9]):
        _lose_a_word(desk, key)
    tag = desk.tag
    desk.jobs.start("Fit", lambda work: run_step(work, Step.FIT, tag))
    while desk.jobs.busy:
        settle(app, 0.1)
    view.navigation.open_panel("Takes heard back")
    panel = view.page.listening
    panel.all.click()
    settle(app, 1)
    while desk.jobs.runs:
        settle(app, 0.1)
    panel.table.setCurrentCell(0, 0)
    settle(app, 2)
    grab(window, "heard-back")
    for _ in range(3):
        desk.undo()
    view.page.drawer.shut()


def _lose_a_word(desk: Desk, segment_id: str) -> None:
    version = desk.version
    assert version is not None
    take = chosen_take(version, version.lines[segment_id])
    assert take is not None
    samples, word = desk.document.clips.get(take.clip), take.words[1]
    a, b = (round(at * 0.048) for at in (word.start_us, word.end_us))
    rest = np.concatenate((samples[:a], samples[b:]))
    made = replace(
        take, id=f"lost-{segment_id}", label="take 2", clip=desk.document.clips.put(rest), length_samples=len(rest),
        speech_end_samples=take.speech_end_samples - (b - a), pauses_samples=(), words=(),
    )  # fmt: skip
    desk.apply("Another take", partial(add_take, tag=desk.tag, take=made))
