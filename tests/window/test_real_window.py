"""One pass in a real X window: the whole demo, driven with mouse and keyboard from outside Qt's own test hooks."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = Path(__file__).with_name("drive_real_window.py")


@pytest.mark.realwindow
def test_the_demo_in_a_real_window(tmp_path: Path) -> None:
    """Starts a virtual X server and the real window in it; the driver presses, types and checks."""
    assert shutil.which("Xvfb"), "Xvfb is missing; make setup installs it"
    environment = {key: value for key, value in os.environ.items() if key != "QT_QPA_PLATFORM"}
    environment |= {"QT_QPA_PLATFORM": "xcb", "XDG_RUNTIME_DIR": str(tmp_path)}
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(write)
        with os.fdopen(read) as pipe:
            display = pipe.readline().strip()
        environment["DISPLAY"] = f":{display}"
        answer = subprocess.run(
            [sys.executable, str(SCRIPT), str(tmp_path / "window.png")],
            capture_output=True, text=True, env=environment, timeout=200, check=False,
        )  # fmt: skip
    finally:
        server.terminate()
        server.wait()
    assert answer.returncode == 0, answer.stdout + answer.stderr
    assert "driven to the end" in answer.stdout
    assert (tmp_path / "window.png").stat().st_size > 20_000
