"""The voice map made off the GUI thread: engines are asked what voices they have, and what was measured of each is
read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.engines.registry import answering
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Project
from zweistimme.stages.cast import on_offer, to_measure
from zweistimme.stages.cast.shortlist import shortlist
from zweistimme.stages.cast.voice_map import VoiceMap, voice_map
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk


@dataclass(frozen=True, slots=True)
class MadeMap:
    """A map, of which version it is, the list of voices that somebody likes, and by an engine how many of its voices
    nobody measured, with the characters that takes."""

    tag: str
    map: VoiceMap
    listed: dict[str, str]
    unmeasured: Mapping[str, tuple[int, int]]
    problem: str = ""


class MapMaker(QObject):
    """Makes the map of the version on the desk whenever people, voices or lines are others; ``made`` brings it."""

    made = pyqtSignal(object)

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._of: tuple[object, ...] = (None,) * 5
        self._making = Latest("voice map", self)
        self._making.ready.connect(self.made)

    def want(self, *, anew: bool = False) -> None:
        """Make it, if anything that it shows is another than the last time."""
        desk = self._desk
        project, version = desk.project, desk.version
        names = tuple(name for name, found in desk.book.tests.items() if found.info is not None)
        of = (desk.tag, names, (project.substitutes, project.refused), project.speakers, project.segments)
        same = self._of[:3] == of[:3] and all(a is b for a, b in zip(self._of[3:], of[3:], strict=True))
        if version is None or (same and not anew):
            return
        self._of = of
        self._making.want(partial(_made, project, desk.tag, names))

    def close(self) -> None:
        """Let the thread end."""
        self._making.close()


def _made(project: Project, tag: str, names: tuple[str, ...]) -> MadeMap:
    engines, problem = answering(names), ""
    offered = on_offer(project, tag, engines)
    try:
        listed = dict(shortlist())
    except ZweistimmeError as error:
        listed, problem = {}, str(error)
    open_ = {name: to_measure(project, tag, asked) for name, asked in engines.items()}
    unmeasured = {name: counts for name, counts in open_.items() if counts[0]}
    return MadeMap(tag, voice_map(project, tag, offered), listed, unmeasured, problem)
