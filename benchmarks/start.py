"""Starting: the window, and commands; each in a process of its own."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.long import long_project
from benchmarks.timing import Rows, figure, once
from zweistimme.store.document import Document

_BARE = (
    "import time; t=time.perf_counter()\nfrom PyQt6.QtWidgets import QApplication, QMainWindow as window_class\n"
    "app = QApplication([])"
)
_OURS = (
    "import time; t=time.perf_counter()\nfrom zweistimme.window.app import make_app\napp = make_app()\n"
    "from zweistimme.window.main_window import MainWindow as window_class"
)
_SHOW = "\nw = window_class()\nw.show()\nfor _ in range(5): app.processEvents()\nprint(time.perf_counter() - t)\n"
_COMMAND = "from zweistimme.cli.main import main; main()"
_RUNS = 4


def environment() -> dict[str, str]:
    """As a user has it: compiled modules are kept."""
    return {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}


def start() -> Rows:
    """From the start of the code to the first paint, offscreen; commands from the start of their process to its end."""
    times = {name: min(_shown(code) for _ in range(_RUNS)) for name, code in (("ours", _OURS), ("bare", _BARE))}
    against = f"an empty Qt window {times['bare'] * 1000:.0f} ms; wanted: 250 ms"
    yield figure("window shown", times["ours"] * 1000, "ms", against)
    nothing = _command("-c", "pass")
    yield figure(
        "--help", _command("-c", _COMMAND, "--help") * 1000, "ms", f"Python {nothing * 1000:.0f} ms; wanted: 350 ms"
    )
    with tempfile.TemporaryDirectory() as folder:
        Document.create(Path(folder) / "p", long_project(500)).close()
        taken = _command("-c", _COMMAND, "status", f"{folder}/p")
        yield figure("status of 500 segments", taken * 1000, "ms", f"Python {nothing * 1000:.0f} ms; wanted: 500 ms")


def _shown(code: str) -> float:
    command = [sys.executable, "-c", code + _SHOW]
    return float(subprocess.run(command, check=True, capture_output=True, text=True, env=environment()).stdout)


def _command(*arguments: str) -> float:
    command = [sys.executable, *arguments]
    return min(
        once(lambda: subprocess.run(command, check=True, capture_output=True, env=environment())) for _ in range(_RUNS)
    )
