"""Listening: the lanes, the player, what is repeated, and the captions under the picture."""

from __future__ import annotations

import time
from bisect import bisect_right
from collections.abc import Mapping
from functools import partial
from typing import Final

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from zweistimme.messages import msg_act, tr
from zweistimme.project.facts import loudness_by_hand
from zweistimme.project.model import Line, Project
from zweistimme.project.row_changes import changed_keys
from zweistimme.project.times import SECOND_US
from zweistimme.sound.arrays import Mono
from zweistimme.stages.mix.heard import AS_HANDED_OVER, HeardMix, Listening, measure_heard
from zweistimme.stages.work import working_file
from zweistimme.store.document import Change
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.intake.files import READ_AGAIN
from zweistimme.window.job_board import Run
from zweistimme.window.lanes import LaneMixer
from zweistimme.window.line_up import AS_IT_WAS
from zweistimme.window.near_captions import NearCaptions

MEASURE: Final = msg_act("Measure the mix")
_SETTLE_MS: Final = 250
_IDLE_MS: Final = 3_000
_SHORT_US: Final = 600 * SECOND_US
_RARELY_S: Final = 600.0
"""A long programme's whole mix is measured no more often; what changes in between moves its loudness little."""
_PRE_ROLL_US, _POST_ROLL_US = 600_000, 300_000


class Playback(QObject):
    """What is heard of the version on the desk."""

    loaded = pyqtSignal()
    """What there is to be heard of the version on the desk is another than before."""
    _opened = pyqtSignal(object)

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.mixer = LaneMixer(desk.document.clips, desk.document.cache, self._opened.emit)
        self.player = Player(self.mixer, self)
        self.captions = NearCaptions(desk, self)
        self.listening = AS_HANDED_OVER
        self._repeats = False
        self._whole_at_s: dict[str, float] = {}
        self._measured: dict[str, tuple[Project, bool]] = {}
        """The project as it was when each version's mix was measured, or was tried to be; and whether all of it was."""
        self._other = self._closed = self._picture_wanted = False
        self._settle, self._idle = (_single_shot(self, ms) for ms in (_SETTLE_MS, _IDLE_MS))
        self._settle.timeout.connect(self._look)
        self._idle.timeout.connect(self._measure)
        self._mix: HeardMix | None = None
        self._opened.connect(self._take_over)
        self.player.silent.connect(lambda words: desk.notice("note", words))
        self.player.moved.connect(self.captions.near)
        desk.selected.connect(self._selected)
        desk.changed.connect(self._changed)
        desk.version_changed.connect(lambda _tag: self.load())
        desk.jobs.ended.connect(self._ended)

    @property
    def lanes(self) -> tuple[str, ...]:
        """Lanes that have sound."""
        return tuple(self._mix.lanes) if self._mix else ()

    def load(self) -> None:
        """Take over the sound and the captions of the version on the desk."""
        project, tag = self._desk.project, self._desk.tag
        programme, version = project.programme, project.versions.get(tag)
        self.mixer.line_up.suit(dubbed=bool(version and version.placements))
        self._other = False
        self.mixer.load(project, tag, self.listening)
        self.player.end_us = float(programme.sound.duration_us) if programme else 0.0
        if version is not None:
            self.captions.near(self.player.position_us)
        self.repeat(self._repeats)
        self.loaded.emit()

    def listen(self, listening: Listening) -> None:
        """Hear the mix in another way from now on."""
        if listening != self.listening:
            self.listening = listening
            self.load()

    def _changed(self, change: Change) -> None:
        self._other = self._other or sounds_other(change, self._desk.tag)
        self._settle.start()

    def _look(self) -> None:
        if self._other:
            self.load()
        elif self._desk.version is not None:
            self.captions.near(self.player.position_us)

    def _take_over(self, mix: HeardMix) -> None:
        if self._closed:
            return
        self._mix = mix
        self._idle.start()
        self.loaded.emit()

    def want_picture(self, *, wanted: bool) -> None:
        """Somebody looks at the mix, and how loud it is over the programme is not known, whatever its gain is."""
        self._picture_wanted = wanted
        if wanted and not self._idle.isActive():
            self._idle.start()

    def _measure(self) -> None:
        """Have measured what is only guessed of how loud the mix is, while nothing else is done."""
        project, tag, mix = self._desk.project, self._desk.tag, self._mix
        programme = project.programme
        if mix is None or "Dub" not in mix.lanes or programme is None or self._desk.jobs.busy:
            return
        if not working_file(self._desk.document.cache, programme.sound).is_file():
            return
        since_s = time.monotonic() - self._whole_at_s.get(tag, -_RARELY_S)
        whole = (self._picture_wanted or not mix.gain_fits) and (
            programme.sound.duration_us <= _SHORT_US or since_s >= _RARELY_S
        )
        of, was_whole = self._measured.get(tag, (None, False))
        if of is project and (was_whole or not whole):  # what cannot be measured is not tried again as it is
            return
        if whole or not mix.levels_known:
            self._measured[tag] = project, whole
            if whole:
                self._picture_wanted = False
                self._whole_at_s[tag] = time.monotonic()
            self._desk.jobs.read(f"{MEASURE} {tag}", partial(measure_heard, tag=tag, whole=whole), quiet=True)

    def _ended(self, run: Run) -> None:
        if run.writes or (run.done and run.name.startswith((MEASURE, READ_AGAIN))):
            self.load()

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

    def select_heard(self, time_us: float) -> None:
        """Select the line that is heard at a time, the last that began where there are several."""
        segments = self._desk.project.segments
        place = bisect_right(segments, time_us, key=lambda segment: segment.start_us) - 1
        if place >= 0 and time_us < segments[place].end_us and segments[place].id != self._desk.segment_id:
            self._desk.select(segments[place].id)

    def step_frames(self, by: int) -> None:
        """Move the playhead by pictures, or by 40 ms where there are none."""
        programme = self._desk.project.programme
        picture = programme.picture if programme else None
        seconds = picture.rate_denominator / picture.rate_numerator if picture else 0.04
        self.player.step(by * seconds * SECOND_US)

    def hear_original(self) -> None:
        """Play the selected line's original alone."""
        segment = self._desk.segment()
        if segment is not None and not self.player.play_stretch(segment.start_us, segment.end_us, AS_IT_WAS):
            self._say_unheard()

    def hear_take(self, take_id: str | None = None) -> None:
        """Play a take alone; by default the selected line's."""
        version, line = self._desk.version, self._desk.line()
        wanted = take_id or (line.take_id if line else None)
        take = version.takes.get(wanted) if version and wanted else None
        if take is None:
            self._desk.notice("note", tr("This line has no take yet."))
            return
        self.hear(self._desk.document.clips.get(take.clip))

    def hear(self, samples: Mono, last: bool = True) -> None:
        """Play a clip on its own, or a piece of one; the *last* piece ends it."""
        if not self.player.play_alone(samples, last=last):
            self._say_unheard()

    def hear_along(self, samples: Mono, start_us: float) -> None:
        """Play a clip, with the picture as it is from a time on."""
        if not self.player.play_alone(samples, along_us=start_us):
            self._say_unheard()

    def _say_unheard(self) -> None:
        self._desk.notice("note", tr("There is no sound device here, so the clip cannot be heard."))

    def close(self) -> None:
        """End every thread."""
        self._closed = True
        self.player.close()
        self._settle.stop()
        self._idle.stop()
        self.captions.close()
        self.mixer.close()


def sounds_other(change: Change, tag: str) -> bool:
    """Whether a change of the project can be heard in a version."""
    before, after = change.before, change.after
    versions = before.versions.get(tag), after.versions.get(tag)
    if versions[0] is None or versions[1] is None:
        return versions[0] is not versions[1]
    parts = ("programme", "mix", "segments", "presets"), ("placements", "takes", "style", "mix", "presets", "manners")
    return (
        any(getattr(before, part) is not getattr(after, part) for part in parts[0])
        or any(getattr(versions[0], part) is not getattr(versions[1], part) for part in parts[1])
        or _lines_sound_other(versions[0].lines, versions[1].lines)
    )


def _lines_sound_other(before: Mapping[str, Line], after: Mapping[str, Line]) -> bool:
    """Whether somebody made a line louder, softer, or faded it."""
    keys = changed_keys(before, after)
    known = ((before.get(key), after.get(key)) for key in (before.keys() | after.keys() if keys is None else keys))
    return any(one and two and loudness_by_hand(one) != loudness_by_hand(two) for one, two in known)


def _single_shot(parent: QObject, ms: int) -> QTimer:
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(ms)
    return timer
