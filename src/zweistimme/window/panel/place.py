"""Where the chosen lines are heard."""

from __future__ import annotations

from functools import partial
from typing import Final

from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.mix_settings import Place
from zweistimme.project.model import Segment
from zweistimme.project.transcript import set_place
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, font

PLACES: Final = {
    Place.AS_SEEN: (msg("as seen"), msg("near on screen, at a distance off screen")),
    Place.NEAR: (msg("near"), msg("without the distance of somebody off screen")),
    Place.FAR: (msg("far"), msg("at a distance, with all of the room")),
    Place.TELEPHONE: (msg("telephone"), msg("through a telephone")),
    Place.LOUDSPEAKER: (msg("loudspeaker"), msg("through a loudspeaker: radio, an announcement")),
}


class PlaceButton(QToolButton):
    """Says where the selected line is heard; opened, another place is given to all chosen lines, in every version."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.setFont(font(SMALL_PT))
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setToolTip(tr("Where the chosen lines are heard: choose all lines of a scene to give them a place"))
        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        for place, (words, about) in PLACES.items():
            action = menu.addAction(tr(words))
            assert action is not None
            action.setToolTip(tr(about))
            action.triggered.connect(partial(self.give, place))
        self.setMenu(menu)

    def show_segment(self, segment: Segment) -> None:
        """Show where it is heard."""
        words = tr(PLACES[segment.place][0])
        self.setText(words)
        self.setAccessibleName(tr("Heard: {place}", place=words))

    def give(self, place: Place, _checked: bool = False) -> None:
        """Give the chosen lines a place."""
        ids = self._desk.chosen_ids()
        self._desk.apply(msg_act("Set the place"), partial(set_place, segment_ids=ids, place=place))
