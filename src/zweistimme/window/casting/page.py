"""Cast: every speaker with a voice for the version on the desk."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.project.edits import set_version_style
from zweistimme.project.facts import speakers_in_use
from zweistimme.project.languages import own_name
from zweistimme.project.manner_edits import play_together
from zweistimme.project.model import Preference, Style
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.acts import CastActs
from zweistimme.window.casting.coverage import CoverageButton
from zweistimme.window.casting.map_desk import MapDesk
from zweistimme.window.casting.row import HEADS, CastRow
from zweistimme.window.layouts import empty, put_heads, scrolled
from zweistimme.window.page import Page
from zweistimme.window.sampling import SamplingPanel
from zweistimme.window.theme import TITLE_PT, font, px
from zweistimme.window.trial_speech import speak_trial

_HEAD, _ROW, _MOST = 24, 38, 240
"""How high the list of people is, in pixels at the usual size of type."""


class CastPage(Page):
    """A row a speaker: name, measured pitch, lines, and the voice; under it the map of people and voices."""

    heard = pyqtSignal(object, bool)
    """Samples to be played, a piece of them or (True) the last."""
    audition_wanted = pyqtSignal(str)
    """A person whose lines are to be heard in several voices."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.rows: list[CastRow] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 20, 28, 20)
        self._title = QLabel()
        self._title.setFont(font(TITLE_PT + 2, bold=True))
        self._about = QLabel()
        self._about.setProperty("faded", True)
        self._about.setWordWrap(True)
        self.acts = CastActs(desk)
        top = QHBoxLayout()
        top.addWidget(self._title, 1)
        top.addWidget(self.acts)
        column.addLayout(top)
        column.addWidget(self._about)
        column.addLayout(self._make_style())
        column.addSpacing(6)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(8)
        self._grid.setContentsMargins(0, 0, 0, 0)
        people = QWidget()
        upper = QVBoxLayout(people)
        upper.setContentsMargins(0, 0, 0, 0)
        upper.addLayout(self._grid)
        upper.addStretch(1)
        self.map = MapDesk(desk)
        self.halves = QSplitter(Qt.Orientation.Vertical)
        self.halves.addWidget(scrolled(people))
        self.sampling, self.under = SamplingPanel(desk), QStackedWidget()
        self.under.addWidget(self.map)
        self.under.addWidget(self.sampling)
        self.halves.addWidget(self.under)
        self.halves.setStretchFactor(1, 1)
        self.halves.setChildrenCollapsible(False)
        self.halves.setSizes([px(170), px(340)])
        column.addWidget(self.halves, 1)
        self.map.hear_wanted.connect(self._hear)
        self.acts.sample.toggled.connect(self.show_sampling)
        self.acts.audition.clicked.connect(lambda: self.audition_wanted.emit(self.map.view.person))
        self.map.counted.connect(self.acts.count_unmeasured)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())
        desk.book.changed.connect(self._refresh_if_seen)
        desk.jobs.ended.connect(lambda _run: self._remake_map())

    def _remake_map(self) -> None:
        """Something has run: voices may be measured now."""
        if self.isVisible():
            self.map.maker.want(anew=True)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _refresh_if_seen(self) -> None:
        """What nobody sees is made when it is shown."""
        if self.isVisible():
            self.refresh()

    def _make_style(self) -> QHBoxLayout:
        """How closely this version follows the original, and what gives way first."""
        row = QHBoxLayout()
        self.style_box, self.prefer_box = QComboBox(), QComboBox()
        for style in Style:
            self.style_box.addItem(tr(style.value), style.value)
        for preference in Preference:
            self.prefer_box.addItem(tr(preference.value), preference.value)
        self.style_box.setToolTip(tr("How closely the dub follows the original; fit again after changing it"))
        self.prefer_box.setToolTip(tr("What is kept first where a line is too long: the voice's tempo, or the lips"))
        for words, box in ((tr("Style"), self.style_box), (tr("Keep first"), self.prefer_box)):
            label = QLabel(words)
            label.setProperty("faded", True)
            box.setAccessibleName(words)
            box.activated.connect(self._restyle)
            row.addWidget(label)
            row.addWidget(box)
            row.addSpacing(12)
        self.coverage = CoverageButton(self._desk)
        row.addWidget(self.coverage)
        self.together = QCheckBox(tr("answers asked for together"))
        self.together.setToolTip(tr("Lines that answer each other are spoken in one go, where an engine can do so"))
        self.together.clicked.connect(self._play_together)
        row.addWidget(self.together)
        row.addStretch(1)
        return row

    def _play_together(self, together: bool) -> None:
        tag = self._desk.tag
        self._desk.apply("Answers together", lambda project: play_together(project, tag, together))

    def _restyle(self) -> None:
        tag = self._desk.tag
        style, preference = Style(self.style_box.currentData()), Preference(self.prefer_box.currentData())
        self._desk.apply("Change the style", lambda project: set_version_style(project, tag, style, preference))

    def refresh(self) -> None:
        """Show the cast as it is."""
        project, version = self._desk.project, self._desk.version
        self.coverage.refresh()
        if version is not None:
            self.style_box.setCurrentIndex(self.style_box.findData(version.style.value))
            self.prefer_box.setCurrentIndex(self.prefer_box.findData(version.preference.value))
            self.together.setChecked(version.together)
        if version is None or not project.segments:
            self._have_rows(())
            self._title.setText(tr("Cast"))
            self._about.setText(
                tr("No speakers yet. Continue with the transcript; the speakers found there stand here.")
            )
            return
        self._title.setText(f"{tr('Cast')} · {own_name(version.tag)}")
        keys = speakers_in_use(project)
        missing = [key for key in keys if key not in version.cast]
        self._about.setText(
            tr("Everybody has a voice. What is proposed is like what was measured in the original.")
            if not missing
            else tr("{count} without a voice. Nothing can be voiced before everybody has one.", count=len(missing))
        )
        self._have_rows(tuple(keys))
        for row in self.rows:
            row.refresh(version)
        self.map.maker.want()
        self.map.refresh()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Whoever's row somebody is in is the person on the map."""
        if event is not None and event.type() == QEvent.Type.FocusIn:
            row = next((row for row in self.rows if row.name is watched), None)
            if row is not None:
                self.map.choose_person(row.key)
        return super().eventFilter(watched, event)

    def show_sampling(self, on: bool) -> None:
        """Show what makes a voice from samples, or the map of voices."""
        self.acts.sample.setChecked(on)
        if on:
            self.sampling.show_for(self.map.view.person)
        self.under.setCurrentWidget(self.sampling if on else self.map)

    def close_parts(self) -> None:
        self.map.maker.close()

    def _have_rows(self, keys: tuple[str, ...]) -> None:
        """A row for each of these speakers; rows stay as long as the same people do."""
        if tuple(row.key for row in self.rows) == keys:
            return
        empty(self._grid)
        put_heads(self._grid, HEADS if keys else ())
        self.rows = [CastRow(self._desk, key) for key in keys]
        for number, row in enumerate(self.rows, 1):
            for column, cell in enumerate(row.cells):
                side = Qt.AlignmentFlag.AlignLeft if column > 3 else Qt.AlignmentFlag(0)
                self._grid.addWidget(cell, number, column, side)
            row.listen.clicked.connect(partial(self._listen, row.key))
            row.name.installEventFilter(self)
        self._grid.setColumnStretch(7, 1)
        people = min(px(_HEAD + _ROW * len(keys)), px(_MOST))
        self.halves.setSizes([people, max(px(330), self.halves.height() - people)])

    def _listen(self, key: str, _checked: bool = False) -> None:
        version = self._desk.version
        if version is not None and key in version.cast:
            self._hear(key, version.cast[key])

    def _hear(self, key: str, voice: str) -> None:
        """Speak the speaker's first line in a voice."""
        version = self._desk.version
        first = next((s for s in self._desk.project.segments if s.speaker_id == key and s.text), None)
        if version is not None and first is not None:
            line = version.lines.get(first.id)
            speak_trial(self._desk, key, voice, line.text if line else first.text, self.heard.emit)
