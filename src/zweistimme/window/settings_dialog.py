"""Settings of the whole desk: made from their declarations, found by typing, kept as soon as they are changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.settings import (
    DEVICE,
    LANGUAGE,
    PROJECTS,
    SETTINGS,
    THEME,
    Setting,
    Value,
    read_settings,
    write_settings,
)
from zweistimme.window.caches import Caches
from zweistimme.window.keys_table import KeysTable
from zweistimme.window.layouts import scrolled
from zweistimme.window.sound_device import output_names
from zweistimme.window.theme import TITLE_PT, Theme, font, px, theme_for, tint

_FIELD_WIDTH: Final = 270


class SettingsDialog(QDialog):
    """All settings, in groups; what does not have what is typed at the top is hidden. *dress_in* shows other
    colours."""

    def __init__(self, dress_in: Callable[[Theme], None], caches: Caches, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._dress_in = dress_in
        self._spoken = False
        self.setWindowTitle(tr("Settings"))
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("What do you want to set?"))
        self.search.setAccessibleName(tr("What do you want to set?"))
        self.search.textChanged.connect(self._find)
        self.said = QLabel()
        self.said.setWordWrap(True)
        tint(self.said, "hard")
        self.fields: dict[str, QWidget] = {}
        self.keys, self.caches = KeysTable(), caches
        self._rows: list[tuple[str, tuple[QWidget, ...]]] = []
        """What is shown together, with all its words."""
        content = QWidget()
        self._grid = QGridLayout(content)
        self._grid.setColumnStretch(2, 1)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(8)
        self._lay_out()
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(scrolled(content), 1)
        column.addWidget(self.said)
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(False)  # Return in a field is not meant for any of them
        self.resize(px(820), px(620))

    @property
    def makes_anew(self) -> bool:
        """Whether the window has to be made anew: for another language, other keys, or a project without its cache."""
        return self._spoken or self.keys.changed or self.caches.emptied

    def _lay_out(self) -> None:
        for group in dict.fromkeys(one.group for one in SETTINGS):
            members = [one for one in SETTINGS if one.group == group]
            self._head(tr(group), " ".join(f"{tr(one.title)} {tr(one.about)}" for one in members))
            for setting in members:
                self._add(setting)
        self._whole(tr("Caches"), self.caches, self.caches.words)
        self._whole(tr("Keys"), self.keys, self.keys.words)
        self._grid.setRowStretch(self._grid.rowCount(), 1)

    def _head(self, words: str, below: str) -> None:
        label = QLabel(words)
        label.setFont(font(TITLE_PT, bold=True))
        label.setContentsMargins(0, px(8), 0, 0)
        self._grid.addWidget(label, self._grid.rowCount(), 0, 1, 3)
        self._rows.append((f"{words} {below}", (label,)))

    def _whole(self, title: str, widget: QWidget, words: str) -> None:
        self._head(title, words)
        self._grid.addWidget(widget, self._grid.rowCount(), 0, 1, 3)
        self._rows.append((f"{title} {words}", (widget,)))

    def _add(self, setting: Setting) -> None:
        row = self._grid.rowCount()
        title, about = QLabel(tr(setting.title)), QLabel(tr(setting.about))
        for label in (title, about):
            label.setContentsMargins(0, px(5), 0, 0)  # on the line of the field's words
        about.setWordWrap(True)
        about.setProperty("faded", True)
        field = self._field(setting)
        field.setFixedWidth(px(_FIELD_WIDTH))
        title.setBuddy(self.fields[setting.id])
        for place, widget in enumerate((title, field, about)):
            self._grid.addWidget(widget, row, place, alignment=Qt.AlignmentFlag.AlignTop)
        choices = " ".join(map(tr, (setting.choices or {}).values()))
        self._rows.append((f"{title.text()} {about.text()} {tr(setting.group)} {choices}", (title, field, about)))

    def _field(self, setting: Setting) -> QWidget:
        value = read_settings().value(setting)
        made = self._choice(setting, value) if setting.choices or setting is DEVICE else self._written(setting, value)
        field = self.fields.setdefault(setting.id, made)
        field.setAccessibleName(tr(setting.title))
        field.setToolTip(tr(setting.about))
        if setting is not PROJECTS:
            return made
        choose = QPushButton(tr("Choose …"))
        choose.clicked.connect(self._choose_folder)
        both = QWidget()
        row = QHBoxLayout(both)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(made, 1)
        row.addWidget(choose)
        return both

    def _choice(self, setting: Setting, value: Value) -> QComboBox:
        box = QComboBox()
        choices = setting.choices or {name: "" for name in ("", *output_names())}
        for key, words in choices.items():
            box.addItem(tr(words) if words else key or tr("as the system"), key)
        if box.findData(value) < 0:  # a device that is not plugged in just now
            box.addItem(tr("{name} (not there)", name=value), value)
        box.setCurrentIndex(box.findData(value))
        box.activated.connect(lambda: self.set(setting, box.currentData()))
        return box

    def _written(self, setting: Setting, value: Value) -> QWidget:
        if isinstance(value, bool):
            check = QCheckBox()
            check.setChecked(value)
            check.toggled.connect(lambda on: self.set(setting, on))
            return check
        line = QLineEdit(value)
        line.setPlaceholderText(tr("as it comes"))
        line.editingFinished.connect(lambda: self.set(setting, line.text().strip()))
        return line

    def _choose_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, tr("Folder for new projects"))
        line = self.fields[PROJECTS.id]
        if folder and isinstance(line, QLineEdit):
            line.setText(folder)
            self.set(PROJECTS, folder)

    def set(self, setting: Setting, value: Value) -> None:
        """Keep a setting and have it hold at once; what cannot be kept is said."""
        try:
            if read_settings().value(setting) != value:
                write_settings(read_settings().having(setting, value))
        except ZweistimmeError as error:
            self.said.setText(str(error))
            return
        self.said.clear()
        if setting is THEME:
            app = QApplication.instance()
            assert isinstance(app, QApplication)
            self._dress_in(theme_for(app, str(value)))
        elif setting is LANGUAGE:
            self._spoken = True
            self.accept()

    def _find(self, text: str) -> None:
        wanted = text.casefold().split()
        for words, widgets in self._rows:
            meant = all(word in words.casefold() for word in wanted)
            for widget in widgets:
                widget.setVisible(meant)
        self.keys.narrow(wanted)
