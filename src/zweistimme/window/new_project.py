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

from zweistimme.media.probe import title_from
from zweistimme.messages import tr
from zweistimme.project.edits import add_version
from zweistimme.project.errors import EditError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project, Style
from zweistimme.stages.intake import Intake
from zweistimme.store.document import Document
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


def begun_document(wanted: NewProject, title: str = "") -> Document:
    """A project that has what was answered, and no programme yet; a ZweistimmeError where there can be none."""
    begun = Project(title or title_from(wanted.intake.media), wanted.source_tag)
    for tag in wanted.tags:
        begun = add_version(begun, tag, wanted.style)
    return Document.create(wanted.folder, begun)


def demo_wanted() -> tuple[NewProject, str]:
    """What would be answered for the demo, and its title."""
    from zweistimme.demo.script import BED, MEDIA, SOURCE, TARGETS, TITLE, data_file

    intake = Intake(data_file(MEDIA), bed=data_file(BED))
    return NewProject(free_folder(TITLE), SOURCE, TARGETS, Style.PHRASE_SYNC, intake), TITLE


class NewProjectDialog(QDialog):
    """Asked once, before a programme is brought in."""

    def __init__(self, media: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("New project: {name}", name=media.name))
        self.setMinimumWidth(640)
        self.source, self.targets, self.style_box = QComboBox(), QLineEdit("de-DE, es-ES"), QComboBox()
        self.source.setEditable(True)
        self.source.addItems(COMMON_TAGS)
        self.source.setToolTip(tr("The language spoken in the programme, with its region"))
        self.targets.setToolTip(tr("Languages to dub into, with commas between them; more can be added later"))
        for style in Style:
            self.style_box.addItem(tr(style.value), style.value)
        self.folder = QLineEdit(str(free_folder(media.stem)))
        self.intake = IntakeForm(media)
        form = QFormLayout(self)
        form.addRow(self.intake)
        form.addRow(tr("Spoken in"), self.source)
        form.addRow(tr("Dub into"), self.targets)
        form.addRow(tr("Style"), self.style_box)
        form.addRow(tr("Project folder"), self.folder)
        self.words = QLabel()
        self.words.setWordWrap(True)
        tint(self.words, "hard")
        form.addRow(self.words)
        buttons = QDialogButtonBox()
        self.begin = buttons.addButton(tr("Bring in"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton(tr("Not now"), QDialogButtonBox.ButtonRole.RejectRole)
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
            self.words.setText(tr("Give at least one language to dub into, such as de-DE."))
            return
        problem = self.intake.problem()
        if problem:
            self.words.setText(problem)
            return
        folder = Path(self.folder.text()).expanduser()
        style = Style(self.style_box.currentData())
        self.answer = NewProject(folder, source, tuple(dict.fromkeys(tags)), style, self.intake.intake())
        self.accept()

    def done(self, result: int) -> None:
        self.intake.close_parts()
        super().done(result)
