"""What the next step of the version on the desk will cost, for wherever a run is started."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from zweistimme.messages import money, tr
from zweistimme.project.progress import Step
from zweistimme.stages.estimate import Estimate, asked_engines, estimated, spent_on
from zweistimme.stages.pipeline import how_many, next_step
from zweistimme.window.bridge import Desk


@dataclass(frozen=True, slots=True)
class NextEstimates:
    """The estimates of the engines that the next step asks, and what a person should be warned of."""

    step: Step | None
    count: int = 0
    """How many things the step would make."""
    estimates: tuple[Estimate, ...] = ()
    warnings: tuple[str, ...] = ()

    @property
    def price(self) -> str:
        """The cost alone, short; empty if it is free."""
        paid = [e.cost for e in self.estimates if e.cost.amount]
        return " + ".join(money(cost.amount, cost.currency) for cost in paid)

    @property
    def sentence(self) -> str:
        """All of it in words."""
        if self.step is None:
            return tr("Nothing is left to be asked of an engine.")
        if not self.estimates:
            return (
                tr("Next: {step}.", step=tr(self.step.value))
                + " "
                + (" ".join(self.warnings) or tr("It asks no engine."))
            )
        parts = "; ".join(
            e.sentence if e.cost.amount else tr("{sentence}, free", sentence=e.sentence) for e in self.estimates
        )
        return " ".join([tr("Next: {step}.", step=tr(self.step.value)) + f" {parts}.", *self.warnings])


_latest: deque[tuple[tuple[object, ...], NextEstimates]] = deque(maxlen=4)


def next_estimates(desk: Desk) -> NextEstimates:
    """What the next step will ask, as far as its engines have answered. Several views ask after every edit, and while
    a job runs many times a second: the latest answers are kept, by the identity of what they were made from."""
    parts = (desk.project, desk.version, desk.book.tests)
    for made_from, known in list(_latest):
        if all(was is now for was, now in zip(made_from, parts, strict=True)):
            return known
    answer = _worked_out(desk)
    _latest.append((parts, answer))
    return answer


def _worked_out(desk: Desk) -> NextEstimates:
    project, tag = desk.project, desk.tag
    if desk.version is None:
        return NextEstimates(None)
    step = next_step(project, tag)
    if step is None:
        return NextEstimates(None)
    estimates, warnings = [], []
    for name in asked_engines(project, tag, step):
        found = desk.book.tests.get(name)
        if found is None or found.info is None:
            warnings.append(
                tr("{name} does not answer.", name=name)
                if found is None or found.problem
                else tr("{name} is being asked.", name=name)
            )
            continue
        one = estimated(project, tag, step, name, found.info)
        estimates.append(one)
        if found.usage is not None:
            warnings.append(one.left_words(found.usage))
    spent = "; ".join(one.sentence for one in spent_on(project, tag))
    if spent:
        warnings.append(tr("Paid so far for this version: {spent}.", spent=spent))
    count = how_many(project, tag, step)
    return NextEstimates(step, count, tuple(estimates), tuple(filter(None, warnings)))
