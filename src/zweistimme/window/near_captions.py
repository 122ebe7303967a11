"""The captions of the version on the desk around the playhead, laid out off the GUI thread. Only a stretch at a time: a
long programme's captions would keep the interpreter busy for seconds after every edit."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.model import Project
from zweistimme.project.times import SECOND_US
from zweistimme.stages.caption import dub_captions, rules_for
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk

_BEFORE_US, _AFTER_US = 40 * SECOND_US, 80 * SECOND_US
_EDGE_US = 20 * SECOND_US


class NearCaptions(QObject):
    """Ask for a time whenever the playhead moves; ``ready`` brings cues when there are others to show."""

    ready = pyqtSignal(object)

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._shown: tuple[object, ...] = (None, None, None)
        self._span = (0, 0)
        self._work = Latest("captions", self)
        self._work.ready.connect(self.ready)

    def close(self) -> None:
        """End the thread."""
        self._work.close()

    def near(self, time_us: float) -> None:
        """Have the captions around a time, if they are not there already."""
        project, version = self._desk.project, self._desk.version
        if version is None:
            return
        limits = project.caption_limits.get(version.tag)
        made_from = (project.segments, version, limits)
        same = all(was is now for was, now in zip(self._shown, made_from, strict=True))
        if same and self._span[0] + _EDGE_US <= max(time_us, _EDGE_US) and time_us < self._span[1] - _EDGE_US:
            return
        start = max(0, round(time_us) - _BEFORE_US)
        self._shown, self._span = made_from, (start, round(time_us) + _AFTER_US)
        part = _part_of(project, *self._span)
        rules = rules_for(version.tag, limits)
        self._work.want(partial(dub_captions, part, version.tag, self._desk.document.clips, rules))


def _part_of(project: Project, start_us: int, end_us: int) -> Project:
    """The project with the segments that start in a stretch alone."""
    first, last = (bisect_left(project.segments, time, key=lambda s: s.start_us) for time in (start_us, end_us))
    return replace(project, segments=project.segments[first:last])
