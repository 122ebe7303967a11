"""The demo carried through its steps without a window: for pictures, and for tests."""

from __future__ import annotations

from pathlib import Path

from zweistimme.demo.script import BED, LINES, MEDIA, SOURCE, TARGETS, TITLE, data_file
from zweistimme.project.edits import add_version
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.project.speaker_edits import rename_speaker
from zweistimme.project.transcript import set_on_screen
from zweistimme.sentences import sentence_of
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.cuts import find_cuts
from zweistimme.stages.intake import Intake
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.work import Work
from zweistimme.store.document import Document


def work_on(document: Document, said: list[str] | None = None) -> Work:
    """A Work whose results go straight into *document*."""
    return Work.on(
        document,
        lambda label, edit: document.apply(label, edit, gesture=label) and None,
        say=lambda finding: None if said is None else said.append(sentence_of(finding)),
    )


def make_demo_project(folder: Path) -> None:
    """The demo, transcribed by the bundled recogniser, voiced and fitted in both versions."""
    project = Project(TITLE, SOURCE)
    for tag in TARGETS:
        project = add_version(project, tag)
    with Document.create(folder, project) as document:
        bring_in(work_on(document), Intake(data_file(MEDIA), bed=data_file(BED)))
        find_cuts(work_on(document))
        run_step(work_on(document), Step.TRANSCRIPT, TARGETS[0])
        for segment, line in zip(document.project.segments, LINES, strict=True):
            speaker = document.project.speakers[segment.speaker_id]
            if speaker.name.startswith("Speaker"):
                document.apply("Name", lambda p, s=speaker, n=line.speaker: rename_speaker(p, s.id, n))
            if not line.on_screen:
                document.apply("Off screen", lambda p, s=segment: set_on_screen(p, [s.id], False))
        for tag in TARGETS:
            for step in (Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
                run_step(work_on(document), step, tag)
