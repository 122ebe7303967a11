"""Where a version will be tight: of every line, before it is spoken, whether its wording can be said in its slot."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.project.facts import fresh_take, placement_is_stale
from zweistimme.project.model import Line, Placement, Preference, Project, Segment, Style, Version
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.pace import Pace
from zweistimme.stages.fit.slot import measured_length, voice_pace
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.strain import Strain, strain_of

Stretch = tuple[int, int, Strain]
_Origin = tuple[Segment, Line, Placement | None, Pace, Style, Preference]
_FIRST_MS: Final = 900
"""A project that was just opened is shown first."""
_REST_MS: Final = 300
_MANY: Final = 1_000
"""With so many segments it is counted once editing rests."""


@dataclass(frozen=True, slots=True)
class _Counted:
    version: Version
    stretches: tuple[Stretch, ...]


class Tightness(QObject):
    """Counts on a thread of its own; *stretches* are those of the version it was last done with."""

    counted = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._known: dict[tuple[str, str], tuple[_Origin, Strain]] = {}
        self._asked: tuple[object, object] | None = None
        self.stretches: tuple[Stretch, ...] = ()
        self._counting = Latest("tightness", self)
        self._counting.ready.connect(self._take_over)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self.count)
        self._rest.start(_FIRST_MS)
        for signal in (desk.changed, desk.version_changed):
            signal.connect(lambda _what: self._changed())

    def _changed(self) -> None:
        if len(self._desk.project.segments) > _MANY:
            self._rest.start(_REST_MS)
        elif not self._rest.isActive():
            self.count()

    def count(self) -> None:
        """Count anew, where the version or the transcript is another."""
        project, version = self._desk.project, self._desk.version
        asked = (project.segments, version)
        if self._asked is not None and all(a is b for a, b in zip(asked, self._asked, strict=True)):
            return
        self._asked = asked
        if version is not None:
            self._counting.want(lambda: _Counted(version, self._counted(project, version)))

    def _take_over(self, done: _Counted) -> None:
        if done.version.tag == self._desk.tag and done.stretches != self.stretches:
            self.stretches = done.stretches
            self.counted.emit()

    def _counted(self, project: Project, version: Version) -> tuple[Stretch, ...]:
        """On the thread: lines that are as they were are not looked at again, since there may be ten thousand."""
        paces: dict[tuple[str, str], Pace] = {}
        found = []
        for segment in project.segments:
            line = version.lines.get(segment.id)
            if line is None or not line.text:
                continue
            whose = segment.speaker_id, line.voice
            if whose not in paces:
                paces[whose] = voice_pace(project, version, segment)
            placement, pace = version.placements.get(segment.id), paces[whose]
            origin = (segment, line, placement, pace, version.style, version.preference)
            known = self._known.get((version.tag, segment.id))
            if known is None or not all(a is b for a, b in zip(known[0], origin, strict=True)):
                known = self._known[version.tag, segment.id] = origin, _strain(project, version, segment, line)
            if known[1] is not Strain.CALM:
                found.append((segment.start_us, segment.end_us, known[1]))
        return tuple(found)

    def close(self) -> None:
        self._rest.stop()
        self._counting.close()


def _strain(project: Project, version: Version, segment: Segment, line: Line) -> Strain:
    """As its take was placed, or, until there is one that says it, as long as its wording is expected to take."""
    placement = version.placements.get(segment.id)
    said = fresh_take(project, version, segment) is not None
    if placement is not None and said and not placement_is_stale(project, version, segment):
        return strain_of(placement)
    limits = limits_of(version)
    share = measured_length(project, version, segment, line.text).share
    if share <= 1:
        return Strain.CALM
    return Strain.FIRM if share <= limits.soft[1] / limits.comfort[1] else Strain.HARD
