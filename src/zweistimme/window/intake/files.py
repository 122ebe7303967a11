"""The programme's files: asked for, brought in, and read on where that was cut short."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFileDialog, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.stages.intake import Intake
from zweistimme.window.bridge import Desk
from zweistimme.window.intake.programme import ProgrammeDialog

BRING_IN = msg_act("Bring in")
READ_AGAIN = msg_act("Read the sound again")
FIND_CUTS = msg_act("Find the cuts of the picture")


class ProgrammeFiles:
    """Asks which file, sound and bed, then runs the stage."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        self._desk, self._parent = desk, parent
        self._looked_through = ""
        """The sound whose picture is looked through for cuts, or was until somebody stopped it."""
        self._soon = QTimer(parent)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._go_on)
        self._soon.start(0)
        desk.jobs.ended.connect(lambda _run: self._find_cuts())

    def bring_in(self, intake: Intake) -> None:
        """Bring in the programme, again or for the first time."""
        from zweistimme.stages.bring_in import bring_in

        self._looked_through = ""  # it may be the same file, found again
        self._desk.jobs.start(BRING_IN, lambda work: bring_in(work, intake))

    def ask(self) -> None:
        """Ask which file, sound and bed the programme is to have; where its file is, if that is gone."""
        programme = self._desk.project.programme
        if programme is None:
            return
        path = Path(programme.sound.path)
        if not path.is_file():
            name, _ = QFileDialog.getOpenFileName(self._parent, tr("Where is {name} now?", name=path.name))
            if not name:
                return
            programme = replace(programme, sound=replace(programme.sound, path=name))
        try:
            dialog = ProgrammeDialog(programme, self._desk.project.source_tag, self._parent)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        if dialog.exec() and dialog.answer is not None:
            self.bring_in(dialog.answer)

    def pack(self) -> None:
        """Write the project as one file, to keep it or to send it."""
        from zweistimme.window.package_dialogs import PackingDialog

        dialog = PackingDialog(self._desk.document, self._parent)
        dialog.exec()
        if dialog.problem:
            self._desk.notice("error", dialog.problem)
        elif dialog.said:
            self._desk.notice("note", dialog.said)

    def close(self) -> None:
        """Begin nothing any more."""
        self._soon.stop()

    def _go_on(self) -> None:
        from zweistimme.stages.bring_in import gone, read_again, unfinished

        programme = self._desk.project.programme
        if programme is None or self._desk.jobs.busy:
            return
        intake = unfinished(self._desk.document.cache, programme)
        if intake is not None:
            self.bring_in(intake)
            return
        if gone(self._desk.document.cache, programme):
            self._desk.jobs.read(READ_AGAIN, read_again)
        self._find_cuts()

    def _find_cuts(self) -> None:
        """Look through a picture that nobody has looked through, beside whatever else is done. Whatever ends, the
        programme may be another; but what somebody stopped stays so until it is opened again."""
        from zweistimme.media.probe import is_quick
        from zweistimme.stages.cuts import cuts_wanted, find_cuts
        from zweistimme.stages.work import within_reach

        programme = self._desk.project.programme
        if programme is None or not cuts_wanted(programme):
            self._looked_through = ""
            return
        checksum = programme.sound.checksum
        if checksum == self._looked_through or is_quick(checksum) or self._desk.jobs.busy:
            return
        self._looked_through = checksum  # also where its file is gone: folders are not searched whenever something ends
        if within_reach(self._desk.document.cache, programme.sound):
            self._desk.jobs.read(FIND_CUTS, find_cuts, quiet=True)
