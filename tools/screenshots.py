"""Pictures of the main views, made from the demo: ``make screenshots``. An old project may be given to save time."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication, QWidget

from zweistimme.demo.script import BED, LINES, MEDIA, SOURCE, TARGETS, TITLE, data_file
from zweistimme.project.edits import add_version, rename_speaker, set_on_screen
from zweistimme.project.facts import Step
from zweistimme.project.model import Project
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.work import Work
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE

OUT = Path(__file__).parents[1] / "docs" / "screenshots"
LONGEST_S = 120.0


def demo_project(folder: Path) -> None:
    """The demo carried through all steps, its speakers named and those out of sight marked, as a person would."""
    project = Project(TITLE, SOURCE)
    for tag in TARGETS:
        project = add_version(project, tag)
    with Document.create(folder, project) as document:

        def work() -> Work:
            return Work(
                document.project,
                document.clips,
                document.cache,
                deliver=lambda label, edit: document.apply(label, edit) and None,
                report=lambda _share: None,
            )

        bring_in(work(), data_file(MEDIA), data_file(BED))
        run_step(work(), Step.TRANSCRIPT, TARGETS[0])
        for segment, line in zip(document.project.segments, LINES, strict=True):
            speaker = document.project.speakers[segment.speaker_id]
            if speaker.name.startswith("Speaker"):
                document.apply("Name", lambda p, s=speaker, n=line.speaker: rename_speaker(p, s.id, n))
            if not line.on_screen:
                document.apply("Off screen", lambda p, s=segment: set_on_screen(p, s.id, False))
        for tag in TARGETS:
            for step in (Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
                run_step(work(), step, tag)
        run_step(work(), Step.HANDOVER, TARGETS[0], folder / "handover")


def settle(app: QApplication, until: Callable[[], bool] = lambda: False, seconds: float = 0.8) -> None:
    """Let the window work for a while, or until something is so."""
    end = time.monotonic() + (seconds if not until() else 0.2)
    while time.monotonic() < end and not until():
        app.processEvents()
        time.sleep(0.01)
    for _ in range(10):
        app.processEvents()


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
        demo_project(folder)
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
