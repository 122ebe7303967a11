"""What is done for the whole cast: voices proposed for everybody, and voices measured."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QMessageBox, QWidget

from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.messages import money, msg_act, tr
from zweistimme.stages.cast import cast, measure, to_measure
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import push_button


class CastActs(QWidget):
    """Two buttons; the second only where there are voices that nobody has measured."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.propose = push_button(tr("Propose for everybody"), self._propose)
        self.propose.setToolTip(tr("A voice for everybody whose voice nobody chose, all weighed against each other"))
        self.measure = push_button("", self._measure)
        self.measure.setToolTip(tr("Have them speak a sample, by which they are compared with people"))
        self.measure.hide()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.propose)
        row.addWidget(self.measure)
        row.addStretch(1)

    def count_unmeasured(self, count: int) -> None:
        """Offer to measure so many voices."""
        self.measure.setText(tr("Measure {n:voice|voices}", n=count))
        self.measure.setVisible(count > 0)

    def _propose(self) -> None:
        tag = self._desk.tag
        name = engine_for(self._desk.project, Role.SPEAK, tag)
        self._desk.jobs.start(msg_act("Cast voices"), lambda work: cast(work, engine(name), tag, name, anew=True))

    def _measure(self) -> None:
        """Have voices speak a sample, having said what it costs."""
        project, tag = self._desk.project, self._desk.tag
        infos = {name: test.info for name, test in self._desk.book.tests.items() if test.info is not None}
        open_ = {name: to_measure(project, tag, engine(name)) for name in infos}
        costs = {name: infos[name].price.of(characters) for name, (_, characters) in open_.items()}
        told = [
            tr(
                "{name}: {n:voice|voices}, some {price}",
                name=name,
                n=open_[name][0],
                price=money(cost.amount, cost.currency),
            )
            for name, cost in costs.items()
            if cost.amount
        ]
        if told and not self._agreed(told):
            return

        def run(work: Work) -> None:
            for name, (count, _) in open_.items():
                if count:
                    measure(work, engine(name), tag)

        self._desk.jobs.start(msg_act("Measure voices"), run)

    def _agreed(self, told: list[str]) -> bool:
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        words = tr("Each voice speaks a sample. That costs:") + "\n" + "\n".join(told)
        return QMessageBox.question(self, tr("Measure voices"), words, buttons) == QMessageBox.StandardButton.Yes
