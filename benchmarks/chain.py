"""The whole chain step by step in a process of its own, each step's time and memory told as soon as it is done:
``python -m benchmarks.chain MEDIA BED FOLDER TAG …``. It asks nothing of the code but what has long been there, so that
it can be run with the source of an older revision too."""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

STEPS = ("start", "bring in", "listen", "transcribe", "translate", "cast", "voice", "fit", "hand over")


def _highest_mb() -> float:
    status = Path("/proc/self/status").read_text(encoding="ascii")
    return int(status.split("VmHWM:")[1].split()[0]) / 1024


def _told(name: str, work: Callable[[], object]) -> None:
    Path("/proc/self/clear_refs").write_text("5", encoding="ascii")  # the highest from here on
    began, used = time.perf_counter(), time.process_time()
    work()
    row = {"step": name, "s": time.perf_counter() - began, "cpu_s": time.process_time() - used, "mb": _highest_mb()}
    print(json.dumps(row), flush=True)


def main() -> None:
    """Dub a programme with its bed into each language."""
    media, bed, folder, *tags = sys.argv[1:]
    began = float(os.environ["CHAIN_BEGAN"])
    from zweistimme.cli import dub  # noqa: F401 - what a command loads before it begins
    from zweistimme.project.edits import add_version
    from zweistimme.project.model import Project
    from zweistimme.project.progress import Step
    from zweistimme.stages.advice import listen
    from zweistimme.stages.bring_in import bring_in
    from zweistimme.stages.handover import hand_over
    from zweistimme.stages.intake import Intake
    from zweistimme.stages.pipeline import run_step
    from zweistimme.stages.work import Work
    from zweistimme.store.document import Document, Edit

    project = Project("Chain", "en-GB")
    for tag in tags:
        project = add_version(project, tag)
    with Document.create(Path(folder) / "p", project) as document:

        def deliver(label: str, edit: Edit) -> None:
            document.apply(label, edit, gesture=label)

        def work() -> Work:
            return Work.on(document, deliver)

        row = {"step": "start", "s": time.time() - began, "cpu_s": time.process_time(), "mb": _highest_mb()}
        print(json.dumps(row), flush=True)
        _told("bring in", lambda: bring_in(work(), Intake(Path(media), bed=None if bed == "-" else Path(bed))))
        _told("listen", lambda: listen(work(), language=False))
        _told("transcribe", lambda: run_step(work(), Step.TRANSCRIPT, tags[0]))
        for name, step in (
            ("translate", Step.TRANSLATION),
            ("cast", Step.CAST),
            ("voice", Step.TAKES),
            ("fit", Step.FIT),
        ):
            _told(name, lambda step=step: [run_step(work(), step, tag) for tag in tags])  # type: ignore[misc]
        _told("hand over", lambda: hand_over(work(), tags, Path(folder) / "out"))


if __name__ == "__main__":
    main()
