"""Pictures of the main views, made from the demo: ``make screenshots``. An old project may be given to save time."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication, QWidget

from demo_project import make_demo_project, work_on
from zweistimme.demo.script import TARGETS, TITLE
from zweistimme.engines.connections import Connection, Kind, connect, disconnect
from zweistimme.engines.protocol import Limits, Price
from zweistimme.project.edits import cast_voice, choose_engine
from zweistimme.project.progress import Step
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE

if TYPE_CHECKING:
    from zweistimme.window.main_window import MainWindow

OUT = Path(__file__).parents[1] / "docs" / "screenshots"
LITTLE = OUT.parent / "examples" / "little-engine" / "little.toml"


def settle(app: QApplication, seconds: float = 0.8) -> None:
    """Let the window work for a while."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)


def grab(widget: QWidget, name: str) -> None:
    """Save a picture of a widget."""
    OUT.mkdir(parents=True, exist_ok=True)
    widget.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")


def picture_of_engines(app: QApplication, window: MainWindow) -> None:
    """The engines, with a priced service that fails for two lines, and a program; then those lines on the Score."""
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
        view.engines.cards["north quay"].click()
        view.show_page("Engines")
        settle(app)
        grab(window, "engines")
        view.show_page("Score")
        view.go_on()
        settle(app, 20)
        failed = next(iter(desk.failures))[1]
        desk.select(failed)
        view.score.show_segment(failed)
        settle(app)
        grab(window, "line-failed")
    for name in ("little", "old quay", "north quay"):
        disconnect(name)
    desk.book.refresh()
    for _ in range(12):
        if desk.project.versions[TARGETS[1]].cast["p1"] != "north quay/edda":
            break
        desk.undo()
    desk.failures.clear()


def main() -> None:
    """Make every picture."""
    from zweistimme.window.app import make_app
    from zweistimme.window.main_window import MainWindow

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.mkdtemp()) / TITLE
    for variable in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        os.environ[variable] = tempfile.mkdtemp()
    os.environ["PYTHON_KEYRING_BACKEND"] = "keyring.backends.fail.Keyring"
    if not (folder / DATABASE).is_file():
        make_demo_project(folder)
        with Document.open(folder) as document:
            run_step(work_on(document), Step.HANDOVER, TARGETS[0], folder / "handover")
    app = make_app()
    window = MainWindow()
    window.show()
    settle(app)
    grab(window, "welcome")
    window.open_project(folder)
    view = window.view
    assert view is not None
    ids = [segment.id for segment in view.desk.project.segments]
    view.desk.select(ids[3])
    view.player.seek(15_200_000)
    view.score.centre_on(15_500_000)
    settle(app)
    grab(window, "score")
    view.desk.select(ids[13])
    view.score.centre_on(56_000_000)
    settle(app)
    grab(window, "too-long")
    view.desk.show_version(TARGETS[1])
    view.score.zoom(2.2)
    view.desk.select(ids[12])
    view.score.centre_on(55_500_000)
    settle(app)
    grab(window, "cross-talk")
    view.show_page("Cast")
    settle(app)
    grab(window, "cast")
    view.show_page("Hand-over")
    settle(app)
    grab(window, "handover")
    picture_of_engines(app, window)
    view.show_page("Score")
    view.score.zoom(1 / 2.2)
    window.flip_theme()
    view = window.view
    assert view is not None
    view.desk.select(ids[3])
    view.score.centre_on(15_500_000)
    settle(app)
    grab(window, "night")
    window.close()


if __name__ == "__main__":
    main()
