"""Beside the voice map: finding a voice, the same voices as a list, the likest to the chosen person first, and what is
known of the chosen one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from html import escape
from typing import Any, Final

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.voices import split_voice
from zweistimme.messages import msg, tr
from zweistimme.project.languages import own_name
from zweistimme.stages.cast.finding import VoiceSearch
from zweistimme.stages.cast.proposing import VoiceOnOffer
from zweistimme.stages.cast.voice_map import VoiceMap
from zweistimme.window.theme import px

_KINDS: Final = (("", msg("any kind")), ("woman", msg("woman")), ("man", msg("man")), ("child", msg("child")),
                 ("neutral", msg("neutral")))  # fmt: skip
_VARIES: Final = "varies"
_LISTED: Final = "listed"
_REF: Final = int(Qt.ItemDataRole.UserRole)


class VoicePanel(QWidget):
    """Looks for voices and says what they are."""

    looked = pyqtSignal()
    """Something else is looked for."""
    voice_chosen = pyqtSignal(str)
    give_wanted = pyqtSignal()
    hear_wanted = pyqtSignal()
    list_wanted = pyqtSignal(bool)
    noted = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.text, self.kind, self.more = QLineEdit(), QComboBox(), QComboBox()
        self.text.setPlaceholderText(tr("Find a voice"))
        self.text.setAccessibleName(tr("Find a voice"))
        self.text.setClearButtonEnabled(True)
        for value, words in _KINDS:
            self.kind.addItem(tr(words), value)
        self.kind.setAccessibleName(tr("Kind of voice"))
        self.more.setAccessibleName(tr("What a voice has"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Voices, the likest first"))
        self.list.setMinimumHeight(px(84))
        self.about, self.why = QLabel(), QLabel()
        self.about.setWordWrap(True)
        self.why.setWordWrap(True)
        self.why.setProperty("faded", True)
        self.give, self.hear, self.star = QPushButton(), QPushButton(tr("▸ Listen")), QToolButton()
        self.give.setProperty("primary", True)
        self.hear.setToolTip(tr("Hear the voice with the person's first line"))
        self.star.setCheckable(True)
        self.star.setText(tr("on my list"))
        self.star.setToolTip(tr("Keep the voice on your list, which all projects have"))
        self.note = QLineEdit()
        self.note.setPlaceholderText(tr("A note on it"))
        self.note.setAccessibleName(tr("A note on it"))
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(px(10), 0, 0, 0)
        column.setSpacing(px(6))
        column.addWidget(self.text)
        row = QHBoxLayout()
        row.addWidget(self.kind)
        row.addWidget(self.more, 1)
        column.addLayout(row)
        column.addWidget(self.list, 1)
        column.addWidget(self.about)
        column.addWidget(self.why)
        acts = QHBoxLayout()
        acts.addWidget(self.give, 1)
        acts.addWidget(self.hear)
        column.addLayout(acts)
        kept = QHBoxLayout()
        kept.addWidget(self.star)
        kept.addWidget(self.note, 1)
        column.addLayout(kept)

    def _connect(self) -> None:
        self.text.textChanged.connect(lambda _text: self.looked.emit())
        self.kind.activated.connect(lambda _place: self.looked.emit())
        self.more.activated.connect(lambda _place: self.looked.emit())
        self.list.currentItemChanged.connect(self._chosen)
        self.list.itemActivated.connect(lambda _item: self.give_wanted.emit())
        self.give.clicked.connect(lambda _checked: self.give_wanted.emit())
        self.hear.clicked.connect(lambda _checked: self.hear_wanted.emit())
        self.star.clicked.connect(self.list_wanted)
        self.note.editingFinished.connect(lambda: self.noted.emit(self.note.text()))

    def search(self) -> VoiceSearch:
        """What is looked for."""
        part, _, value = str(self.more.currentData() or "").partition(" ")
        search = VoiceSearch(
            self.text.text(), kind=self.kind.currentData() or "", varies=part == _VARIES, listed=part == _LISTED
        )
        wanted: dict[str, Any] = {part: value} if value else {}
        return replace(search, **wanted)

    def offer(self, map_: VoiceMap) -> None:
        """What can be looked for in these voices."""
        before = self.more.currentData()
        self.more.clear()
        self.more.addItem(tr("whatever it has"), "")
        self.more.addItem(tr("on my list"), _LISTED)
        self.more.addItem(tr("says it otherwise each time"), _VARIES)
        infos = [voice.info for voice in map_.voices]
        directions = dict.fromkeys(word for info in infos for word in info.directions)
        regions = dict.fromkeys(info.region for info in infos if info.region)
        tiers = dict.fromkeys(tier.name for info in infos for tier in info.tiers)
        engines = dict.fromkeys(split_voice(voice.ref)[0] for voice in map_.voices)
        for part, names, words in (
            ("direction", directions, tr("can be {name}")),
            ("region", regions, tr("from {name}")),
            ("tier", tiers, tr("to be had as {name}")),
            ("engine", engines if len(engines) > 1 else {}, tr("of {name}")),
        ):
            for name in names:
                self.more.addItem(words.format(name=tr(name)), f"{part} {name}")
        self.more.setCurrentIndex(max(0, self.more.findData(before)))

    def show_voices(self, map_: VoiceMap, person: str, voice: str, found: set[str], notes: Mapping[str, str]) -> None:
        """List the voices that were found, the likest to a person first."""
        self.list.blockSignals(True)
        self.list.clear()
        for place in map_.nearest(person):
            one = map_.voices[int(place)]
            if one.ref not in found:
                continue
            steps = map_.steps_off(person, one.ref)
            said = f"{_likeness_words(steps)}  {one.info.name}" + ("  ★" if one.ref in notes else "")
            item = QListWidgetItem(said)
            item.setData(_REF, one.ref)
            item.setToolTip(notes.get(one.ref, "") or one.info.about)
            self.list.addItem(item)
            if one.ref == voice:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)

    def show_voice(self, voice: VoiceOnOffer | None, name: str, why: str, note: str | None) -> None:
        """Say what is known of a voice, and why it would or would not do for the person of this name."""
        for widget in (self.give, self.hear, self.star):
            widget.setEnabled(voice is not None and bool(name))
        self.give.setText(tr("Give to {name}", name=name) if name else tr("Give"))
        self.about.setText(_about(voice) if voice else tr("No voice is chosen."))
        self.why.setText(why)
        self.star.setChecked(note is not None)
        self.note.setVisible(note is not None)
        if not self.note.hasFocus():
            self.note.setText(note or "")

    def choose(self, ref: str) -> None:
        """Choose a voice in the list, as on the map."""
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and item.data(_REF) == ref:
                self.list.blockSignals(True)
                self.list.setCurrentRow(row)
                self.list.blockSignals(False)

    def _chosen(self, item: QListWidgetItem | None, _before: QListWidgetItem | None) -> None:
        if item is not None:
            self.voice_chosen.emit(str(item.data(_REF)))


def _likeness_words(steps: float | None) -> str:
    """How like a voice is, in a bar of five: full is nobody could tell them apart."""
    if steps is None:
        return "·····"
    full = max(0, min(5, round(5 - 1.6 * steps)))
    return "▮" * full + "▯" * (5 - full)


def _about(voice: VoiceOnOffer) -> str:
    info, traits = voice.info, voice.traits
    name, _ = split_voice(voice.ref)
    spoken = [own_name(language) for language in info.languages]
    languages = ", ".join(spoken) if len(spoken) == 1 else tr("{n:language|languages}", n=len(spoken))
    parts = [tr(info.kind), info.about, languages]
    if traits is not None and traits.pitch_hz:
        parts.append(
            tr("measured: {pitch_hz:.0f} Hz, {pace:.1f} syllables a second", pitch_hz=traits.pitch_hz, pace=traits.pace)
        )
    elif info.pitch_hz:
        parts.append(tr("{pitch_hz:.0f} Hz, not measured", pitch_hz=info.pitch_hz))
    else:
        parts.append(tr("not measured"))
    if voice.price:
        parts.append(tr("{price:g} a character", price=voice.price))
    if name != BUNDLED:
        parts.append(name)
    return f"<b>{escape(info.name)}</b> · " + " · ".join(escape(part) for part in parts if part)
