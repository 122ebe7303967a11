"""Lines recorded one after the other: each begins by itself when the one before has ended; what went wrong is
struck."""

from __future__ import annotations

from collections import deque
from contextlib import suppress
from dataclasses import dataclass
from typing import Final, Protocol

from PyQt6.QtCore import QObject

from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.facts import chosen_take
from zweistimme.project.model import TakeKind
from zweistimme.sound.arrays import Mono
from zweistimme.stages.recording import Heard, heard, keep_take
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk

_SILENT_S: Final = 0.9
"""So long after the last word a line has ended."""
_OVER_ROOM_DB: Final = 12.0
_LEAST_DB: Final = -45.0
_LEAST_SHARE: Final = 0.4
"""Before so much of the original's length, a silence is a pause within the line."""


def lines_to_record(desk: Desk) -> list[str]:
    """The chosen lines that have a wording, where several are chosen; else what the person of the selected line says
    from it on, as far as nobody has recorded it."""
    version, segment = desk.version, desk.segment()
    if version is None or segment is None:
        return []
    chosen = [one for one in desk.chosen_ids() if one in version.lines and version.lines[one].text.strip()]
    if len(chosen) > 1:
        return chosen
    found = []
    for other in desk.project.segments:
        line = version.lines.get(other.id)
        if other.speaker_id != segment.speaker_id or other.start_us < segment.start_us or line is None:
            continue
        take = chosen_take(version, line)
        if line.text.strip() and (take is None or take.kind is not TakeKind.RECORDED or other.id == segment.id):
            found.append(other.id)
    return found


@dataclass(slots=True)
class LineEnd:
    """Tells when somebody has said a line: something was heard, and now nothing is."""

    room_db: float
    length_s: float
    rate: int
    _spoken: bool = False
    _silent_s: float = 0.0
    _lasts_s: float = 0.0

    def over(self, sound: Mono) -> bool:
        """Whether the line has ended, with this piece of sound more."""
        if not len(sound):
            return False
        seconds = len(sound) / self.rate
        self._lasts_s += seconds
        if heard(sound).peak_db > max(self.room_db + _OVER_ROOM_DB, _LEAST_DB):
            self._spoken, self._silent_s = True, 0.0
        elif self._spoken:
            self._silent_s += seconds
        return self._spoken and self._silent_s >= _SILENT_S and self._lasts_s >= _LEAST_SHARE * self.length_s


class Recorder(Protocol):
    """What a session has of the panel that records."""

    room: Heard

    @property
    def so_far(self) -> Mono | None: ...

    def record_line(self) -> bool: ...

    def stop(self) -> None: ...

    def show_session(self, words: str) -> None: ...


class Session(QObject):
    """Which line is recorded, which come, and what is to be stored."""

    def __init__(self, desk: Desk, recorder: Recorder) -> None:
        super().__init__()
        self._desk, self._recorder = desk, recorder
        self._coming: deque[str] = deque()
        self._kept: deque[tuple[str, str, Mono]] = deque()
        """Version, segment and sound of what is not stored yet."""
        self._last = self._tag = ""
        self._count = self._struck = 0
        self.on = False
        desk.jobs.ended.connect(lambda _run: self._store_next())
        desk.version_changed.connect(lambda _tag: self.end())

    @property
    def here(self) -> str:
        """The line that is recorded; empty where no session is on."""
        return self._coming[0] if self.on and self._coming else ""

    @property
    def words(self) -> str:
        """Where one is in it."""
        if not self.on:
            return ""
        struck = tr("{struck} struck.", struck=self._struck) if self._struck else ""
        return " ".join(filter(None, (tr("{n:line|lines} to go.", n=len(self._coming)), struck)))

    def begin(self) -> None:
        """Begin with the first line there is."""
        ids = lines_to_record(self._desk)
        if not ids:
            self._recorder.show_session(tr("There is no line with a wording to record from here on."))
            return
        self._coming, self._tag, self._last = deque(ids), self._desk.tag, ""
        self._count = self._struck = 0
        self.on = True
        self._recorder.show_session("")
        self._next_line()

    def _next_line(self) -> None:
        while self._coming and self._desk.place(self._coming[0]) is None:  # it was merged or deleted meanwhile
            self._coming.popleft()
        if not self._coming:
            self.end()
            return
        self._desk.select(self._coming[0])
        if not self._recorder.record_line():
            self.on = False

    def keep(self, sound: Mono) -> None:
        """This line is recorded; the next begins."""
        self._last = self._coming.popleft()
        self._kept.append((self._tag, self._last, sound))
        self._count += 1
        self._store_next()
        self._next_line()

    def _store_next(self) -> None:
        """Store what was recorded, one at a time: only one run may write."""
        if not self._kept or self._desk.jobs.busy:
            return
        tag, segment_id, sound = self._kept[0]
        room_db = self._recorder.room.level_db
        if self._desk.jobs.start("Record a take", lambda work: keep_take(work, tag, segment_id, sound, room_db)):
            self._kept.popleft()

    def close(self) -> None:
        """End it, and store what still waits for another run: nobody says it again."""
        self.end()
        work = Work.on(self._desk.document, lambda label, edit: self._desk.store(label, edit))
        while self._kept:
            tag, segment_id, sound = self._kept.popleft()
            with suppress(ZweistimmeError):  # its line is gone meanwhile
                keep_take(work, tag, segment_id, sound, self._recorder.room.level_db)

    def strike(self) -> None:
        """Say this line once more; before it has begun, the one before."""
        if not self.on:
            return
        if self._recorder.so_far is None and self._last:
            self._coming.appendleft(self._last)
            self._last = ""
            self._count -= 1
        self._struck += 1
        self._recorder.stop()
        self._next_line()

    def end(self) -> None:
        """End the session; what was recorded is stored."""
        if not self.on:
            return
        sound = self._recorder.so_far
        if sound is not None and len(sound) and self._coming:
            self._kept.append((self._tag, self._coming.popleft(), sound))
            self._count += 1
        self.on = False
        self._recorder.stop()
        self._store_next()
        self._recorder.show_session(tr("{n:line|lines} recorded, {struck} struck.", n=self._count, struck=self._struck))
