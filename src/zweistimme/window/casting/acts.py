"""What is done for the whole cast: voices proposed for everybody, and voices measured."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtWidgets import QHBoxLayout, QMessageBox, QWidget

from zweistimme.engines.offers import Cost, Role
from zweistimme.engines.registry import engine
from zweistimme.messages import money, msg_act, tr
from zweistimme.stages.cast import cast, measure
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.layouts import push_button


class CastActs(QWidget):
    """Buttons; that which measures only where there are voices that nobody has measured."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._unmeasured: Mapping[str, tuple[int, int]] = {}
        self.propose = push_button(tr("Propose for everybody"), self._propose)
        self.propose.setToolTip(tr("A voice for everybody whose voice nobody chose, all weighed against each other"))
        self.measure = push_button("", self._measure)
        self.measure.setToolTip(tr("Have them speak a sample, by which they are compared with people"))
        self.measure.hide()
        self.audition = push_button(tr("Auditions …"), lambda: None)
        self.audition.setToolTip(tr("Hear lines of the person on the map in several voices, beside the original"))
        self.sample = push_button(tr("From samples"), lambda: None)
        self.sample.setCheckable(True)
        self.sample.setToolTip(tr("Make a voice from samples of the person on the map, with their consent"))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.propose)
        row.addWidget(self.measure)
        row.addWidget(self.audition)
        row.addWidget(self.sample)
        row.addStretch(1)

    def count_unmeasured(self, unmeasured: Mapping[str, tuple[int, int]]) -> None:
        """Offer to measure voices: by an engine how many, and the characters that takes."""
        self._unmeasured, count = unmeasured, sum(count for count, _ in unmeasured.values())
        self.measure.setText(tr("Measure {n:voice|voices}", n=count))
        self.measure.setVisible(count > 0)

    def _propose(self) -> None:
        tag = self._desk.tag
        name = engine_for(self._desk.project, Role.SPEAK, tag)
        self._desk.jobs.start(msg_act("Cast voices"), lambda work: cast(work, engine(name), tag, name, anew=True))

    def _measure(self) -> None:
        """Have voices speak a sample, having said what it costs."""
        tag, names, told = self._desk.tag, list(self._unmeasured), []
        for name, (count, characters) in self._unmeasured.items():
            info = self._desk.book.info(name)
            cost = info.price.of(characters) if info is not None else Cost()
            if cost.amount:
                price = money(cost.amount, cost.currency)
                told.append(tr("{name}: {n:voice|voices}, some {price}", name=name, n=count, price=price))
        if told and not self._agreed(told):
            return

        def run(work: Work) -> None:
            for name in names:
                measure(work, engine(name), tag)

        self._desk.jobs.start(msg_act("Measure voices"), run)

    def _agreed(self, told: list[str]) -> bool:
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        words = tr("Each voice speaks a sample. That costs:") + "\n" + "\n".join(told)
        return QMessageBox.question(self, tr("Measure voices"), words, buttons) == QMessageBox.StandardButton.Yes
