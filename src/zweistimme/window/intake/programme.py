"""The programme of a project, later: bring it in again, from another file, with another sound or another bed."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.programme import Programme
from zweistimme.stages.intake import Intake
from zweistimme.window.intake.form import IntakeForm
from zweistimme.window.theme import tint


class ProgrammeDialog(QDialog):
    """Shows what is used now; ``answer`` is what a person wants instead."""

    def __init__(self, programme: Programme, source_tag: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("The programme's file, sound and bed"))
        self.setMinimumWidth(640)
        sound, bed = programme.sound, programme.bed
        self.path = QLabel(sound.path)
        self.path.setTextFormat(Qt.TextFormat.PlainText)
        self.path.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        other = QPushButton(tr("Another file …"))
        other.setToolTip(tr("The programme from another file: a newer cut, or the same one somewhere else"))
        other.clicked.connect(self._ask_file)
        row = QHBoxLayout()
        row.addWidget(self.path, 1)
        row.addWidget(other)
        self.form = IntakeForm(Path(sound.path), source_tag)
        used = Intake(Path(sound.path), sound.pick, Path(bed.path) if bed else None)
        self.form.show_intake(Intake(used.media, used.sound, used.bed, bed.pick) if bed else used)
        keeps = QLabel(tr("Segments, lines and takes stay. What no longer fits is said when it has been read."))
        keeps.setProperty("faded", True)
        self.words = QLabel()
        self.words.setWordWrap(True)
        tint(self.words, "hard")
        buttons = QDialogButtonBox()
        self.begin = buttons.addButton(tr("Bring in"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(tr("Leave as it is"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._check)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(row)
        for widget in (self.form, keeps, self.words, buttons):
            column.addWidget(widget)
        self.answer: Intake | None = None

    def _ask_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("The programme"))
        if name:
            self.use_file(Path(name))

    def use_file(self, path: Path) -> None:
        """Take the programme from another file."""
        try:
            self.form.show_media(path)
        except ZweistimmeError as error:
            self.words.setText(str(error))
            return
        self.path.setText(str(path))
        self.words.setText("")

    def _check(self) -> None:
        problem = self.form.problem()
        if problem:
            self.words.setText(problem)
            return
        self.answer = self.form.intake()
        self.accept()

    def done(self, result: int) -> None:
        self.form.close_parts()
        super().done(result)
