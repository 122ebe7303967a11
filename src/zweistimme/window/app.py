"""Start the window."""

from __future__ import annotations

import os
import signal
import sys
import threading
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.settings import LANGUAGE, THEME, read_settings
from zweistimme.window.actions import give_keys
from zweistimme.window.collector import collect_on_this_thread
from zweistimme.window.mishaps import catch
from zweistimme.window.speech import speak
from zweistimme.window.theme import DAY, apply_theme, theme_for


def make_app() -> QApplication:
    """The one QApplication, in the desk's clothes."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("Zweistimme")
    collect_on_this_thread(app)
    apply_theme(app, DAY)
    return app


def run(path: Path | None, *, demo: bool = False) -> int:
    """Show the window until it is closed; the exit code."""
    shown = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")
    if not shown:
        raise ZweistimmeError(
            "There is no display to open a window on. Use the commands instead: zweistimme dub --help."
        )
    app = make_app()
    from zweistimme.window.main_window import MainWindow, load_the_rest

    settings = read_settings()
    speak(app, settings.text(LANGUAGE))
    give_keys(settings.keys)
    apply_theme(app, theme_for(app, settings.text(THEME)))
    window = MainWindow()
    catch(window.say_error)
    window.show()
    QTimer.singleShot(0, threading.Thread(target=load_the_rest, daemon=True).start)
    if demo:
        QTimer.singleShot(0, window.open_demo)
    elif path is not None:
        QTimer.singleShot(0, lambda: window.open_path(path))
    signal.signal(signal.SIGINT, lambda *_: window.close())
    beat = QTimer()
    beat.start(200)
    beat.timeout.connect(lambda: None)  # lets Python see a Ctrl-C while Qt waits
    return app.exec()
