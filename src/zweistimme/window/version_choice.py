"""The versions in the strip: side by side as long as they fit, else the one on the desk with a list of all."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QAction, QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QMenu, QPushButton, QSizePolicy, QToolButton, QWidget

from zweistimme.messages import tr
from zweistimme.project.languages import own_name
from zweistimme.project.model import Version
from zweistimme.project.progress import Step, progress
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import TITLE_PT, font, px

_SPACE = 6


class VersionChoice(QWidget):
    """A button for each version, and one to add another."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.buttons: dict[str, QPushButton] = {}
        self._group = QButtonGroup(self)
        self.list = QPushButton()
        self.list.setObjectName("version")
        self.list.setToolTip(f"{tr('All versions, and how far they are.')} {tip('next_version')}")
        self._menu = QMenu(self.list)
        self._menu.aboutToShow.connect(self._show_all)
        self.list.setMenu(self._menu)
        self.more = QToolButton()
        self.more.setText("+")
        self.more.setFont(font(TITLE_PT))
        self.more.setToolTip(tr("Add a version, another language to dub into; or take one away"))
        self.more.setAccessibleName(tr("Add or remove a version"))
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(_SPACE)
        self._row.addWidget(self.list)
        self._row.addWidget(self.more)
        self._row.addStretch(1)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        desk.hidden_changed.connect(self.refresh)

    def minimumSizeHint(self) -> QSize:
        return QSize(self._width_of([self.list, self.more]), self.list.sizeHint().height())

    def sizeHint(self) -> QSize:
        return QSize(self._width_of([*self.buttons.values(), self.more]), self.list.sizeHint().height())

    def refresh(self) -> None:
        """Show the versions as they are."""
        versions, shown = self._desk.project.versions, self._desk.shown_versions()
        if shown != list(self.buttons):
            self._make_buttons(shown)
        for tag, button in self.buttons.items():
            button.setText(f"{own_name(tag, region=False)}\n{_fitted(self._desk, versions[tag])}")
            button.setChecked(tag == self._desk.tag)
        here = self.buttons.get(self._desk.tag)
        self.list.setText(here.text() if here else "")
        self.updateGeometry()
        self._fit()

    def _make_buttons(self, tags: list[str]) -> None:
        for button in self.buttons.values():
            self._group.removeButton(button)
            self._row.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = {}
        for place, tag in enumerate(tags):
            button = QPushButton()
            button.setObjectName("version")
            button.setCheckable(True)
            button.setToolTip(f"{tr('Put this version on the desk.')} {tip('next_version')}")
            button.clicked.connect(lambda _on=False, tag=tag: self._desk.show_version(tag))
            self._group.addButton(button)
            self._row.insertWidget(place, button)
            self.buttons[tag] = button

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Side by side where there is room for all."""
        many = self.sizeHint().width() > max(self.width(), px(90))
        for button in self.buttons.values():
            button.setVisible(not many)
        self.list.setVisible(many)

    @staticmethod
    def _width_of(widgets: list[QWidget]) -> int:
        return sum(widget.sizeHint().width() for widget in widgets) + _SPACE * (len(widgets) - 1)

    def _show_all(self) -> None:
        self._menu.clear()
        for tag in self._desk.shown_versions():
            version = self._desk.project.versions[tag]
            action = QAction(f"{own_name(tag)}\t{_fitted(self._desk, version)}", self._menu)
            action.setCheckable(True)
            action.setChecked(tag == self._desk.tag)
            action.triggered.connect(lambda _on=False, tag=tag: self._desk.show_version(tag))
            self._menu.addAction(action)


def _fitted(desk: Desk, version: Version) -> str:
    state = progress(desk.project, version)[Step.FIT]
    return tr("{done} of {total}", done=state.done, total=state.total) if state.total else tr("nothing yet")
