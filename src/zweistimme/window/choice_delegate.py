"""Cells in which one of a few things is chosen."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QAbstractItemModel, QModelIndex, QObject, Qt
from PyQt6.QtWidgets import QComboBox, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from zweistimme.messages import tr


class ChoiceDelegate(QStyledItemDelegate):
    """Shows the words of what is chosen, and a box to choose from; the cell's own text is what they stand for."""

    def __init__(self, words: Mapping[str, str], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._words = words

    def displayText(self, value: object, _locale: object) -> str:
        """The words, in the language of whoever reads them."""
        return tr(self._words.get(str(value), str(value)))

    def createEditor(
        self, parent: QWidget | None, _option: QStyleOptionViewItem, _index: QModelIndex
    ) -> QWidget | None:
        box = QComboBox(parent)
        for value, words in self._words.items():
            box.addItem(tr(words), value)
        return box

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentIndex(max(0, editor.findData(index.data(Qt.ItemDataRole.EditRole))))

    def setModelData(self, editor: QWidget | None, model: QAbstractItemModel | None, index: QModelIndex) -> None:
        if isinstance(editor, QComboBox) and model is not None:
            model.setData(index, editor.currentData(), Qt.ItemDataRole.EditRole)
