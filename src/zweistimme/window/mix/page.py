"""The Mix page: what is heard of every lane over the programme, how loud it is, and how it is made."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from math import isfinite
from pathlib import Path
from typing import Final

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from zweistimme.messages import msg_act, tr
from zweistimme.project.access import find_version
from zweistimme.project.languages import own_name
from zweistimme.project.model import Project
from zweistimme.project.times import RATE
from zweistimme.stages.mix.gain import HOUSE, presets_for
from zweistimme.stages.mix.heard import Listening, measure_heard
from zweistimme.stages.mix.mix_picture import MixPicture, known_picture
from zweistimme.stages.mix.placed import placed_takes
from zweistimme.stages.mix.sitting import known_sitting
from zweistimme.stages.mix.track_levels import kept_energies
from zweistimme.stages.mix.write import write_stretch
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.layouts import scrolled
from zweistimme.window.line_up import LANES
from zweistimme.window.mix.columns import ROOM, MixColumns, columns_of
from zweistimme.window.mix.meters import Meters
from zweistimme.window.mix.settings import MixControls
from zweistimme.window.mix.view import MixView
from zweistimme.window.page import Page
from zweistimme.window.playback import MEASURE, Playback
from zweistimme.window.theme import TITLE_PT, font, px

_SETTLE_MS: Final = 120
_SIDE: Final = 288
PERSON: Final = "person:"


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """What was worked out to be shown, off the GUI thread."""

    tag: str
    preset: str
    columns: MixColumns
    picture: MixPicture | None


def _drawn(project: Project, tag: str, cache: Path, preset: str) -> Drawn:
    version = find_version(project, tag)
    picture = known_picture(cache, project, tag)
    original = kept_energies(cache, project.programme.sound) if project.programme else None
    sitting = known_sitting(project, tag, placed_takes(project, version), cache)
    return Drawn(tag, preset, columns_of(project, version, picture, original, preset, sitting), picture)


class MixPage(Page):
    """The mix of the version on the desk."""

    lane_flipped = pyqtSignal(str, bool)
    """One of the transport's lanes is to be heard or left out, or heard alone."""

    def __init__(self, desk: Desk, playback: Playback, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._playback = desk, playback
        self._unheard: frozenset[str] = frozenset()
        self._people: tuple[str, ...] = ()
        self.view, self.controls = MixView(), MixControls(desk)
        self.meters = Meters(playback.mixer.meter)
        self.heard_as, self.untreated = QComboBox(), QCheckBox(tr("voices as spoken"))
        self.heard_as.setToolTip(tr("Hear the mix as this preset hands it over"))
        self.heard_as.setAccessibleName(tr("Hear it as"))
        self.untreated.setToolTip(tr("Before and after: hear the voices as loud, but with nothing done to them"))
        self.measure = QPushButton(tr("Measure now"))
        self.measure.setToolTip(tr("Measure how loud the mix is; while nothing else is done it happens by itself"))
        self.write = QPushButton(tr("Write what is in sight"))
        self.write.setToolTip(
            tr("Write the stretch that is in sight, in all presets of this version, as loud as it is in the whole mix")
        )
        self._state = QLabel()
        self._state.setWordWrap(True)
        self._state.setProperty("faded", True)
        self._drawing = Latest("mix columns", self)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        title = QLabel(tr("Mix"))
        title.setFont(font(TITLE_PT + 2, bold=True))
        above = QHBoxLayout()
        above.addWidget(title)
        above.addStretch(1)
        above.addWidget(QLabel(tr("Hear it as")))
        for widget in (self.heard_as, self.untreated, self.measure, self.write):
            above.addWidget(widget)
        side = QVBoxLayout()
        side.setSpacing(px(4))
        side.addWidget(self.meters)
        fields = QWidget()
        inner = QVBoxLayout(fields)
        inner.setContentsMargins(0, 0, px(6), 0)
        inner.addWidget(self.controls)
        inner.addStretch(1)
        area = scrolled(fields)
        area.setFixedWidth(px(_SIDE))
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.meters.setFixedWidth(px(_SIDE))
        side.addWidget(area, 1)
        body = QHBoxLayout()
        body.setSpacing(px(12))
        body.addWidget(self.view, 1)
        body.addLayout(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 16, 10)
        column.setSpacing(8)
        column.addLayout(above)
        column.addWidget(self._state)
        column.addLayout(body, 1)

    def _connect(self) -> None:
        player = self._playback.player
        self.view.play_wanted.connect(self._play_from)
        self.view.lane_pressed.connect(self._press_lane)
        self.heard_as.activated.connect(lambda _place: self._listen())
        self.untreated.clicked.connect(lambda _on: self._listen())
        self.measure.clicked.connect(self._measure)
        self.write.clicked.connect(self._write)
        self._settle.timeout.connect(self.refresh)
        self._drawing.ready.connect(self._take_over)
        player.moved.connect(self.view.show_playhead)
        self._playback.loaded.connect(self._refresh_soon)
        self._desk.changed.connect(lambda _change: self._refresh_soon())
        self._desk.version_changed.connect(lambda _tag: self._begin_anew())

    def showEvent(self, _event: object) -> None:
        self.view.show_playhead(self._playback.player.position_us)
        self.refresh()

    def _refresh_soon(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self.controls.refresh()
            self._settle.start()

    def _begin_anew(self) -> None:
        self._unheard = frozenset()
        self.untreated.setChecked(False)
        self._playback.listen(Listening())
        self._refresh_soon()

    def refresh(self) -> None:
        """Show the mix as it is."""
        desk, version = self._desk, self._desk.version
        self.controls.refresh()
        self.view.setEnabled(version is not None)
        if version is None or desk.project.programme is None:
            self._state.setText(tr("There is no version to mix yet."))
            return
        presets = presets_for(desk.project, version)
        heard = self._playback.listening.preset
        choices = [(tr("the mix of the video") if name == HOUSE else name, name, "") for name in presets]
        fill(self.heard_as, choices, heard if heard in presets else HOUSE)
        shown = self.heard_as.currentData() or HOUSE
        self._drawing.want(partial(_drawn, desk.project, version.tag, desk.document.cache, shown))

    def close_parts(self) -> None:
        self._drawing.close()

    def _take_over(self, drawn: Drawn) -> None:
        """Show what was worked out."""
        if drawn.tag != self._desk.tag:
            return
        columns = drawn.columns
        self._people = tuple(lane.id.removeprefix(PERSON) for lane in columns.lanes if lane.speaker >= 0)
        self.view.show_columns(columns, self.unheard())
        self.meters.show_preset(columns.preset)
        self._state.setText(_state(own_name(drawn.tag), columns, drawn.picture, drawn.preset))
        self._playback.want_picture(wanted=self.isVisible() and drawn.picture is None)

    def unheard(self) -> frozenset[str]:
        """Lanes that are not heard just now."""
        factors = self._playback.mixer.line_up.factors()
        silent = {name for name in LANES if not factors[name]}
        if "Dub" in silent:
            silent |= {f"{PERSON}{one}" for one in self._people} | {ROOM}
        return frozenset(self._unheard | silent)

    def _press_lane(self, lane: str, alone: bool) -> None:
        if lane in LANES:
            self.lane_flipped.emit(lane, alone)
            self._refresh_soon()
            return
        every = {ROOM, *(f"{PERSON}{one}" for one in self._people)}
        if alone:
            rest = frozenset(every - {lane, ROOM} if lane != ROOM else every - {lane})
            self._unheard = frozenset() if self._unheard == rest else rest
        else:
            self._unheard ^= {lane}
        self._listen()

    def _listen(self) -> None:
        """Hear what is to be heard now."""
        some = any(one.startswith(PERSON) for one in self._unheard)
        people = frozenset(one for one in self._people if f"{PERSON}{one}" not in self._unheard) if some else None
        preset = self.heard_as.currentData() or HOUSE
        self._playback.listen(
            Listening(preset, people, room=ROOM not in self._unheard, treated=not self.untreated.isChecked())
        )
        self.refresh()

    def _play_from(self, time_us: float) -> None:
        player = self._playback.player
        player.seek(time_us)
        if not player.playing:
            player.play()

    def _measure(self) -> None:
        tag = self._desk.tag
        if tag and not self._desk.jobs.running(f"{MEASURE} {tag}"):
            self._desk.jobs.read(f"{MEASURE} {tag}", partial(measure_heard, tag=tag))

    def _write(self) -> None:
        """Write what is in sight."""
        desk, view = self._desk, self.view.view()
        whole_s = self.view.columns.seconds if self.view.columns else 0.0
        span = None if view.last - view.first >= whole_s else (round(view.first * RATE), round(view.last * RATE))
        folder = desk.document.folder / "mixes"
        if desk.tag and desk.jobs.start(
            msg_act("Write the mix"), partial(write_stretch, tag=desk.tag, folder=folder, span=span)
        ):
            desk.notice("note", tr("The files will lie in {folder}.", folder=folder))


def _state(name: str, columns: MixColumns, picture: MixPicture | None, preset: str) -> str:
    """The mix in a sentence or two."""
    if picture is None:
        return tr("The loudness of {version} has not been measured yet.", version=name)
    found = picture.loudness(preset, columns.preset)
    if not isfinite(found.integrated_lufs):
        return tr("Nothing is heard in {version}.", version=name)
    words = tr(
        "{version}: {loud:.1f} LUFS, range {range:.1f} LU, true peak {peak:.1f} dBTP.",
        version=name,
        loud=found.integrated_lufs,
        range=found.range_lu,
        peak=found.true_peak_dbtp,
    )
    if columns.out:
        words += " " + tr("{n:place is|places are} out of the band.", n=len(columns.out))
    if not picture.fits:
        words += " " + tr("It has changed since it was measured.")
    return words
