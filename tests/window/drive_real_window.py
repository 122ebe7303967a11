"""Drives the real window through the demo; run by test_real_window.py inside a virtual X server."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest

from zweistimme.window.app import make_app
from zweistimme.window.main_window import MainWindow


def wait(until: Callable[[], bool], seconds: float = 240.0) -> None:
    """Let the window work until something is so."""
    end = time.monotonic() + seconds
    while not until():
        assert time.monotonic() < end, "it took too long"
        QTest.qWait(20)


def main() -> None:
    """Open the demo, continue to the hand-over, correct a line, continue once more."""
    app = make_app()
    assert QGuiApplication.platformName() == "xcb"
    window = MainWindow()
    window.show()
    assert QTest.qWaitForWindowExposed(window)
    window.activateWindow()  # nobody else would: there is no window manager here
    wait(window.isActiveWindow, 10)
    QTest.mouseClick(window.welcome.demo, Qt.MouseButton.LeftButton)
    view = window.view
    assert view is not None
    desk = view.desk
    wait(lambda: not desk.jobs.busy)
    for _ in range(6):
        QTest.mouseClick(view.strip.go_on, Qt.MouseButton.LeftButton)
        wait(lambda: not desk.jobs.busy)
    assert view.strip.go_on.text() == "All done", view.strip.go_on.text()
    view.navigation.show_page("Score")
    desk.select(desk.project.segments[1].id)
    view.page.score.setFocus()
    QTest.keyClick(window, Qt.Key.Key_Return)
    wait(lambda: view.page.score.editor.isVisible(), 5)
    view.page.score.editor.selectAll()
    QTest.keyClicks(view.page.score.editor, "Die Uhr muss das wissen.")
    QTest.keyClick(view.page.score.editor, Qt.Key.Key_Return)
    version = desk.version
    assert version is not None
    takes = len(version.takes)
    for _ in range(3):
        QTest.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        wait(lambda: not desk.jobs.busy)
    assert desk.version is not None
    assert len(desk.version.takes) == takes + 1
    view.navigation.show_page("Score")
    canvas = view.page.score.viewport()
    assert canvas is not None
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=QPoint(canvas.width() // 4, canvas.height() // 2))
    QTest.qWait(300)
    screen = app.primaryScreen()
    assert screen is not None
    screen.grabWindow(0).save(sys.argv[1])
    window.close()
    print("driven to the end")


if __name__ == "__main__":
    main()
