"""What the voice is to be called, what it speaks, whose it is and how that person allowed it."""

from __future__ import annotations

from datetime import date

from PyQt6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QWidget

from zweistimme.messages import tr
from zweistimme.stages.samples import MadeFrom


class ConsentForm(QWidget):
    """Fields; ``consent`` is what they say."""

    def __init__(self) -> None:
        super().__init__()
        self.name, self.engine = QLineEdit(), QComboBox()
        self.person, self.words, self.purpose = QLineEdit(), QLineEdit(), QLineEdit()
        self.given_on = QLineEdit(date.today().isoformat())
        self.name.setPlaceholderText(tr("what it is to be called"))
        self.person.setPlaceholderText(tr("whose voice it is"))
        self.words.setPlaceholderText(tr("how they allowed it, in their words"))
        self.purpose.setPlaceholderText(tr("what it may be used for"))
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(3)
        for words, field in (
            (tr("Name"), self.name), (tr("Made by"), self.engine), (tr("Person"), self.person),
            (tr("Consent"), self.words), (tr("For"), self.purpose), (tr("Given on"), self.given_on),
        ):  # fmt: skip
            field.setAccessibleName(words)
            form.addRow(words, field)

    def consent(self) -> MadeFrom:
        """What is written."""
        return MadeFrom(
            self.person.text().strip(), self.words.text().strip(), self.given_on.text().strip(),
            self.purpose.text().strip(), 0.0,
        )  # fmt: skip

    @property
    def complete(self) -> bool:
        """Whether a voice may be asked for."""
        return all(field.text().strip() for field in (self.name, self.person, self.words)) and self.dated

    @property
    def dated(self) -> bool:
        """Whether the day is one."""
        try:
            date.fromisoformat(self.given_on.text().strip())
        except ValueError:
            return False
        return True
