"""Killed while somebody edits in the window: every edit that was on the desk is there again."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from pathlib import Path

import numpy as np

from zweistimme.store.document import Document

EDITOR = """
import sys
from pathlib import Path
from PyQt6.QtTest import QTest
from zweistimme.project import edits
from zweistimme.window.app import make_app
from zweistimme.window.main_window import MainWindow
app = make_app()
window = MainWindow()
window.show()
window.open_project(Path(sys.argv[1]))
view = window.view
ids = [segment.id for segment in view.desk.project.segments]
for number in range(int(sys.argv[2]), 100_000):
    segment_id, text = ids[number % len(ids)], f"Satz Nummer {number}."
    view.desk.select(segment_id)
    view.page.score.edit("dub")
    view.page.score.editor.setPlainText(text)
    view.page.score.editor.finish()
    print(number, segment_id, text, sep="|", flush=True)
    QTest.qWait(1)
"""


def test_killed_while_editing_twenty_times(demo_folder: Path) -> None:
    random = np.random.default_rng(3)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    number = 0
    for _ in range(20):
        command = [sys.executable, "-c", EDITOR, str(demo_folder), str(number)]
        with subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=environment
        ) as process:
            assert process.stdout is not None
            said = [process.stdout.readline().strip() for _ in range(int(random.integers(1, 12)))]
            process.send_signal(signal.SIGKILL)
            said += [line.strip() for line in process.stdout if line.endswith("\n")]
        kept = {segment_id: text for _, segment_id, text in (line.split("|") for line in said)}
        number = int(said[-1].split("|")[0]) + 1
        with Document.open(demo_folder) as document:
            lines = document.project.versions["de-DE"].lines
            for segment_id, text in kept.items():
                newer = [f"Satz Nummer {number + k}." for k in range(3)]  # stored, but killed before it was said
                assert lines[segment_id].text in (text, *newer)
            assert document.undo_label() == "Write a line"
