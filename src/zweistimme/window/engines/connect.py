"""Connecting a service, or whatever a file describes."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import (
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

from zweistimme.engines.connections import Connection, Kind
from zweistimme.engines.new_connection import connect_described, connect_python, connect_service
from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.window.theme import tint


class ConnectDialog(QDialog):
    """Asks for a name, a place and a token. *made* is the connection once it is kept."""

    def __init__(self, kind: Kind, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._kind = kind
        self.made: Connection | None = None
        self.setWindowTitle(tr("Connect a service") if kind is Kind.SERVICE else tr("Connect by a description"))
        self.setMinimumWidth(470)
        form = QFormLayout(self)
        self.name, self.place, self.token = QLineEdit(), QLineEdit(), QLineEdit()
        self.name.setPlaceholderText(tr("what it is to be called here"))
        form.addRow(tr("Name"), self.name)
        if kind is Kind.SERVICE:
            self.place.setPlaceholderText(tr("https://… or http://127.0.0.1:8766"))
            form.addRow(tr("Address"), self.place)
        else:
            form.addRow(tr("Description"), self._file_row())
            what = tr("A TOML file that says how a program is run, or how a service of another shape is asked; ")
            form.addRow(self._note(what + tr("or the factory of a Python engine. The manual shows all three.")))
        self.token.setEchoMode(QLineEdit.EchoMode.Password)
        self.token.setPlaceholderText(tr("if the service wants one"))
        form.addRow(tr("Token"), self.token)
        form.addRow(self._note(tr("The token goes into the desktop's secret store, nowhere else.")))
        self.words = self._note("")
        tint(self.words, "hard")
        form.addRow(self.words)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        ok = buttons.button(QDialogButtonBox.StandardButton.Ok)
        assert ok is not None
        ok.setText(tr("Connect"))
        buttons.accepted.connect(self._keep)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _note(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setWordWrap(True)
        label.setProperty("faded", True)
        return label

    def _file_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        choose = QPushButton(tr("Choose …"))
        choose.setToolTip(tr("Choose the TOML file"))
        choose.clicked.connect(self._choose)
        self.place.setPlaceholderText(tr("its TOML file, or module:factory"))
        row.addWidget(self.place, 1)
        row.addWidget(choose)
        return row

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, tr("Description of the engine"), "", tr("TOML files (*.toml)"))
        if path:
            self.place.setText(path)

    def _keep(self) -> None:
        """Keep the connection, or say what is wrong with it."""
        name, place, token = self.name.text().strip(), self.place.text().strip(), self.token.text()
        try:
            if self._kind is Kind.SERVICE:
                self.made = connect_service(name, place, token)
            elif ":" in place and not place.endswith(".toml"):
                self.made = connect_python(name, place)
            else:
                self.made = connect_described(name, Path(place), token)
        except ZweistimmeError as error:
            self.words.setText(str(error))
            return
        self.accept()
