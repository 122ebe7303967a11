"""Taking pictures of widgets for the documentation."""

from __future__ import annotations

import time
from pathlib import Path

from PyQt6.QtWidgets import QApplication, QWidget

OUT = Path(__file__).parents[1] / "docs" / "screenshots"


def settle(app: QApplication, seconds: float = 0.8) -> None:
    """Let the window work for a while."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)


def grab(widget: QWidget, name: str) -> None:
    """Save a picture of a widget, without what it happened to say of the way here."""
    from zweistimme.window.foot import Foot

    OUT.mkdir(parents=True, exist_ok=True)
    for foot in widget.findChildren(Foot):
        if not foot.errors:
            foot.clear()
    widget.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")
