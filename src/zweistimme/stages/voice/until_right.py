"""Takes asked for again until they are right, within bounds: so many tries, so much money. The best of a line stays
chosen, whenever it was made."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial

from zweistimme.project.edits import choose_take
from zweistimme.project.errors import PartlyDone
from zweistimme.project.facts import fresh_take
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.stages.voice.by_engine import voice
from zweistimme.stages.voice.heard_back import TakeHeard, hear_back
from zweistimme.stages.work import Work
from zweistimme.store.document import Edit


@dataclass(frozen=True, slots=True)
class Bounds:
    """How far one goes: the *score* that is good enough, *tries* at most for a line, and *amount* at most for all of
    them together (None: as long as there are tries)."""

    score: float = 95.0
    tries: int = 3
    amount: float | None = None


def again_until_right(
    work: Work,
    tag: str,
    segment_ids: Iterable[str] | None = None,
    bounds: Bounds = Bounds(),
    took: Callable[[TakeHeard], None] = lambda _heard: None,
) -> list[TakeHeard]:
    """Hear takes back, ask again for those that are not good enough, and hear these, until all are or the bounds are
    reached. How the lines are heard at the end, the worst first."""
    now = _Now(work)
    heard = {one.segment_id: one for one in hear_back(now.work(0.0, 0.3), tag, segment_ids, took)}
    spent = 0.0
    for number in range(bounds.tries):
        bad = [key for key, one in heard.items() if one.score < bounds.score]
        if not bad:
            break
        cost = _last_cost(now.project, tag, bad)
        if bounds.amount is not None and spent + cost > bounds.amount:
            work.say(Finding("again-beyond-amount", {"lines": len(bad), "amount": bounds.amount}))
            break
        part = 0.3 + 0.7 * number / bounds.tries, 0.3 + 0.7 * (number + 1) / bounds.tries
        try:
            voice(now.work(*part), tag, bad)
        except PartlyDone as error:
            work.say(error.finding)
        for one in hear_back(now.work(part[1], part[1]), tag, bad, every=True):
            if one.segment_id not in heard or one.score > heard[one.segment_id].score:
                heard[one.segment_id] = one
                took(one)
        spent += _last_cost(now.project, tag, bad)
    for one in heard.values():
        if now.project.versions[tag].lines[one.segment_id].take_id != one.take_id:
            now.deliver("Choose a take", partial(choose_take, tag=tag, take_id=one.take_id))
    work.report(1.0)
    return sorted(heard.values(), key=lambda one: one.score)


class _Now:
    """The project as it is by now, with what this run has delivered."""

    def __init__(self, work: Work) -> None:
        self._work = work
        self.project: Project = work.project

    def deliver(self, label: str, edit: Edit) -> None:
        """Deliver, and follow."""
        self.project = edit(self.project)
        self._work.deliver(label, edit)

    def work(self, start: float, end: float) -> Work:
        """The run as it stands, for a part of the whole."""
        return replace(self._work, project=self.project, deliver=self.deliver, report=self._work.part(start, end))


def _last_cost(project: Project, tag: str, segment_ids: Iterable[str]) -> float:
    """What the chosen takes of lines cost: about what others will."""
    version, wanted = project.versions[tag], set(segment_ids)
    takes = (fresh_take(project, version, one) for one in project.segments if one.id in wanted)
    return sum(take.maker.amount for take in takes if take is not None and take.maker is not None)
