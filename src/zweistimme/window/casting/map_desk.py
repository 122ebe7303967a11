"""The voice map with what is beside it: which voices there are, how like each is, and giving them to people."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from zweistimme.messages import tr
from zweistimme.project.errors import StoreError
from zweistimme.project.kept_values import KeptValues
from zweistimme.project.model import Project, Version
from zweistimme.sentences.catalogue import sentences_of
from zweistimme.stages.cast import proposed
from zweistimme.stages.cast.proposing import Proposal
from zweistimme.stages.cast.shortlist import put_on_shortlist, take_off_shortlist
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.giving import give_voice
from zweistimme.window.casting.map_making import MadeMap, MapMaker
from zweistimme.window.casting.map_view import VoiceMapView
from zweistimme.window.casting.voice_panel import VoicePanel
from zweistimme.window.theme import px


class MapDesk(QWidget):
    """The map at the left, the list and the voice at the right; both say the same."""

    hear_wanted = pyqtSignal(str, str)
    """A person and a voice to hear them with."""
    person_chosen = pyqtSignal(str)
    counted = pyqtSignal(object)
    """By an engine, how many of its voices are not measured, and the characters that takes."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.made: MadeMap | None = None
        self._kept: KeptValues[Mapping[str, Proposal]] = KeptValues()
        self.view, self.panel, self.maker = VoiceMapView(), VoicePanel(), MapMaker(desk, self)
        self.sides = QSplitter(Qt.Orientation.Horizontal)
        self.sides.addWidget(self.view)
        self.sides.addWidget(self.panel)
        self.sides.setStretchFactor(0, 1)
        self.sides.setSizes([px(760), px(340)])
        self.sides.setChildrenCollapsible(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.sides)
        self.maker.made.connect(self._take)
        self.view.voice_chosen.connect(self._chosen_on_map)
        self.view.person_chosen.connect(self.choose_person)
        self.view.person_chosen.connect(self.person_chosen)
        self.view.given.connect(self._give)
        self.panel.voice_chosen.connect(self._chosen_in_list)
        self.panel.looked.connect(self.refresh)
        self.panel.give_wanted.connect(lambda: self._give(self.view.person, self.view.voice))
        self.panel.hear_wanted.connect(lambda: self.hear_wanted.emit(self.view.person, self.view.voice))
        self.panel.list_wanted.connect(self._list)
        self.panel.noted.connect(self._note)

    def _take(self, made: object) -> None:
        assert isinstance(made, MadeMap)
        if made.tag != self._desk.tag:
            return  # of the version that was on the desk before
        self.made = made
        places = {key: place for place, key in enumerate(self._desk.project.speakers)}
        self.panel.offer(made.map)
        self.view.show_map(made.map, places)
        if made.problem:
            self._desk.notice("error", made.problem)
        self.counted.emit(made.unmeasured)
        self.refresh()

    def refresh(self) -> None:
        """Show the cast, the search and what is chosen as they are."""
        made, version = self.made, self._desk.version
        if made is None or version is None or made.tag != version.tag:
            return
        found = {voice.ref for voice in self.panel.search().found(made.map.voices, made.listed)}
        self.view.show_cast(version.cast)
        self.view.show_only({voice.ref for voice in made.map.voices} - found, made.listed)
        self.panel.show_voices(made.map, self.view.person, self.view.voice, found, made.listed)
        self._say_voice()

    def _say_voice(self) -> None:
        made, ref, key = self.made, self.view.voice, self.view.person
        if made is None:
            return
        place = made.map.voice_places.get(ref)
        voice = None if place is None else made.map.voices[place]
        speaker = self._desk.project.speakers.get(key)
        self.panel.show_voice(voice, speaker.name if speaker else "", self._why(made), made.listed.get(ref))

    def _why(self, made: MadeMap) -> str:
        """Whether the chosen voice is what would be proposed, and who would be confused with whom."""
        project, version, key = self._desk.project, self._desk.version, self.view.person
        if version is None or key not in project.speakers:
            return ""
        words = []
        one = self._proposals(made, project, version).get(key)
        if one is not None and one.voice == self.view.voice:
            words.append(tr("Proposed for {name}:", name=project.speakers[key].name) + " " + sentences_of(one.reasons))
        for pair in made.map.confusions({**version.cast, key: self.view.voice}):
            if key in (pair.first, pair.second):
                other = pair.second if pair.first == key else pair.first
                words.append(
                    tr("Easily taken for {name}, who is in the same scene.", name=project.speakers[other].name)
                )
        return " ".join(words)

    def _proposals(self, made: MadeMap, project: Project, version: Version) -> Mapping[str, Proposal]:
        """What would be proposed for everybody, worked out once a state."""
        of = (made, project.speakers, project.segments, version.cast, version.cast_chosen)
        return self._kept.get("", of, lambda: proposed(project, made.tag, made.map.voices, anew=True))

    def choose_person(self, key: str) -> None:
        """Have the voices in the order in which they are like this person."""
        version = self._desk.version
        self.view.choose(person=key, voice=version.cast.get(key, self.view.voice) if version else None)
        self.refresh()

    def _chosen_on_map(self, ref: str) -> None:
        self.panel.choose(ref)
        self._say_voice()

    def _chosen_in_list(self, ref: str) -> None:
        self.view.choose(voice=ref)
        self._say_voice()

    def _give(self, key: str, ref: str) -> None:
        if key in self._desk.project.speakers and ref:
            give_voice(self._desk, key, ref)

    def _list(self, listed: bool) -> None:
        ref = self.view.voice
        self._change_list(partial(put_on_shortlist, ref) if listed else partial(take_off_shortlist, ref))

    def _note(self, note: str) -> None:
        made, ref = self.made, self.view.voice
        if made is not None and made.listed.get(ref, note) != note:
            self._change_list(partial(put_on_shortlist, ref, note))

    def _change_list(self, change: partial[None]) -> None:
        try:
            change()
        except StoreError as error:
            self._desk.notice("error", str(error))
        self.maker.want(anew=True)
