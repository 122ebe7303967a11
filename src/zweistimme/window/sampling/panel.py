"""A voice made from samples: found in the programme, recorded or from files; what is poor is said; none without
consent."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLabel, QMessageBox, QVBoxLayout, QWidget

from zweistimme.engines.offers import Role
from zweistimme.engines.voices import voice_ref
from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.facts import speakers_in_use
from zweistimme.project.languages import spoken_tag
from zweistimme.sentences import sentence_of
from zweistimme.sound.arrays import Mono
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.samples import (
    Sample,
    clean_stretches,
    consent_of,
    make_voice,
    of_clip,
    of_file,
    poor_sets,
    remove_made_voice,
    said_in_samples,
)
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.giving import give_voice
from zweistimme.window.choices import Choice, fill
from zweistimme.window.job_board import Run
from zweistimme.window.layouts import push_button
from zweistimme.window.sampling.consent_form import ConsentForm
from zweistimme.window.sampling.consent_words import consent_words
from zweistimme.window.sampling.sample_table import SampleTable
from zweistimme.window.theme import SMALL_PT, font, px

NAME: Final = msg("A voice from samples")
_MAKE: Final = msg_act("Make a voice from samples")


class SamplingPanel(QWidget):
    """Samples at the left; what is to be made of them, and what was made, at the right."""

    heard = pyqtSignal(object)
    """A sample to be played."""
    record_wanted = pyqtSignal()
    _found = pyqtSignal(str, list)
    _texts = pyqtSignal(list)
    _made = pyqtSignal(str, str, str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._speaker = ""
        self.person, self.voices = QComboBox(), QComboBox()
        self.table, self.form, self.about = SampleTable(), ConsentForm(), QLabel()
        self.person.setAccessibleName(tr("Whose voice is sampled"))
        self.voices.setAccessibleName(tr("Voices that were made from samples"))
        self.stretches = push_button(tr("Find clean stretches"), self.find_stretches)
        self.files = push_button(tr("Files …"), self.ask_files)
        self.record = push_button(tr("Record …"), self.record_wanted.emit)
        self.listen = push_button(tr("Write down what is said"), self.hear_texts)
        self.make = push_button(tr("Make the voice"), self.make_it)
        self.remove = push_button(tr("Remove"), self.remove_it)
        self.remove.setToolTip(tr("Have the engine remove this voice, and forget whose it was"))
        self._lay_out()
        self.table.heard.connect(self.heard)
        self.table.changed.connect(self._look)
        self.person.activated.connect(lambda _place: self._show_person(self.person.currentData() or ""))
        for field in (self.form.name, self.form.person, self.form.words, self.form.given_on):
            field.textChanged.connect(lambda _text: self._look())
        self._found.connect(self._take_samples)
        self._texts.connect(self.table.put_texts)
        self._made.connect(self._take_voice)
        desk.book.changed.connect(self._offer)
        desk.jobs.ended.connect(self._ended)
        self.setFocusProxy(self.stretches)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.person, 1)
        for widget in (self.stretches, self.files, self.record, self.listen):
            top.addWidget(widget)
        self.about.setFont(font(SMALL_PT))
        self.about.setWordWrap(True)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.setSpacing(5)
        left.addLayout(top)
        left.addWidget(self.table, 1)
        left.addWidget(self.about)
        kept = QHBoxLayout()
        kept.addWidget(self.voices, 1)
        kept.addWidget(self.remove)
        right.addWidget(self.form)
        right.addWidget(self.make)
        right.addStretch(1)
        right.addLayout(kept)
        side = QWidget()
        side.setLayout(right)
        right.setContentsMargins(0, 0, 0, 0)
        side.setFixedWidth(px(270))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addLayout(left, 1)
        row.addWidget(side)

    # showing

    def show_for(self, speaker: str) -> None:
        """Show it for a person."""
        segment = self._desk.segment()
        wanted = speaker or self._speaker or (segment.speaker_id if segment is not None else "")
        people = self._desk.project.speakers
        choices: list[Choice] = [(people[key].name, key, "") for key in speakers_in_use(self._desk.project)]
        fill(self.person, choices, wanted)
        self._show_person(str(self.person.currentData() or ""))
        self._offer()

    def _show_person(self, speaker: str) -> None:
        if speaker != self._speaker:
            self._speaker = speaker
            self.table.clear()
            one = self._desk.project.speakers.get(speaker)
            self.form.name.setText(one.name if one else "")
            self.form.person.setText("")
        self._look()

    def _offer(self) -> None:
        """The engines that make voices, and the voices that were made."""
        found = {name: test.info for name, test in self._desk.book.tests.items() if test.info is not None}
        able: list[Choice] = [(name, name, "") for name, info in found.items() if Role.IMITATE in info.roles]
        fill(self.form.engine, able, self.form.engine.currentData())
        refs = [(voice.name, voice_ref(name, voice.id)) for name, info in found.items() for voice in info.voices]
        made: list[Choice] = [(name, ref, consent_words(one)) for name, ref in refs if (one := consent_of(ref))]
        fill(self.voices, made or [(tr("none made yet"), None, "")], self.voices.currentData())
        self.remove.setEnabled(bool(made))
        self._look()

    def _look(self) -> None:
        """What is there, what is poor, and whether a voice may be made."""
        wanted = self.table.wanted()
        seconds = sum(one.seconds for one in wanted)
        words = [tr("{n:sample|samples}, {seconds:.0f} s.", n=len(wanted), seconds=seconds)] if wanted else []
        for poor in poor_sets(wanted or self.table.samples):
            tone = f"{tr(poor.tone)}: " if poor.tone else ""
            words.append(tone + sentence_of(poor.why))
        if not self.table.samples:
            words.append(tr("Find clean stretches of the person in the programme, record some, or give files."))
        elif not self.form.complete:
            words.append(tr("No voice is made before it is written who allowed it, how, and when."))
        self.about.setText(" ".join(words))
        self.make.setEnabled(bool(wanted) and self.form.complete and self.form.engine.currentData() is not None)
        self.listen.setEnabled(any(not one.text for one in self.table.samples))

    # samples

    def find_stretches(self) -> None:
        """Look for clean stretches of the person."""
        speaker = self._speaker
        self._read(
            msg_act("Find clean stretches"), lambda work: self._found.emit(speaker, clean_stretches(work, speaker))
        )

    def ask_files(self) -> None:
        """Take sound from files."""
        names, _ = QFileDialog.getOpenFileNames(self, tr("Sound or video with the person's voice"))
        if names:
            self.take_files([Path(name) for name in names])

    def take_files(self, files: list[Path]) -> None:
        """Cut files into samples."""
        speaker = self._speaker

        def stage(work: Work) -> None:
            for file in files:
                self._found.emit(speaker, of_file(file, work.cache))

        self._read(msg_act("Read samples"), stage)

    def take_recording(self, samples: Mono) -> None:
        """Take what was recorded."""
        self._take_samples(self._speaker, [of_clip(tr("recorded"), samples)])

    def _take_samples(self, speaker: str, samples: list[Sample]) -> None:
        if speaker == self._speaker:
            there = {one.source for one in self.table.samples if self._desk.place(one.source) is not None}
            new = [one for one in samples if one.source not in there]
            self.table.add(new, {one.id: one for one in self._desk.project.segments})

    def hear_texts(self) -> None:
        """Have what is said in samples written down."""
        samples, project = self.table.samples, self._desk.project
        name = engine_for(project, Role.RECOGNISE)
        self._read(
            msg_act("Write down samples"),
            lambda work: self._texts.emit(said_in_samples(work, name, project.source_tag, samples)),
        )

    def _read(self, name: str, stage: Callable[[Work], None]) -> None:
        self._desk.jobs.read(name, stage)

    # the voice

    def make_it(self) -> None:
        """Have the voice made, for the language of the version on the desk and that of the original."""
        project, tag = self._desk.project, self._desk.tag
        languages = tuple(dict.fromkeys(spoken_tag(one) for one in (tag, project.source_tag) if one))
        name, called, consent = str(self.form.engine.currentData()), self.form.name.text(), self.form.consent()
        samples, speaker = self.table.wanted(), self._speaker
        self._read(
            _MAKE,
            lambda work: self._made.emit(speaker, tag, make_voice(work, name, called, languages, samples, consent)),
        )

    def _take_voice(self, speaker: str, tag: str, voice: str) -> None:
        """Offer to give it to the person it was made for, as long as the version it was made for is on the desk."""
        self._desk.book.refresh()
        people = self._desk.project.speakers
        if tag != self._desk.tag or self._desk.version is None or speaker not in people:
            self._desk.notice("done", tr("The voice {voice} is made.", voice=voice))
            return
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        words = tr("The voice {voice} is made. Give it to {name}?", voice=voice, name=people[speaker].name)
        if QMessageBox.question(self, tr(NAME), words, buttons) == QMessageBox.StandardButton.Yes:
            give_voice(self._desk, speaker, voice)

    def remove_it(self) -> None:
        """Have a voice removed everywhere."""
        voice = self.voices.currentData()
        if voice is None:
            return
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        words = tr("Remove {voice}? Takes that were made with it stay; nobody speaks with it any more.", voice=voice)
        if QMessageBox.question(self, tr(NAME), words, buttons) == QMessageBox.StandardButton.Yes:
            self._read(msg_act("Remove a voice"), lambda _work: remove_made_voice(voice))

    def _ended(self, run: Run) -> None:
        if run.name in (_MAKE, "Remove a voice"):
            self._desk.book.refresh()
            self._offer()
