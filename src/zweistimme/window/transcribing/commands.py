"""What a hand does to the transcript, one key each. Every command is one edit, undone in one step."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from zweistimme.messages import msg_act, tr
from zweistimme.project.access import find_segments
from zweistimme.project.model import Project
from zweistimme.project.reshape import let_go_by_merging, merge_segments, next_of_speaker, split_before, split_segment
from zweistimme.project.speaker_edits import add_somebody, assign_speaker
from zweistimme.project.times import SECOND_US
from zweistimme.project.transcript import (
    accept_word,
    accept_words,
    delete_segments,
    insert_segment,
    nudge,
    restore_fillers,
    retime_segment,
    retime_segments,
    set_fillers_aside,
)
from zweistimme.project.words import is_hesitation, spoken_words
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.edges_by_key import EdgesByKey
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.transcribing.navigation import Moving

_NUDGE_US = 10_000
_NEW_US = 2 * SECOND_US
_LEAST_ROOM_US = 150_000


class Transcribing:
    """Edits of the selected line, of the chosen lines, and at the word under the cursor."""

    def __init__(self, desk: Desk, player: Player, regions: SpeechRegions) -> None:
        self._desk, self._player, self._regions = desk, player, regions
        self._moving = Moving(desk, player, regions)
        self._by_frame = False
        self.edges = EdgesByKey(desk, self._step_us)

    def handlers(self) -> dict[str, Callable[[], None]]:
        """By the id of their action."""
        edges = {
            "start_earlier": partial(self.nudge, start=-1),
            "start_later": partial(self.nudge, start=1),
            "end_earlier": partial(self.nudge, end=-1),
            "end_later": partial(self.nudge, end=1),
        }
        return {
            **self._moving.handlers(),
            **edges,
            **{f"speaker_{n}": partial(self.give_to, n) for n in range(1, 10)},
            "split": self.split,
            "merge": self.merge,
            "insert": self.insert,
            "delete": self.delete,
            "start_here": partial(self.set_edge, start=True),
            "end_here": partial(self.set_edge, start=False),
            "word_earlier": lambda: self.edges.move_word(-1),
            "word_later": lambda: self.edges.move_word(1),
            "step": self.change_step,
            "snap": self.snap,
            "new_speaker": self.give_to_somebody_new,
            "accept": self.accept,
            "accept_all": self.accept_all,
            "fillers": self.flip_fillers,
        }

    def _each(self, label: str, edit: Callable[[Project, list[str]], Project], gesture: str = "") -> bool:
        """Apply an edit to all that is chosen."""
        ids = self._desk.chosen_ids()
        return bool(ids) and self._desk.apply(label, lambda project: edit(project, ids), gesture)

    # what is one segment and what is two

    def split(self) -> None:
        """Before the word under the cursor; at the playhead where the cursor stands on the first word."""
        desk, segment = self._desk, self._desk.segment()
        if segment is None:
            return
        place, at = desk.word, round(self._player.position_us)
        if not 0 < place < len(spoken_words(segment)):
            if not segment.start_us < at < segment.end_us:
                desk.notice("note", tr("Put the cursor on the word that is to begin the second half (→), then split."))
                return
            self._split(partial(split_segment, segment_id=segment.id, at_us=at))
        else:
            self._split(partial(split_before, segment_id=segment.id, place=place))

    def split_at(self, segment_id: str, place: int) -> None:
        """Before word number *place*."""
        self._split(partial(split_before, segment_id=segment_id, place=place))

    def _split(self, edit: Callable[[Project], Project]) -> None:
        before = {s.id for s in self._desk.project.segments}
        if self._desk.apply("Split a segment", edit):
            made = next(s.id for s in self._desk.project.segments if s.id not in before)
            self._desk.select(made)

    def merge(self) -> None:
        """All that is chosen, or the selected line with the next."""
        desk = self._desk
        ids = desk.chosen_ids()
        first = desk.segment(ids[0]) if ids else None
        if first is None:
            return

        def edit(project: Project) -> Project:
            return merge_segments(project, ids if len(ids) > 1 else [first.id, next_of_speaker(project, first.id).id])

        before = desk.project
        if desk.apply("Merge segments", edit):
            desk.notice_findings(let_go_by_merging(before, desk.project))
            desk.select(first.id, len(spoken_words(first)))

    def insert(self) -> None:
        """A segment over the speech at the playhead that has none; else two seconds from the playhead on."""
        at = round(self._player.position_us)
        spans = self._regions.open_between(at - 1, at + 1).tolist()
        start, end = spans[0] if spans else (at, self._room_end(at))
        if end - start < _LEAST_ROOM_US:
            self._desk.notice(
                "note", tr("There is no room for a segment here. Move the playhead into a pause, then insert.")
            )
            return
        self.write_down(start, end)

    def _room_end(self, at_us: int) -> int:
        project = self._desk.project
        ends = [s.start_us for s in project.segments if s.start_us > at_us]
        ends += [project.programme.sound.duration_us] if project.programme else []
        inside = any(s.start_us <= at_us < s.end_us for s in project.segments)
        return at_us if inside else min([at_us + _NEW_US, *ends])

    def write_down(self, start_us: int, end_us: int) -> None:
        """A segment without words, said by whoever spoke last; it is selected."""
        desk = self._desk
        before = {s.id for s in desk.project.segments}

        def edit(project: Project) -> Project:
            if not project.speakers:
                project = add_somebody(project)
            earlier = [s.speaker_id for s in project.segments if s.start_us <= start_us]
            speaker = earlier[-1] if earlier else next(iter(project.speakers))
            return insert_segment(project, start_us, end_us, speaker)

        if desk.apply("Write down speech", edit):
            desk.select(next(s.id for s in desk.project.segments if s.id not in before))

    def delete(self) -> None:
        """What is chosen, with its lines and takes."""
        self._each("Delete segments", delete_segments)

    # times

    def set_edge(self, *, start: bool) -> None:
        """Begin or end the selected line at the playhead."""
        segment, at = self._desk.segment(), round(self._player.position_us)
        if segment is not None:
            edges = (at, segment.end_us) if start else (segment.start_us, at)
            label = msg_act("Set a start") if start else msg_act("Set an end")
            self._desk.apply(label, lambda project: retime_segment(project, segment.id, *edges))

    def nudge(self, *, start: int = 0, end: int = 0) -> None:
        """Move the edges of what is chosen by 10 ms or a frame."""
        by = self._step_us()
        gesture = self._desk.in_a_row(f"{'start' if start else 'end'} of {self._desk.chosen_ids()}")
        self._each(
            "Move edges", lambda project, ids: nudge(project, ids, start_us=start * by, end_us=end * by), gesture
        )

    def _step_us(self) -> int:
        programme = self._desk.project.programme
        picture = programme.picture if programme else None
        if self._by_frame and picture and picture.rate_numerator:
            return round(SECOND_US * picture.rate_denominator / picture.rate_numerator)
        return _NUDGE_US

    def change_step(self) -> None:
        """Between 10 ms and a frame of the picture."""
        self._by_frame = not self._by_frame
        step = self._step_us()
        if self._by_frame and step == _NUDGE_US:
            self._desk.notice("note", tr("This programme has no picture, so edges move by 10 ms."))
        else:
            words = tr("a frame ({ms:.1f} ms)", ms=step / 1000) if self._by_frame else "10 ms"
            self._desk.notice("note", tr("Edges now move by {words}.", words=words))

    def snap(self) -> None:
        """Put the edges of what is chosen where the speech near them begins and ends."""

        def edit(project: Project, ids: list[str]) -> Project:
            edges = {}
            for segment in find_segments(project, ids):
                start = self._regions.nearest_edge(segment.start_us, end=False)
                end = self._regions.nearest_edge(segment.end_us, end=True)
                wanted = (segment.start_us if start is None else start, segment.end_us if end is None else end)
                if wanted[1] - wanted[0] >= _LEAST_ROOM_US:
                    edges[segment.id] = wanted
            return retime_segments(project, edges)

        if not len(self._regions.spans):
            self._desk.notice("note", tr("The speech in the sound has not been found yet. Try again in a moment."))
        else:
            self._each("Put edges where the speech is", edit)

    # speakers, words, hesitations

    def give_to(self, number: int) -> None:
        """To the speaker with this number in the list."""
        people = list(self._desk.project.speakers)
        if number > len(people):
            self._desk.notice(
                "note", tr("There is no speaker {number}; 0 gives the line to somebody new.", number=number)
            )
            return
        who = people[number - 1]
        self._each("Give to a speaker", lambda project, ids: assign_speaker(project, ids, who))

    def give_to_somebody_new(self) -> None:
        """To one more speaker, who is renamed on the Speakers page."""

        def edit(project: Project, ids: list[str]) -> Project:
            project = add_somebody(project)
            return assign_speaker(project, ids, list(project.speakers)[-1])

        self._each("Give to somebody new", edit)

    def accept(self) -> None:
        """The word under the cursor is right; on to the next that is doubtful."""
        segment, word = self._desk.segment(), self._desk.word
        if segment is not None and word < len(segment.words):
            self._desk.apply("Accept a word", lambda project: accept_word(project, segment.id, word))
            self._moving.go_to_doubt(1)

    def accept_all(self) -> None:
        """All words of what is chosen are right."""
        self._each("Accept words", accept_words)

    def flip_fillers(self) -> None:
        """Hesitations back into the text where some are aside; else out of it."""
        ids, tag = self._desk.chosen_ids(), self._desk.project.source_tag
        chosen = find_segments(self._desk.project, ids)
        if any(segment.fillers for segment in chosen):
            self._each("Put hesitations back", restore_fillers)
        elif any(is_hesitation(word, tag) for segment in chosen for word in segment.words):
            self._each(
                "Put hesitations aside",
                lambda project, ids: set_fillers_aside(project, ids, lambda word: is_hesitation(word, tag)),
            )
        else:
            self._desk.notice("note", tr("There are no hesitations in what is chosen."))
