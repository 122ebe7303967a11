"""Other takes and other wordings of what is chosen, asked for anew; what that will cost is said before."""

from __future__ import annotations

from PyQt6.QtWidgets import QMessageBox, QWidget

from zweistimme.engines.offers import Cost
from zweistimme.messages import money, msg_act, tr
from zweistimme.project.progress import Step
from zweistimme.stages.estimate import asked_engines, estimated
from zweistimme.stages.pipeline import run_step
from zweistimme.window.bridge import Desk


class AskAgain:
    """What a person asks an engine for a second time."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        self._desk, self._parent = desk, parent

    def takes(self, times: int = 1) -> None:
        """Other takes of the chosen lines, so many of each; those there are stay."""
        self._ask(Step.TAKES, msg_act("Ask for another take"), times)

    def wordings(self) -> None:
        """Other wordings of the chosen lines; what a hand has written stays, the new ones are on offer."""
        self._ask(Step.TRANSLATION, msg_act("Ask for other wordings"))

    def _ask(self, step: Step, name: str, times: int = 1) -> None:
        ids, tag = self._desk.chosen_ids() * times, self._desk.tag
        if not ids or self._desk.version is None:
            return
        costs = [cost for cost in self._costs(step, ids) if cost.amount]
        if costs and not self._agreed(name, ids, costs):
            return
        self._desk.jobs.start(name, lambda work: run_step(work, step, tag, segment_ids=ids))

    def _costs(self, step: Step, ids: list[str]) -> list[Cost]:
        project, tag, tests = self._desk.project, self._desk.tag, self._desk.book.tests
        found = []
        for engine in asked_engines(project, tag, step, ids):
            info = tests[engine].info if engine in tests else None
            if info is not None:
                found.append(estimated(project, tag, step, engine, info, ids).cost)
        return found

    def _agreed(self, name: str, ids: list[str], costs: list[Cost]) -> bool:
        count = len(set(ids))
        lines = tr("this line") if count == 1 else tr("{n:line|lines}", n=count)
        price = " + ".join(money(cost.amount, cost.currency, 4) for cost in costs)
        words = tr("Asking anew for {lines} costs about {price}. What is there stays.", lines=lines, price=price)
        answer = QMessageBox.question(
            self._parent, name, words, QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        )
        return answer == QMessageBox.StandardButton.Yes
