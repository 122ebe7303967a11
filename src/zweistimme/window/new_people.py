"""Somebody new in the programme has no voice anywhere: that is said when they appear, not when takes are wanted."""

from __future__ import annotations

from zweistimme.messages import tr
from zweistimme.project.languages import own_name
from zweistimme.store.document import Change
from zweistimme.window.bridge import Desk


class NewPeople:
    """Says who has appeared and in which versions, of those that are cast, nobody speaks them yet."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        desk.changed.connect(self._look)

    def _look(self, change: Change) -> None:
        before, after = change.before, change.after
        if before.speakers is after.speakers or not before.speakers:
            return
        new = [one.name for key, one in after.speakers.items() if key not in before.speakers]
        keys = after.speakers.keys() - before.speakers.keys()
        open_ = [own_name(tag) for tag, one in after.versions.items() if one.cast and not keys <= one.cast.keys()]
        if new and open_:
            words = tr(
                "{names} has no voice yet in {versions}. Choose one on the Cast page.",
                names=", ".join(new), versions=", ".join(open_),
            )  # fmt: skip
            self._desk.notice("note", words)
