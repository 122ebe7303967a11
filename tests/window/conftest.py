"""What every test of the window needs."""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterator
from pathlib import Path

import PyQt6.QtMultimedia  # noqa: F401 - it speaks while it is loaded: what hears that here may not wait for other imports
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from driving import opened, view_of
from zweistimme.window.main_window import MainWindow


@pytest.fixture(autouse=True, scope="module")
def _collector_rests() -> Iterator[None]:
    """The automatic collector runs on any thread: it stays off until the last window of a module is gone, for a closed
    one is kept by whoever tests it for a while, and a thread that still listens would collect it where it may not."""
    yield
    gc.collect()
    gc.enable()


@pytest.fixture(autouse=True)
def _collect_here() -> Iterator[None]:
    """Closed windows are collected on this thread."""
    yield
    gc.collect()


@pytest.fixture
def window(qtbot: QtBot, demo_folder: Path) -> Iterator[MainWindow]:
    """The window with the demo, the keyboard on the Score."""
    made = opened(qtbot, demo_folder)
    view_of(made).page.score.setFocus()
    yield made
    made.close_project()


@pytest.fixture
def press(window: MainWindow) -> Callable[..., None]:
    """Press a key on the Score."""

    def pressed(key: Qt.Key, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        score = view_of(window).page.score
        score.setFocus()
        QTest.keyClick(score, key, keys)

    return pressed
