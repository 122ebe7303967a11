"""What hearing takes back, asking again and auditions will cost, said before."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QMessageBox, QWidget

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import Cost, Role
from zweistimme.messages import money, tr
from zweistimme.project.languages import language_of
from zweistimme.project.progress import Step
from zweistimme.stages.audition import Wish, cost_of_auditions, open_auditions
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.estimate import asked_engines, estimated
from zweistimme.stages.voice.heard_back import cost_of_hearing
from zweistimme.window.bridge import Desk


def agreed_to_hear(parent: QWidget, desk: Desk, ids: Sequence[str] | None) -> bool:
    """Whether takes of these lines (None: of all) may be heard; asked only where that costs something."""
    return _agreed(parent, [_hearing(desk, ids)], tr("Hearing these takes back costs at most:"))


def agreed_to_ask_again(parent: QWidget, desk: Desk, ids: Sequence[str], tries: int) -> bool:
    """Whether takes of these lines may be asked for again, so many times at most, and heard."""
    project, tag, wanted = desk.project, desk.tag, list(ids) * tries
    costs = [
        estimated(project, tag, Step.TAKES, name, info, wanted).cost
        for name in asked_engines(project, tag, Step.TAKES, wanted)
        if (info := desk.book.info(name)) is not None
    ]
    heard = _hearing(desk, ids)
    costs.append(Cost(0, heard.seconds * tries, heard.amount * tries, heard.currency))
    return _agreed(parent, costs, tr("Asking again until these takes are right costs at most about:"))


def agreed_to_read(parent: QWidget, desk: Desk, name: str) -> bool:
    """Whether an engine may be asked for the tone of all wordings without a direction."""
    version, info = desk.version, desk.book.info(name)
    lines = version.lines.values() if version is not None else ()
    cost = info.price.of(sum(len(one.text) for one in lines if not one.direction)) if info is not None else Cost()
    return _agreed(parent, [cost], tr("Reading these wordings costs about:"), tr("Directions proposed"))


def agreed_to_audition(parent: QWidget, desk: Desk, wishes: Sequence[Wish]) -> bool:
    """Whether these auditions may be asked for; asked only where they cost something."""
    costs = cost_of_auditions(desk.project, desk.tag, wishes, desk.book.info)
    count = len(open_auditions(desk.project, desk.tag, wishes))
    words = tr("{n:line|lines} to be spoken; that costs about:", n=count)
    return _agreed(parent, [*costs.values()], words, tr("Auditions"))


def _hearing(desk: Desk, ids: Sequence[str] | None) -> Cost:
    name = engine_for(desk.project, Role.RECOGNISE, desk.tag)
    info = desk.book.info(name) if name != BUNDLED else None
    if info is None or language_of(desk.tag) not in {language_of(one) for one in info.recognises}:
        return Cost()
    return cost_of_hearing(desk.project, desk.tag, ids, info)


def _agreed(parent: QWidget, costs: Sequence[Cost], words: str, title: str = "") -> bool:
    told = " + ".join(money(cost.amount, cost.currency, 4) for cost in costs if cost.amount)
    if not told:
        return True
    buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
    answer = QMessageBox.question(parent, title or tr("Takes heard back"), f"{words} {told}", buttons)
    return answer == QMessageBox.StandardButton.Yes
