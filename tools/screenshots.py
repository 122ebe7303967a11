"""Pictures of the main views, made from the demo: ``make screenshots``. An old project may be given to save time."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication, QWidget

from demo_project import make_demo_project, work_on
from zweistimme.demo.script import TARGETS, TITLE
from zweistimme.project.facts import Step
from zweistimme.stages.pipeline import run_step
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


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


def main() -> None:
    """Make every picture."""
    from zweistimme.window.app import make_app
    from zweistimme.window.main_window import MainWindow

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.mkdtemp()) / TITLE
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()
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
