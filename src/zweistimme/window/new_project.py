"""What a new project needs to know: the language of the programme, and those it is to be dubbed into."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from zweistimme.project.errors import EditError
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Style
from zweistimme.window.recent import free_folder
from zweistimme.window.theme import colour

COMMON_TAGS = ("en-GB", "en-US", "de-DE", "es-ES", "es-MX", "fr-FR", "it-IT", "pt-BR", "nl-NL", "pl-PL", "ja-JP")


@dataclass(frozen=True, slots=True)
class NewProject:
    """A person's answers."""

    media: Path
    folder: Path
    source_tag: str
    tags: tuple[str, ...]
    style: Style
    bed: Path | None


class NewProjectDialog(QDialog):
    """Asked once, before a programme is brought in."""

    def __init__(self, media: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._media = media
        self.setWindowTitle(f"New project: {media.name}")
        self.setMinimumWidth(520)
        self.source, self.targets, self.style_box = QComboBox(), QLineEdit("de-DE, es-ES"), QComboBox()
        self.source.setEditable(True)
        self.source.addItems(COMMON_TAGS)
        self.source.setToolTip("The language spoken in the programme, with its region")
        self.targets.setToolTip("Languages to dub into, with commas between them; more can be added later")
        self.style_box.addItems([style.value for style in Style])
        self.folder = QLineEdit(str(free_folder(media.stem)))
        self.bed = QLineEdit()
        self.bed.setPlaceholderText("none: the original is turned down")
        form = QFormLayout(self)
        form.addRow("Spoken in", self.source)
        form.addRow("Dub into", self.targets)
        form.addRow("Style", self.style_box)
        form.addRow("Bed (sound without speech)", self._with_button(self.bed))
        form.addRow("Project folder", self.folder)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setStyleSheet(f"color: {colour('hard').name()}")
        form.addRow(self.words)
        buttons = QDialogButtonBox()
        self.begin = buttons.addButton("Bring in", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Not now", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._check)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        self.answer: NewProject | None = None

    def _with_button(self, edit: QLineEdit) -> QWidget:
        row = QWidget()
        layout = QHBoxLayout(row)
        layout.setContentsMargins(0, 0, 0, 0)
        button = QPushButton("Choose …")
        button.clicked.connect(lambda: self._choose(edit))
        layout.addWidget(edit, 1)
        layout.addWidget(button)
        return row

    def _choose(self, edit: QLineEdit) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "The programme's sound without speech")
        if name:
            edit.setText(name)

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
        bed = Path(self.bed.text()).expanduser() if self.bed.text().strip() else None
        folder = Path(self.folder.text()).expanduser()
        style = Style(self.style_box.currentText())
        self.answer = NewProject(self._media, folder, source, tuple(dict.fromkeys(tags)), style, bed)
        self.accept()
