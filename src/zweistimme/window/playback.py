"""Listening: the lanes, the player, what is repeated, and the captions under the picture."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.sound.arrays import Mono
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.near_captions import NearCaptions

_SETTLE_MS = 250
_PRE_ROLL_US, _POST_ROLL_US = 600_000, 300_000


class Playback(QObject):
    """What is heard of the version on the desk."""

    loaded = pyqtSignal()
    """The sound of the version on the desk has been taken over."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.mixer = LaneMixer(desk.document.clips, desk.document.cache)
        self.player = Player(self.mixer, self)
        self.captions = NearCaptions(desk, self)
        self._repeats = False
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(self.load)
        self.player.silent.connect(lambda words: desk.notice("note", words))
        self.player.moved.connect(self.captions.near)
        desk.selected.connect(self._selected)
        desk.changed.connect(lambda _change: self._settle.start())
        desk.version_changed.connect(lambda _tag: self.load())

    def load(self) -> None:
        """Take over the sound and the captions of the version on the desk."""
        project, tag = self._desk.project, self._desk.tag
        programme, version = project.programme, project.versions.get(tag)
        original = self.mixer.states["Original"]
        if not original.by_hand:  # while nothing is dubbed, the original is what there is to hear
            original.mute = bool(version and version.placements)
        self.mixer.load(project, tag)
        self.player.end_us = float(programme.sound.duration_us) if programme else 0.0
        if version is not None:
            self.captions.near(self.player.position_us)
        self.loaded.emit()

    def _selected(self, segment_id: str) -> None:
        segment = self._desk.segment(segment_id)
        words = segment.words if segment else ()
        if segment is not None and not self.player.playing:
            self.player.seek(words[self._desk.word].start_us if self._desk.word < len(words) else segment.start_us)
        self.repeat(self._repeats)

    def repeat(self, on: bool) -> None:
        """Repeat the selected line, original and dub, or no more."""
        self._repeats = on
        segment, placed = self._desk.segment(), self._desk.placed()
        if not on or segment is None:
            self.player.loop = None
            return
        ends = [segment.end_us] + ([placed[0].start_us + placed[0].length_us] if placed else [])
        starts = [segment.start_us] + ([placed[0].start_us] if placed else [])
        self.player.loop = (max(0, min(starts) - _PRE_ROLL_US), max(ends) + _POST_ROLL_US)

    def to_selection(self) -> None:
        """The playhead to where the selected line begins."""
        segment = self._desk.segment()
        if segment is not None:
            self.player.seek(segment.start_us)

    def hear_take(self, take_id: str | None = None) -> None:
        """Play a take alone; by default the selected line's."""
        version, line = self._desk.version, self._desk.line()
        wanted = take_id or (line.take_id if line else None)
        take = version.takes.get(wanted) if version and wanted else None
        if take is None:
            self._desk.notice("note", "This line has no take yet.")
            return
        self.hear(self._desk.document.clips.get(take.clip))

    def hear(self, samples: Mono, last: bool = True) -> None:
        """Play a clip on its own, or a piece of one; the *last* piece ends it."""
        if not self.player.play_alone(samples, last=last):
            self._desk.notice("note", "There is no sound device here, so the clip cannot be heard.")

    def close(self) -> None:
        """End every thread."""
        self.player.pause()
        self._settle.stop()
        self.captions.close()
        self.mixer.close()
