"""Following the original: what nobody has settled is translated again once its original was corrected, where the
project wants that; while somebody is writing, everything waits."""

from __future__ import annotations

from typing import Final

from PyQt6.QtCore import QObject, QTimer

from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.messages import msg_act, tr
from zweistimme.project.edits import set_follow
from zweistimme.project.model import Project
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.translate import Only, open_translations, translate_version
from zweistimme.stages.work import Work
from zweistimme.store.document import Change
from zweistimme.window.bridge import Desk

_REST_MS: Final = 1_200
"""So long after the last correction, so that one who corrects line after line is not run behind."""
FOLLOWING: Final = msg_act("Translate what was corrected")


class Following(QObject):
    """Starts one run for all versions."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._go)
        desk.changed.connect(self._changed)

    def flip(self) -> None:
        """Follow, or hold."""
        follow = not self._desk.project.follow
        label = msg_act("Follow the original") if follow else msg_act("Hold the translation")
        self._desk.apply(label, lambda project: set_follow(project, follow))
        self._desk.notice(
            "done",
            tr("Corrections of the original are translated as you leave them, where nobody has settled the line.")
            if follow
            else tr("Corrections of the original wait until you have them translated."),
        )

    def _changed(self, change: Change) -> None:
        texts = change.before.segments is not change.after.segments
        if change.after.follow and (texts or not change.before.follow):
            self._rest.start()

    def _go(self) -> None:
        """Translate now, or later where somebody is writing or something else runs."""
        desk = self._desk
        if not desk.project.follow or not _tags(desk.project):
            return
        if desk.jobs.busy or desk.writing.going_on:
            self._rest.start()
            return
        desk.jobs.start(FOLLOWING, _translate_all)

    def close(self) -> None:
        self._rest.stop()


def _tags(project: Project) -> list[str]:
    """Versions with lines to follow."""
    return [tag for tag in project.versions if open_translations(project, tag, Only.STALE)]


def _translate_all(work: Work) -> None:
    for tag in _tags(work.project):
        translate_version(work, engine(engine_for(work.project, Role.TRANSLATE, tag)), tag, only=Only.STALE)
