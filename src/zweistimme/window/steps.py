"""The steps of the work, begun by hand, and what follows when one has ended."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject

from zweistimme.messages import msg_act, tr
from zweistimme.project.facts import spoken_segments
from zweistimme.project.progress import Step
from zweistimme.stages.pipeline import VERBS, next_step, run_step
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.handover_page import HandoverPage
from zweistimme.window.intake.files import BRING_IN
from zweistimme.window.job_board import Run
from zweistimme.window.navigation import Navigation
from zweistimme.window.pages import HANDOVER, SCORE, PageStack
from zweistimme.window.score_page import ScorePage
from zweistimme.window.transcribing.report import NAME as REPORT

LISTEN = msg_act("Listen to the programme")
_TALKATIVE = ("Transcript from", "Align", BRING_IN)
"""Jobs whose every sentence is worth reading."""


def _listen(work: Work) -> None:
    from zweistimme.stages.advice import listen  # what listens is loaded when it does

    listen(work)


class Steps(QObject):
    """Starts what is missing."""

    def __init__(self, desk: Desk, pages: PageStack, navigation: Navigation) -> None:
        super().__init__(pages)
        self._desk, self._pages, self._navigation = desk, pages, navigation
        desk.jobs.ended.connect(self._ended)

    def go_on(self) -> None:
        """Do the next thing that is missing."""
        desk = self._desk
        if desk.version is None:
            return
        step = next_step(desk.project, desk.tag)
        if step is None and not spoken_segments(desk.project):
            self._navigation.go_to_step(Step.TRANSCRIPT)
        elif step is Step.HANDOVER:
            self._navigation.show_page(HANDOVER)
            self.hand_over(Path(self._pages.of(HANDOVER, HandoverPage).folder.text()).expanduser())
        elif step is not None:
            tag = desk.tag
            name = f"{VERBS[step]} {'' if step is Step.TRANSCRIPT else tag}".strip()
            desk.jobs.start(name, lambda work: run_step(work, step, tag))

    def hand_over(self, folder: Path) -> None:
        """Write all files into a folder."""
        tag = self._desk.tag

        def stage(work: Work) -> None:
            run_step(work, Step.HANDOVER, tag, folder)

        self._desk.jobs.start("Hand over", stage)

    def _ended(self, run: Run) -> None:
        if not run.writes or not run.done:
            return
        if run.said and run.name.startswith(_TALKATIVE):
            self._pages.of(SCORE, ScorePage).report.show_said(run.words, run.sentences)
            self._navigation.open_panel(REPORT)
        elif not run.said:
            self._desk.notice("done", tr("{job}: done.", job=run.words))
        if run.name == BRING_IN:
            self._desk.jobs.read(LISTEN, _listen)
