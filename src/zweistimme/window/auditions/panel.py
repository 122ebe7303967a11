"""The audition desk: a person's lines in several voices and in the original, heard one after the other with the
picture, scored and compared by key, blind if wanted."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Final

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.audition_edits import drop_auditions, prefer_audition, score_audition
from zweistimme.project.auditions import Audition
from zweistimme.project.facts import speakers_in_use
from zweistimme.project.model import Segment
from zweistimme.stages.audition import Wish, audition, open_auditions, scene_of, wishes_of
from zweistimme.stages.work import Work
from zweistimme.window.auditions.hearing import (
    Alike,
    Levels,
    Ready,
    alike,
    heard_audition,
    heard_original,
    heard_scene,
    levels_of,
)
from zweistimme.window.auditions.sheet import Sheet, sheet_of
from zweistimme.window.auditions.table import AuditionTable
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk
from zweistimme.window.casting.choices import voice_choices
from zweistimme.window.casting.giving import give_voice
from zweistimme.window.choices import Choice, fill
from zweistimme.window.hearing_costs import agreed_to_audition
from zweistimme.window.job_board import Run
from zweistimme.window.layouts import push_button
from zweistimme.window.theme import SMALL_PT, font

NAME: Final = msg("Auditions")
_RUN: Final = msg_act("Audition voices")
_ALIKE: Final = 3


class AuditionPanel(QWidget):
    """Voices downwards, lines across; what is heard runs with the picture."""

    heard = pyqtSignal(object, float)
    """Samples to be played, and the time of the programme from which the picture is shown with them."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._order: tuple[str, tuple[str, ...]] = ("", ())
        """Whose voices are shown, and in which order."""
        self._levels: dict[str, dict[str, float]] = {}
        self._more: dict[str, list[str]] = {}
        self._two: list[tuple[str, str]] = []
        """The last two voices heard, with their line; the later one last."""
        self._blind = 0
        self._then: Callable[[], None] | None = None
        self.sheet: Sheet | None = None
        self.person, self.voice, self.blind = QComboBox(), QComboBox(), QCheckBox(tr("blind"))
        self.table, self.about = AuditionTable(desk), QLabel()
        self._sounds, self._looks = Latest("audition", self), Latest("audition lines", self)
        self._sounds.ready.connect(self._take)
        self._looks.ready.connect(self._take)
        self._lay_out()
        self.table.bind(
            {
                Qt.Key.Key_Return: (tr("Hear it, with the picture"), self.hear),
                Qt.Key.Key_T: (tr("Hear the one before again: the two in turn"), self.hear_other),
                Qt.Key.Key_P: (tr("Better than the one heard before"), self.prefer),
                Qt.Key.Key_G: (tr("Give this voice to the person"), self.give),
                Qt.Key.Key_Delete: (tr("Keep the auditions of this voice no more"), self.drop),
            },
            self.score,
        )
        self.table.currentCellChanged.connect(lambda *_: self._reach())
        self.table.cellActivated.connect(lambda _row, _column: self.hear())
        self.person.activated.connect(lambda _place: self._look())
        self.voice.activated.connect(lambda _place: self._add([self.voice.currentData()]))
        self.blind.toggled.connect(self._go_blind)
        desk.changed.connect(lambda _change: self._refresh_if_seen())
        desk.version_changed.connect(lambda _tag: self._refresh_if_seen())
        desk.book.changed.connect(self._refresh_if_seen)
        desk.jobs.ended.connect(self._ended)
        self.setFocusProxy(self.table)

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        self.person.setAccessibleName(tr("Whose lines are heard"))
        self.voice.setAccessibleName(tr("A voice to hear them in"))
        self.blind.setToolTip(tr("Hide which voice is which, and shuffle them"))
        self.like = push_button(tr("The three most alike"), self.add_alike)
        self.lines = push_button(tr("Also what is chosen"), self.add_lines)
        self.lines.setToolTip(tr("Hear the lines of this person that are chosen on the Score, too"))
        self.scene = push_button(tr("▸ Scene"), self.hear_scene)
        self.scene.setToolTip(tr("Hear the scene around the line, this person in the voice of the row"))
        for box in (self.person, self.voice):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(8)
        top.addWidget(self.person, 1)
        top.addWidget(self.voice, 1)
        for widget in (self.like, self.lines, self.scene, self.blind):
            top.addWidget(widget)
        self.about.setFont(font(SMALL_PT))
        self.about.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addLayout(top)
        column.addWidget(self.table, 1)
        column.addWidget(self.about)

    # showing

    def showEvent(self, event: object) -> None:
        segment = self._desk.segment()
        self.show_person(segment.speaker_id if segment is not None else "")

    def show_person(self, speaker: str) -> None:
        """Show the auditions of a person, the voices as they stand now."""
        self._order = ("", ())
        self._offer_people(speaker)
        self._look()

    def _offer_people(self, speaker: str) -> None:
        people = self._desk.project.speakers
        choices: list[Choice] = [(people[key].name, key, "") for key in speakers_in_use(self._desk.project)]
        fill(self.person, choices, speaker or self.person.currentData())

    def _look(self) -> None:
        """Show what is there, and find the person's strongest line."""
        speaker = self._speaker()
        if speaker and speaker not in self._levels:
            self._looks.want(partial(levels_of, self._work(), speaker))
        self.refresh()

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self._offer_people("")
            self.refresh()

    def refresh(self) -> None:
        """Show the auditions as they are."""
        desk, speaker = self._desk, self._speaker()
        if desk.version is None or not speaker:
            self.sheet = None
            self.table.show_sheet(None, blind=False)
            self.about.setText(tr("Nobody speaks here yet."))
            return
        levels, more = self._levels.get(speaker, {}), self._more.get(speaker, [])
        whose = f"{desk.tag} {speaker}"
        order = self._order[1] if self._order[0] == whose else ()
        self.sheet = sheet_of(desk.project, desk.tag, speaker, levels, more, self._blind, order)
        if not self._blind:
            self._order = (whose, self.sheet.voices)
        self.table.show_sheet(self.sheet, blind=bool(self._blind))
        choices: list[Choice] = [(tr("add a voice …"), None, "")]
        choices += [(words, ref, "") for ref, words in voice_choices(desk, desk.tag) if ref not in self.sheet.voices]
        fill(self.voice, choices, None)
        self.voice.setEnabled(not self._blind)
        self.about.setText(
            tr("Return hears, T the one before, P prefers, 1 to 5 score, G gives the voice. All are equally loud.")
            if self.sheet.lines
            else tr("This person has no line with a wording yet.")
        )

    def _speaker(self) -> str:
        return str(self.person.currentData() or "")

    def _work(self) -> Work:
        return Work.on(self._desk.document, lambda _label, _edit: None)

    # asking

    def add_alike(self) -> None:
        """Hear the person in the voices that are most like theirs."""
        names = [name for name, found in self._desk.book.tests.items() if found.info is not None]
        self._looks.want(partial(alike, self._desk.project, self._desk.tag, self._speaker(), names))

    def add_lines(self) -> None:
        """Hear chosen lines of the person, too, in all voices that are shown."""
        speaker, chosen = self._speaker(), self._desk.chosen_ids()
        own = [one.id for one in self._desk.project.segments if one.speaker_id == speaker and one.id in chosen]
        if not own:
            self._desk.notice("note", tr("None of the lines that are chosen is this person's."))
            return
        self._more[speaker] = [*dict.fromkeys((*self._more.get(speaker, []), *own))]
        self.refresh()
        self._add(self.sheet.voices if self.sheet else ())

    def _add(self, voices: Sequence[str | None]) -> None:
        named = [voice for voice in voices if voice]
        if self.sheet is not None and named:
            cast = [voice for voice in self.sheet.voices if voice not in named][:1]
            self._ask(wishes_of([segment.id for segment in self.sheet.lines], [*cast, *named]))
        self.voice.setCurrentIndex(0)

    def _ask(self, wishes: Sequence[Wish], then: Callable[[], None] | None = None) -> None:
        """Have what is not there yet spoken, then go on."""
        desk, tag = self._desk, self._desk.tag
        if not open_auditions(desk.project, tag, wishes):
            if then is not None:
                then()
        elif agreed_to_audition(self, desk, wishes) and desk.jobs.start(_RUN, lambda work: audition(work, tag, wishes)):
            self._then = then

    def _ended(self, run: Run) -> None:
        if run.name == _RUN:
            then, self._then = self._then, None
            if then is not None and run.done:
                then()

    # hearing

    def _here(self) -> tuple[str, Segment] | None:
        """The voice and the line of the cell one is in; an empty voice is the original."""
        row, column = self.table.place()
        if self.sheet is None or row is None or not 0 <= column < len(self.sheet.lines):
            return None
        return row, self.sheet.lines[column]

    def _reach(self) -> None:
        here = self._here()
        if here is not None and here[1].id != self._desk.segment_id:
            self._desk.select(here[1].id)

    def hear(self) -> None:
        """Hear the cell one is in; what is not there yet is asked for."""
        here = self._here()
        if here is None:
            return
        voice, segment = here
        one = self.sheet.at(voice, segment.id) if self.sheet else None
        if voice and one is None:
            self._ask([Wish(segment.id, voice)], self.hear)
            return
        if (voice, segment.id) in self._two:
            self._two.remove((voice, segment.id))
        self._two = [*self._two[-1:], (voice, segment.id)]
        self._sounds.want(
            partial(heard_audition, self._work(), segment, one)
            if one
            else partial(heard_original, self._work(), segment)
        )

    def hear_other(self) -> None:
        """The two heard last, in turn."""
        if self.sheet is not None and len(self._two) == 2:
            self.table.go_to(*self._two[0])
            self.hear()

    def hear_scene(self) -> None:
        """The scene around the line one is at, this person in the voice of the row."""
        here, version = self._here(), self._desk.version
        segment = here[1] if here else self._desk.segment()
        if version is None or segment is None:
            return
        cast = dict(version.cast)
        if here and here[0]:
            cast[self._speaker()] = here[0]
        lines = scene_of(self._desk.project.segments, segment.id)
        wishes = [Wish(one.id, cast[one.speaker_id]) for one in lines if one.speaker_id in cast]
        tag = self._desk.tag
        self._ask(wishes, lambda: self._sounds.want(partial(heard_scene, self._work(), tag, lines, cast)))

    def _take(self, made: object) -> None:
        if isinstance(made, Ready) and len(made.samples):
            self.heard.emit(made.samples, made.start_us)
        elif isinstance(made, Ready):
            self._desk.notice("note", tr("The sound of this line is not at hand."))
        elif isinstance(made, Levels):
            self._levels[made.speaker] = dict(made.db)
            self._refresh_if_seen()
        elif isinstance(made, Alike) and (made.speaker, made.tag) == (self._speaker(), self._desk.tag):
            there = self.sheet.voices if self.sheet else ()
            self._add([voice for voice in made.voices if voice not in there][:_ALIKE])

    # thinking

    def _audition_here(self) -> Audition | None:
        here = self._here()
        return self.sheet.at(here[0], here[1].id) if self.sheet and here else None

    def score(self, score: int) -> None:
        """Say what one thinks of the cell one is in."""
        one = self._audition_here()
        if one is not None:
            edit = partial(score_audition, tag=self._desk.tag, key=one.id, score=score)
            self._desk.apply(msg_act("Score an audition"), edit)

    def prefer(self) -> None:
        """Say that the one heard last is better than the one before."""
        known = [self.sheet.at(*one) for one in self._two] if self.sheet else []
        if len(known) < 2 or known[0] is None or known[1] is None or known[0].segment_id != known[1].segment_id:
            self._desk.notice("note", tr("Hear the same line in two voices first; the later one is preferred."))
            return
        edit = partial(prefer_audition, tag=self._desk.tag, better=known[1].id, worse=known[0].id)
        if self._desk.apply(msg_act("Prefer a voice"), edit):
            self._desk.notice("note", tr("Preferred: {voice}.", voice=self.table.voice_name(known[1].voice)))

    def give(self) -> None:
        """Give the person the voice of the row."""
        here = self._here()
        if here is not None and here[0]:
            give_voice(self._desk, self._speaker(), here[0])

    def drop(self) -> None:
        """Keep the auditions of the row no more."""
        here = self._here()
        if here is not None and self.sheet is not None and here[0]:
            keys = [one.id for (voice, _), one in self.sheet.cells.items() if voice == here[0]]
            self._desk.apply(msg_act("Drop auditions"), partial(drop_auditions, tag=self._desk.tag, keys=keys))

    def _go_blind(self, on: bool) -> None:
        import secrets

        self._blind = 1 + secrets.randbelow(2**30) if on else 0
        self._two = []
        self.refresh()

    def close_parts(self) -> None:
        """End the threads."""
        self._sounds.close()
        self._looks.close()
