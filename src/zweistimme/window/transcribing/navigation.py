"""Listening, and moving the cursor and the choice: what changes nothing in the transcript."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from zweistimme.messages import msg, tr
from zweistimme.project.model import Segment
from zweistimme.project.words import DOUBTFUL, spoken_words
from zweistimme.window.bridge import Desk
from zweistimme.window.clock import Player
from zweistimme.window.regions import SpeechRegions
from zweistimme.window.transport import SPEEDS


class Moving:
    """Commands on the cursor, the choice and the playhead."""

    def __init__(self, desk: Desk, player: Player, regions: SpeechRegions) -> None:
        self._desk, self._player, self._regions = desk, player, regions

    def handlers(self) -> dict[str, Callable[[], None]]:
        """By the id of their action."""
        return {
            "from_word": self.hear_from_word,
            "slower": partial(self.change_speed, 1),
            "faster": partial(self.change_speed, -1),
            "next_word": partial(self.step_word, 1),
            "previous_word": partial(self.step_word, -1),
            "next_doubt": partial(self.go_to_doubt, 1),
            "previous_doubt": partial(self.go_to_doubt, -1),
            "next_wordless": self.go_to_wordless,
            "choose_next": partial(self.choose_more, 1),
            "choose_previous": partial(self.choose_more, -1),
            "choose_all": lambda: self._desk.choose(s.id for s in self._desk.project.segments),
        }

    def hear_from_word(self) -> None:
        """Play from the word under the cursor."""
        segment = self._desk.segment()
        words = spoken_words(segment) if segment else ()
        if segment is None:
            return
        start = words[min(self._desk.word, len(words) - 1)].start_us if words else segment.start_us
        self._player.seek(start)
        if not self._player.playing:
            self._player.play()

    def change_speed(self, by: int) -> None:
        """The next slower (*by* 1) or faster speed."""
        place = SPEEDS.index(self._player.speed) + by
        self._player.set_speed(SPEEDS[max(0, min(place, len(SPEEDS) - 1))])

    def step_word(self, by: int) -> None:
        """The cursor to the next word or the one before, on into the neighbouring line."""
        desk, segment = self._desk, self._desk.segment()
        if segment is None:
            return
        place, count = desk.word + by, len(spoken_words(segment))
        if 0 <= place < count:
            self._put_cursor(segment, place)
            return
        ids = [s.id for s in desk.project.segments]
        other = ids.index(segment.id) + by
        if 0 <= other < len(ids):
            neighbour = desk.project.segments[other]
            self._put_cursor(neighbour, 0 if by > 0 else max(0, len(spoken_words(neighbour)) - 1))

    def _put_cursor(self, segment: Segment, word: int) -> None:
        words = spoken_words(segment)
        if segment.id != self._desk.segment_id:
            self._desk.select(segment.id, word)
        else:
            self._desk.put_cursor(word)
        if not self._player.playing and word < len(words):
            self._player.seek(words[word].start_us)

    def go_to_doubt(self, by: int) -> None:
        """The next word that was not heard surely, or the one before."""
        places = [
            (segment, k)
            for segment in self._desk.project.segments
            for k, word in enumerate(segment.words)
            if word.confidence < DOUBTFUL
        ]
        here = self._here()
        ahead = [place for place in places if (self._order(*place) > here if by > 0 else self._order(*place) < here)]
        if ahead:
            self._put_cursor(*(ahead[0] if by > 0 else ahead[-1]))
        else:
            words = (
                msg("No doubtful word comes after this one.")
                if by > 0
                else msg("No doubtful word comes before this one.")
            )
            self._desk.notice("done", tr(words))

    def _here(self) -> tuple[int, str, int]:
        segment = self._desk.segment()
        return self._order(segment, self._desk.word) if segment else (-1, "", 0)

    def _order(self, segment: Segment, word: int) -> tuple[int, str, int]:
        return segment.start_us, segment.id, word

    def go_to_wordless(self) -> None:
        """The next segment without words, or speech without a segment, after the playhead; from the top at the end."""
        wordless = [(s.start_us, s.id) for s in self._desk.project.segments if not s.text]
        places = sorted([*wordless, *((int(start), "") for start, _ in self._regions.open)])
        if not places:
            self._desk.notice("done", tr("All speech has words."))
            return
        here = round(self._player.position_us)
        start, segment_id = next((place for place in places if place[0] > here), places[0])
        if segment_id:
            self._desk.select(segment_id)
        self._player.seek(start)

    def choose_more(self, by: int) -> None:
        """Let the choice grow or shrink at its end."""
        desk = self._desk
        ids, chosen = [s.id for s in desk.project.segments], desk.chosen_ids()
        if not chosen or desk.segment_id not in ids:
            return
        anchor = ids.index(desk.segment_id)
        far = ids.index(chosen[-1] if chosen[0] == desk.segment_id else chosen[0])
        desk.extend_choice(ids[max(0, min(far + by, len(ids) - 1))] if len(ids) > 1 else ids[anchor])
