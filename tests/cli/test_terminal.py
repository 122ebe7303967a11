"""On a terminal there are progress bars; a pipe gets quiet lines."""

from __future__ import annotations

import os
import pty
import select
import subprocess
import sys
import time
from pathlib import Path

COMMAND = [sys.executable, "-c", "from zweistimme.cli.main import main; main()"]


def test_progress_bars_on_a_terminal(demo_folder: Path) -> None:
    ours, theirs = pty.openpty()
    process = subprocess.Popen([*COMMAND, "fit", str(demo_folder)], stdin=theirs, stdout=theirs, stderr=theirs)
    os.close(theirs)
    seen = b""
    end = time.monotonic() + 60
    while time.monotonic() < end:
        if select.select([ours], [], [], 0.1)[0]:
            try:
                seen += os.read(ours, 4096)
            except OSError:
                break
        elif process.poll() is not None:
            break
    process.wait()
    os.close(ours)
    text = seen.decode()
    assert process.returncode == 0
    assert "Fit de-DE" in text
    assert "━" in text
    assert "18 lines placed" in text


def test_quiet_lines_in_a_pipe(demo_folder: Path) -> None:
    answer = subprocess.run([*COMMAND, "fit", str(demo_folder)], capture_output=True, text=True, check=True)
    assert "Fit de-DE …" in answer.stderr
    assert "━" not in answer.stderr
    assert "\x1b" not in answer.stdout + answer.stderr
