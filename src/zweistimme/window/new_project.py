"""What a new project needs to know: the language of the programme, and those it is to be dubbed into."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QWidget,
)

from zweistimme.project.errors import EditError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Style
from zweistimme.stages.intake import Intake
from zweistimme.window.intake import IntakeForm
from zweistimme.window.recent import free_folder
from zweistimme.window.theme import tint

COMMON_TAGS = ("en-GB", "en-US", "de-DE", "es-ES", "es-MX", "fr-FR", "it-IT", "pt-BR", "nl-NL", "pl-PL", "ja-JP")


@dataclass(frozen=True, slots=True)
class NewProject:
    """A person's answers."""

    folder: Path
    source_tag: str
    tags: tuple[str, ...]
    style: Style
    intake: Intake


class NewProjectDialog(QDialog):
    """Asked once, before a programme is brought in."""

    def __init__(self, media: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"New project: {media.name}")
        self.setMinimumWidth(640)
        self.source, self.targets, self.style_box = QComboBox(), QLineEdit("de-DE, es-ES"), QComboBox()
        self.source.setEditable(True)
        self.source.addItems(COMMON_TAGS)
        self.source.setToolTip("The language spoken in the programme, with its region")
        self.targets.setToolTip("Languages to dub into, with commas between them; more can be added later")
        self.style_box.addItems([style.value for style in Style])
        self.folder = QLineEdit(str(free_folder(media.stem)))
        self.intake = IntakeForm(media)
        form = QFormLayout(self)
        form.addRow(self.intake)
        form.addRow("Spoken in", self.source)
        form.addRow("Dub into", self.targets)
        form.addRow("Style", self.style_box)
        form.addRow("Project folder", self.folder)
        self.words = QLabel()
        self.words.setWordWrap(True)
        tint(self.words, "hard")
        form.addRow(self.words)
        buttons = QDialogButtonBox()
        self.begin = buttons.addButton("Bring in", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Not now", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._check)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.answer: NewProject | None = None

    def _check(self) -> None:
        try:
            source = language_tag(self.source.currentText().strip())
            tags = tuple(language_tag(tag.strip()) for tag in self.targets.text().split(",") if tag.strip())
        except EditError as error:
            self.words.setText(str(error))
            return
        if not tags:
            self.words.setText("Give at least one language to dub into, such as de-DE.")
            return
        problem = self.intake.problem()
        if problem:
            self.words.setText(problem)
            return
        folder = Path(self.folder.text()).expanduser()
        style = Style(self.style_box.currentText())
        self.answer = NewProject(folder, source, tuple(dict.fromkeys(tags)), style, self.intake.intake())
        self.accept()

    def done(self, result: int) -> None:
        self.intake.close_parts()
        super().done(result)
