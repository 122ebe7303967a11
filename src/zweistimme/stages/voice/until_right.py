"""Takes asked for again until they are right, within bounds: so many tries, so much money. The best of a line stays
chosen, whenever it was made."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from zweistimme.project.edits import put_take_instead
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import chosen_take
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Take
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
    spent, own = 0.0, {one.take_id for one in heard.values()}
    for number in range(bounds.tries):
        bad = [key for key, one in heard.items() if one.score < bounds.score]
        if not bad or _beyond(work, bounds, spent + _cost(_chosen(now.project, tag, bad)), bad):
            break
        part = 0.3 + 0.7 * number / bounds.tries, 0.3 + 0.7 * (number + 1) / bounds.tries
        before = now.project.versions[tag].takes.keys()
        try:
            voice(now.work(*part), tag, bad)
        except EngineError as error:  # what was made until then is kept, and the best of it chosen
            work.say(error.finding)
        made = [take for key, take in now.project.versions[tag].takes.items() if key not in before]
        spent, own = spent + _cost(made), own | {take.id for take in made}
        if not made:
            break
        for one in hear_back(now.work(part[1], part[1]), tag, bad, every=True):
            if one.segment_id not in heard or one.score > heard[one.segment_id].score:
                heard[one.segment_id] = one
                took(one)
    takes = now.project.versions[tag].takes
    for one in heard.values():
        now.deliver("Choose a take", partial(put_take_instead, tag=tag, take=takes[one.take_id], known=own))
    work.report(1.0)
    return sorted(heard.values(), key=lambda one: one.score)


def _beyond(work: Work, bounds: Bounds, amount: float, bad: Sequence[str]) -> bool:
    """Whether asking again would cost more than it may; that is said."""
    if bounds.amount is None or amount <= bounds.amount:
        return False
    work.say(Finding("again-beyond-amount", {"lines": len(bad), "amount": bounds.amount}))
    return True


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


def _chosen(project: Project, tag: str, segment_ids: Iterable[str]) -> list[Take]:
    """The chosen takes of lines."""
    version = project.versions[tag]
    takes = (chosen_take(version, version.lines[key]) for key in segment_ids)
    return [take for take in takes if take is not None]


def _cost(takes: Iterable[Take]) -> float:
    """What takes cost: about what others will."""
    return sum(take.maker.amount for take in takes if take.maker is not None)
