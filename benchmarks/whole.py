"""The whole chain, the window, and memory; each in a process of its own."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile

from benchmarks.timing import Rows, seconds
from zweistimme.demo.script import BED, MEDIA, SCRIPT, data_file
from zweistimme.formats.transcripts import read_transcript
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.edits import add_version
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.project.times import RATE
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix import write_mix
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.transcribe import transcript_from_file
from zweistimme.stages.work import Deliver, Work
from zweistimme.store.document import Document, Edit


def demo() -> Rows:
    """From media to hand-over, two versions."""
    with tempfile.TemporaryDirectory() as folder:
        began = time.perf_counter()
        subprocess.run(
            [
                sys.executable, "-c", "from zweistimme.cli.main import main; main()", "dub", str(data_file(MEDIA)),
                "--from", "en-GB", "--to", "de-DE", "--to", "es-ES", "--bed", str(data_file(BED)), "--out", folder,
            ],
            check=True, capture_output=True,
        )  # fmt: skip
        taken = time.perf_counter() - began
    yield "media to hand-over, two versions", f"{85 / taken:.1f} x real time", f"{taken:.1f} s for 85 s"


def mix() -> Rows:
    """One version's mix and stem over a bed, from fitted clips; against decoding the programme alone."""
    with tempfile.TemporaryDirectory() as folder:
        project = Path(folder) / "p"
        with Document.create(project, add_version(Project("Mix", "en-GB"), "es-ES")) as document:

            def work() -> Work:
                return Work.on(document, _applied(document))

            bring_in(work(), Intake(data_file(MEDIA), bed=data_file(BED)))
            transcript_from_file(work(), read_transcript(data_file(SCRIPT)), data_file(SCRIPT))
            for step in (Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
                run_step(work(), step, "es-ES")
            paths = Path(folder) / "mix.wav", Path(folder) / "voice.wav"
            taken = seconds(lambda: write_mix(work(), "es-ES", *paths))
    decode = seconds(lambda: [None for _ in decoded_blocks(data_file(MEDIA), DecodeNotes())])
    yield "mix and voice stem", f"{85 / taken:.0f} x real time", f"decoding alone {85 / decode:.0f} x"


def _applied(document: Document) -> Deliver:
    def deliver(label: str, edit: Edit) -> None:
        document.apply(label, edit)

    return deliver


_BARE = (
    "import time; t=time.perf_counter()\nfrom PyQt6.QtWidgets import QApplication, QMainWindow as window_class\n"
    "app = QApplication([])"
)
_OURS = (
    "import time; t=time.perf_counter()\nfrom zweistimme.window.app import make_app\napp = make_app()\n"
    "from zweistimme.window.main_window import MainWindow as window_class"
)
_SHOW = "\nw = window_class()\nw.show()\nfor _ in range(5): app.processEvents()\nprint(time.perf_counter() - t)\n"


def window() -> Rows:
    """From the start of the process to the first paint, offscreen; against an empty window."""
    times = {}
    for name, code in (("ours", _OURS), ("bare", _BARE)):
        runs = [
            float(
                subprocess.run([sys.executable, "-c", code + _SHOW], check=True, capture_output=True, text=True).stdout
            )
            for _ in range(4)
        ]
        times[name] = min(runs)
    yield "window shown", f"{times['ours'] * 1000:.0f} ms", f"an empty Qt window {times['bare'] * 1000:.0f} ms"


_BRING_IN = """
import json, sys, time
from pathlib import Path
from zweistimme.project.model import Project
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.work import Work
from zweistimme.store.document import Document
with Document.create(Path(sys.argv[2]), Project("x", "en-GB")) as d:
    began = time.perf_counter()
    work = Work.on(d, lambda l, e: d.apply(l, e) and None)
    bring_in(work, Intake(Path(sys.argv[1])))
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0]) / 1024
    print(json.dumps([time.perf_counter() - began, peak]))
"""


def memory() -> Rows:
    """Bringing in a long file; against ten minutes."""
    figures = {}
    for hours in (1 / 6, 3.0):
        with tempfile.TemporaryDirectory() as folder:
            media = Path(folder) / "long.wav"
            _write_long(media, hours)
            answer = subprocess.run(
                [sys.executable, "-c", _BRING_IN, str(media), f"{folder}/p"], check=True, capture_output=True, text=True
            )
            figures[hours] = json.loads(answer.stdout)
    (short_taken, short_peak), (long_taken, long_peak) = figures.values()
    yield "three hours brought in: memory", f"{long_peak:.0f} MB", f"ten minutes {short_peak:.0f} MB"
    yield (
        "three hours brought in: time",
        f"{3 * 3600 / long_taken:.0f} x real time",
        f"ten minutes {600 / short_taken:.0f} x",
    )


def _write_long(path: Path, hours: float) -> None:
    block = (np.random.default_rng(0).standard_normal(60 * RATE) * 2000).astype(np.int16)
    with soundfile.SoundFile(path, "w", RATE, 1, "PCM_16") as file:
        for _ in range(round(hours * 60)):
            file.write(block)
