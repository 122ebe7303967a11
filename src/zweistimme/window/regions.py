"""Where the programme has speech, found once off the GUI thread; and where of it no segment is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import numpy.typing as npt
from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.project.errors import Cancelled
from zweistimme.project.model import Project, Segment
from zweistimme.project.picks import sound_key
from zweistimme.stages.work import Work
from zweistimme.window.background import Latest
from zweistimme.window.times import SegmentTimes

_LEAST_OPEN_US = 350_000
Spans = npt.NDArray[np.int64]


class SpeechRegions(QObject):
    """Regions in microseconds, shape ``(k, 2)``; empty until they have arrived."""

    arrived = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.spans: Spans = np.empty((0, 2), dtype=np.int64)
        self._open: tuple[tuple[Segment, ...] | None, Spans] = (None, self.spans)
        self._segments: tuple[Segment, ...] = ()
        self._times = SegmentTimes()
        self._wanted = ""
        self._closed = False
        self._finder = Latest("speech regions", self)
        self._finder.ready.connect(self._take)

    def look(self, project: Project, work: Callable[[], Work]) -> None:
        """Take over a project's segments, and find the speech of its programme if that is not known."""
        self._segments = project.segments
        checksum = sound_key(project.programme.sound) if project.programme else ""
        if checksum and checksum != self._wanted:
            self._wanted = checksum
            self._finder.want(lambda: _found(replace(work(), report=self._unless_closed)))

    def close(self) -> None:
        """Stop looking."""
        self._closed = True
        self._finder.close()

    def _unless_closed(self, _share: float) -> None:
        if self._closed:
            raise Cancelled

    def _take(self, spans: object) -> None:
        assert isinstance(spans, np.ndarray)
        self.spans = spans
        self._open = (None, spans)
        self.arrived.emit()

    @property
    def open(self) -> Spans:
        """Speech that no segment covers, shape ``(k, 2)``."""
        if self._open[0] is not self._segments:
            self._times.follow(self._segments)
            self._open = (self._segments, _uncovered(self.spans, self._times.starts, self._times.ends))
        return self._open[1]

    def open_between(self, start_us: int, end_us: int) -> Spans:
        """The part of it that touches ``[start, end)``."""
        spans = self.open
        return spans[(spans[:, 1] > start_us) & (spans[:, 0] < end_us)]

    def nearest_edge(self, time_us: int, *, end: bool, within_us: int = 600_000) -> int | None:
        """The start, or end, of detected speech that is nearest to a time; None if none is near."""
        edges = self.spans[:, int(end)]
        if not len(edges):
            return None
        best = int(edges[np.abs(edges - time_us).argmin()])
        return best if abs(best - time_us) <= within_us else None


def _found(work: Work) -> Spans:
    from zweistimme.stages.transcribe import kept_regions

    return kept_regions(work)


def _uncovered(spans: Spans, starts: Spans, ends: Spans) -> Spans:
    """Regions without what segments cover, given by start; what is left at their edges does not count."""
    rows: list[tuple[int, int]] = []
    reach = np.maximum.accumulate(ends) if len(ends) else ends
    behind = np.searchsorted(starts, spans[:, 1], side="left")
    before = np.searchsorted(reach, spans[:, 0], side="right")
    for (start, end), low, high in zip(spans.tolist(), before.tolist(), behind.tolist(), strict=True):
        here = start
        for a, b in zip(starts[low:high].tolist(), ends[low:high].tolist(), strict=True):
            if a - here >= _LEAST_OPEN_US:
                rows.append((here, a))
            here = max(here, b)
        if end - here >= _LEAST_OPEN_US:
            rows.append((here, end))
    return np.array(rows, dtype=np.int64).reshape(-1, 2)
