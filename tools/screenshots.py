"""Pictures of the main views, made from the demo: ``make screenshots``. An old project may be given to save time."""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))  # where the lines in other languages are

import numpy as np
import soundfile
from PyQt6.QtWidgets import QApplication

from camera import OUT, grab, settle
from casting_scenes import picture_of_auditions, picture_of_casting, pictures_of_takes
from demo_project import make_demo_project, work_on
from fit_scenes import pictures_of_fit_and_mix
from picture_scenes import picture_of_bringing_in, pictures_of_other_scripts
from translation_scenes import pictures_of_translating
from zweistimme.demo.script import TARGETS, TITLE
from zweistimme.engines.connections import Connection, Kind, connect, disconnect
from zweistimme.engines.offers import Limits, Price
from zweistimme.media.microphone import FileMicrophone
from zweistimme.project.cast_edits import cast_voice
from zweistimme.project.edits import choose_engine
from zweistimme.project.progress import Step
from zweistimme.project.times import RATE
from zweistimme.project.transcript import delete_segments
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE

if TYPE_CHECKING:
    from zweistimme.window.main_window import MainWindow

LITTLE = OUT.parent / "examples" / "little-engine" / "little.toml"


def picture_of_engines(app: QApplication, window: MainWindow) -> None:
    """The engines: a priced service, one that is not there, and a program."""
    terms = Terms(Limits(characters=5000, requests_a_minute=600, at_once=4), Price(0.00002, 0.0, "EUR"), 25_000)
    view = window.view
    assert view is not None
    desk = view.desk
    connect(Connection("little", Kind.PROGRAM, str(LITTLE)))
    connect(Connection("old quay", Kind.SERVICE, "http://127.0.0.1:8799"))
    with running(Serving(port=8766, terms=terms, faults=Faults({"no-voice": 0.3}, seed=4))) as address:
        connect(Connection("north quay", Kind.SERVICE, address))
        desk.book.refresh()
        desk.apply("Engines", lambda p: choose_engine(p, "speak", "north quay", TARGETS[1]))
        desk.apply("Cast", lambda p: cast_voice(p, TARGETS[1], "p1", "north quay/edda"))
        settle(app, 3)
        from zweistimme.window.engines import EnginesPage

        view.pages.of("Engines", EnginesPage).cards["north quay"].click()
        view.navigation.show_page("Engines")
        settle(app)
        grab(window, "engines")
        view.navigation.show_page("Score")
    for name in ("little", "old quay", "north quay"):
        disconnect(name)
    desk.book.refresh()
    for _ in range(12):
        if desk.project.versions[TARGETS[1]].cast["p1"] != "north quay/edda":
            break
        desk.undo()


def pictures_of_the_transcript(app: QApplication, window: MainWindow) -> None:
    """The Score while transcribing, a recording session, and speakers."""
    view = window.view
    assert view is not None
    desk = view.desk
    ids = [segment.id for segment in desk.project.segments]
    before = len(desk.project.segments)
    desk.apply("Delete", lambda p: delete_segments(p, [ids[3]]))
    desk.select(ids[4], 3)
    desk.choose([ids[4], ids[5]])
    view.page.closeup.pitch.flip()
    view.page.score.centre_on(19_000_000)
    settle(app, 2)
    grab(window, "transcribing")
    view.page.closeup.pitch.flip()
    desk.undo()
    picture_of_recording(app, window)
    view.page.drawer.shut()
    view.navigation.show_page("Speakers")
    settle(app)
    grab(window, "speakers")
    view.navigation.show_page("Score")
    assert len(desk.project.segments) == before


def picture_of_recording(app: QApplication, window: MainWindow) -> None:
    """Lines said into a microphone one after the other; here it plays the first one's own take."""
    view = window.view
    assert view is not None
    panel, placed = view.page.record, view.desk.placed()
    assert placed is not None
    said = view.desk.document.clips.get(placed[1].clip)
    with tempfile.TemporaryDirectory() as folder:
        booth = Path(folder) / "booth.wav"
        soundfile.write(booth, np.concatenate((np.zeros(2 * RATE), said)), RATE)
        view.navigation.open_panel("Record")
        panel.source.use_microphone(FileMicrophone(booth))
        panel.several.click()
        settle(app, 4.2)
        grab(window, "recording")
        panel.session.end()
        while view.desk.jobs.runs:
            settle(app, 0.1)
        view.desk.undo()


def picture_of_night_in_german(app: QApplication, window: MainWindow, segment_id: str) -> None:
    """The Score in other colours and another language; afterwards as before."""
    window.outfit.choose_language("de")
    window.outfit.flip_theme()
    view = window.view
    assert view is not None
    view.desk.select(segment_id)
    view.page.score.centre_on(15_500_000)
    settle(app)
    grab(window, "night")
    window.outfit.flip_theme()
    window.outfit.choose_language("en")


def main() -> None:
    """Make every picture, and leave nothing else behind."""
    parser = argparse.ArgumentParser(description="Make the pictures in docs/screenshots.")
    parser.add_argument("folder", nargs="?", type=Path, help="a dubbed demo project; without one it is made")
    given = parser.parse_args().folder
    with tempfile.TemporaryDirectory() as own:
        for variable in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
            os.environ[variable] = str(Path(own) / variable)
        make_pictures(given or Path(own) / TITLE)


def make_pictures(folder: Path) -> None:
    """Make every picture from a demo project in a folder; where there is none, it is made there."""
    from zweistimme.window.app import make_app
    from zweistimme.window.main_window import MainWindow
    from zweistimme.window.speech import speak

    os.environ["PYTHON_KEYRING_BACKEND"] = "keyring.backends.fail.Keyring"
    if not (folder / DATABASE).is_file():
        make_demo_project(folder)
        with Document.open(folder) as document:
            run_step(work_on(document), Step.HANDOVER, TARGETS[0], folder / "handover")
    os.environ["LANGUAGE"] = "en"
    app = make_app()
    speak(app)
    window = MainWindow()
    window.show()
    settle(app)
    grab(window, "welcome")
    window.open_project(folder)
    view = window.view
    assert view is not None
    ids = [segment.id for segment in view.desk.project.segments]
    view.desk.select(ids[3])
    view.playback.player.seek(15_200_000)
    view.page.score.centre_on(15_500_000)
    settle(app)
    grab(window, "score")
    pictures_of_translating(app, window)
    pictures_of_the_transcript(app, window)
    picture_of_auditions(app, window)
    pictures_of_takes(app, window)
    pictures_of_fit_and_mix(app, window)
    view.desk.show_version(TARGETS[1])
    picture_of_casting(app, window)
    view.navigation.show_page("Hand-over")
    settle(app)
    grab(window, "handover")
    picture_of_engines(app, window)
    picture_of_bringing_in(app)
    view.navigation.show_page("Score")
    picture_of_night_in_german(app, window, ids[3])
    pictures_of_other_scripts(app, window)
    window.close()


if __name__ == "__main__":
    main()
