"""Writing a line where it stands on the Score, whichever way that is read: an editor laid over it that goes where it
goes."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRect
from PyQt6.QtWidgets import QWidget

from zweistimme.window.bridge import Desk
from zweistimme.window.score.editor import CardEditor
from zweistimme.window.shown_line import locked_words
from zweistimme.window.writing import Kind, Place


class InPlace:
    """One editor for one view of the lines."""

    def __init__(
        self,
        desk: Desk,
        canvas: QWidget,
        box_of: Callable[[Place], QRect | None],
        show_segment: Callable[[str], None],
        typed: Callable[[str], None],
    ) -> None:
        """On *canvas* the text of a place lies in ``box_of(place)``, if it is there at all; ``show_segment`` scrolls to
        one. *typed* is told of every letter of a wording."""
        self._desk, self._canvas = desk, canvas
        self._box_of, self._show_segment, self._tell = box_of, show_segment, typed
        self.editor = CardEditor(desk, canvas)
        self.editor.typed.connect(self._typed)

    @property
    def place(self) -> Place | None:
        """Where the text belongs that is being written."""
        return self.editor.place

    def begin(self, side: str) -> None:
        """Write the selected line; *side* is "original" or "dub"."""
        self._show_segment(self._desk.segment_id)
        segment, tag = self._desk.segment(), self._desk.tag
        if segment is None or (side == "dub" and self._desk.version is None):
            return
        line = self._desk.line()
        if side == "dub" and line is not None and line.locked:
            self._desk.notice("note", locked_words())
            return
        place = Place(Kind.ORIGINAL, segment.id) if side == "original" else Place(Kind.WORDING, segment.id, tag)
        box = self._box_of(place)
        if box is not None:
            self.editor.begin(place, self._desk.text_at(place), box)

    def follow(self) -> None:
        """The editor goes where its line goes, and stays where it is when that is gone."""
        place = self.editor.place
        if place is None:
            return
        if place.tag not in ("", self._desk.tag):
            self.editor.finish()
            return
        box = self._box_of(place)
        if box is not None:
            self.editor.draft.show(place, self._desk.text_at(place))
            if box != self.editor.geometry():
                self.editor.setGeometry(box)

    def _typed(self, text: str) -> None:
        place = self.editor.place
        if place is not None:
            self.follow()
            if not self._canvas.rect().intersects(self.editor.geometry()):
                self._show_segment(place.key)  # what is written stays in sight
            if place.kind is Kind.WORDING:
                self._tell(text)
