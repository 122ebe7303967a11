"""With which voices a version can be spoken: its own, those of related languages, none; which related ones may stand
in."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.cast_edits import refuse_stand_in
from zweistimme.project.edits import allow_substitutes
from zweistimme.project.languages import language_name, own_name
from zweistimme.stages.cast import Coverage, coverage
from zweistimme.window.bridge import Desk


def coverage_words(found: Coverage) -> str:
    """How a version is covered, in a few words.

    >>> coverage_words(Coverage(0, {"pt": 2, "es": 8}, ("pt",)))
    'no voice of its own; Spanish stands in'
    """
    if found.own:
        return tr("{n:voice|voices} of its own", n=found.own)
    allowed = [language_name(one) for one in found.related if one not in found.refused]
    if allowed:
        return tr("no voice of its own; {languages} stands in", languages=", ".join(allowed))
    return tr("no voice; related ones are refused") if found.related else tr("no voice")


class CoverageButton(QToolButton):
    """Says how the version is covered; its menu has the related languages, each to be refused, and the other
    versions."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setAccessibleName(tr("With which voices the version can be spoken"))
        self.setToolTip(
            tr("Which voices there are for this version and the others, and which related ones may stand in")
        )
        self.list = QMenu(self)
        self.list.aboutToShow.connect(self.build)
        self.setMenu(self.list)

    def refresh(self) -> None:
        """Say how it is."""
        tag = self._desk.tag
        self.setVisible(bool(tag))
        if tag:
            self.setText(tr("Voices: {coverage}", coverage=coverage_words(self._of(tag))))

    def _of(self, tag: str) -> Coverage:
        return coverage(self._desk.project, tag, [voice for _, voice in self._desk.book.voices()])

    def build(self) -> None:
        """The related languages of the version, and how all versions are covered."""
        self.list.clear()
        project, tag = self._desk.project, self._desk.tag
        found = self._of(tag)
        if found.related:
            self._tick(tr("Related voices may stand in"), project.substitutes, self._allow_all)
            for related, count in found.related.items():
                words = tr("{language}: {n:voice|voices}", language=language_name(related), n=count)
                ticked = related not in found.refused
                self._tick(words, ticked, partial(self._allow, related), enabled=project.substitutes)
            self.list.addSeparator()
        for other in project.versions:
            action = self.list.addAction(f"{own_name(other)}: {coverage_words(self._of(other))}")
            assert action is not None
            action.triggered.connect(partial(self._desk.show_version, other))

    def _tick(self, words: str, on: bool, act: Callable[[bool], None], *, enabled: bool = True) -> None:
        action = self.list.addAction(words)
        assert action is not None
        action.setCheckable(True)
        action.setChecked(on)
        action.setEnabled(enabled)
        action.toggled.connect(act)

    def _allow_all(self, allowed: bool) -> None:
        label = msg_act("Allow related voices") if allowed else msg_act("Refuse related voices")
        self._desk.apply(label, partial(allow_substitutes, allowed=allowed))

    def _allow(self, related: str, allowed: bool) -> None:
        label = msg_act("Allow related voices") if allowed else msg_act("Refuse related voices")
        edit = partial(refuse_stand_in, tag=self._desk.tag, related=related, refused=not allowed)
        self._desk.apply(label, edit)
