"""What would help a line that does not stand well: each remedy tried on the plan itself, with what comes of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from typing import Final

from zweistimme.project.access import find_segment, find_version, put_version
from zweistimme.project.edits import choose_take
from zweistimme.project.fit_edits import free_pins, set_hand
from zweistimme.project.hand_fit import FitAs
from zweistimme.project.line_edits import take_offer
from zweistimme.project.model import Line, Placement, Project, Segment, Take
from zweistimme.project.row_changes import with_rows
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.stages.fit.by_hand import chain_placements
from zweistimme.stages.fit.limits import limits_of
from zweistimme.stages.fit.slot import voice_pace

Edit = Callable[[Project], Project]
_MOST_PAUSE_US: Final = 2_500_000
_SLACK_STEP_US: Final = 100_000
_BETTER: Final = 0.85
_OVER_PRICE, _CLASH_PRICE, _LATE_PRICE, _TEMPO_PRICE, _END_PRICE = 60.0, 40.0, 8.0, 20.0, 4.0


class Help(StrEnum):
    """Kinds of remedies."""

    SHORTER = "shorter-wording"
    OTHER_TAKE = "other-take"
    BORROW = "borrow-from-the-pause"
    NEIGHBOUR = "neighbour-waits"
    OFF_SCREEN = "off-screen-now"
    VOICE_OVER = "voice-over-here"
    FREE = "free-its-pins"


@dataclass(frozen=True, slots=True)
class Standing:
    """How a line stands: seconds beyond what its start and its end may be off, seconds too long and heard at once with
    another, and its tempo."""

    late_s: float
    ends_s: float
    over_s: float
    clash_s: float
    tempo: float
    comfort: tuple[float, float]

    @property
    def trouble(self) -> float:
        """One figure for how badly it stands: 0 where it stands well."""
        away = max(0.0, self.tempo - self.comfort[1], self.comfort[0] - self.tempo)
        late = _LATE_PRICE * self.late_s + _END_PRICE * self.ends_s
        return _OVER_PRICE * self.over_s + _CLASH_PRICE * self.clash_s + late + _TEMPO_PRICE * away


@dataclass(frozen=True, slots=True)
class Remedy:
    """One thing that would help: *words* are those of a wording or a name, *after* how the line would stand, *others*
    by how much the lines around it would stand better or, below 0, worse; *edit* does it, to be planned with
    ``change_and_plan``."""

    help: Help
    words: str
    after: Standing
    others: float
    edit: Edit


def standing_of(project: Project, tag: str, segment: Segment, placed: Placement) -> Standing:
    """How a line stands where it is placed."""
    version = find_version(project, tag)
    limits, line = limits_of(version), version.lines.get(segment.id)
    hand = line.hand if line else None
    seen = 0 if segment.on_screen and (hand is None or hand.fit_as is FitAs.USUAL) else 1
    slack = (hand.start_slack_us, hand.end_slack_us) if hand else (0, 0)
    shift_us = round(limits.start_shift * SECOND_US)
    start_us = placed.start_us - segment.start_us - shift_us
    end_us = placed.start_us + placed.length_us - segment.end_us
    return Standing(
        max(0.0, abs(start_us) / SECOND_US - limits.start_tolerance[seen] - slack[0] / SECOND_US),
        max(0.0, end_us / SECOND_US - limits.end_tolerance[seen] - slack[1] / SECOND_US),
        placed.overflow_us / SECOND_US,
        placed.clash_us / SECOND_US,
        placed.tempo,
        limits.comfort,
    )


def remedies(project: Project, tag: str, segment_id: str) -> list[Remedy]:
    """What would help a line, the best first; nothing where it stands well."""
    segment = find_segment(project, segment_id)
    now = chain_placements(project, tag, segment_id)
    placed = next((one for one in now if one.segment_id == segment_id), None)
    if placed is None or standing_of(project, tag, segment, placed).trouble <= 0:
        return []
    segments = {one.id: one for one in project.segments}
    before = _troubles(project, tag, segments, now)
    found: dict[tuple[Help, str], Remedy] = {}
    for kind, words, edit, tried in _tries(project, tag, segment, placed):
        changed = tried(project)
        after = _troubles(changed, tag, segments, chain_placements(changed, tag, segment_id))
        own = after.pop(segment_id, None)
        if own is not None and own.trouble < _BETTER * before[segment_id].trouble:
            shared = after.keys() & before.keys()
            others = sum(before[key].trouble - after[key].trouble for key in shared)
            found.setdefault((kind, words), Remedy(kind, words, own, round(others, 2), edit))
    return sorted(found.values(), key=lambda one: one.after.trouble - min(0.0, one.others))


def _troubles(
    project: Project, tag: str, segments: Mapping[str, Segment], placed: list[Placement]
) -> dict[str, Standing]:
    return {one.segment_id: standing_of(project, tag, segments[one.segment_id], one) for one in placed}


def _tries(project: Project, tag: str, segment: Segment, placed: Placement) -> Iterator[tuple[Help, str, Edit, Edit]]:
    """Every remedy there could be: what it does, and what the plan is tried with."""
    version = find_version(project, tag)
    line = version.lines[segment.id]
    if line.pin is not None or line.word_pins:
        yield _change(Help.FREE, "", partial(free_pins, tag=tag, segment_ids=[segment.id]))
    take = version.takes.get(line.take_id or "")
    for other in version.takes.values():
        if other.segment_id == segment.id and other.id != line.take_id:
            yield _change(Help.OTHER_TAKE, other.label, partial(choose_take, tag=tag, take_id=other.id))
    if take is not None:
        yield from _shorter(project, tag, segment, line, take)
    yield from _slack(project, tag, segment, line, placed)
    if segment.on_screen and line.hand.fit_as is FitAs.USUAL:
        for kind, fit_as in ((Help.OFF_SCREEN, FitAs.OFF_SCREEN), (Help.VOICE_OVER, FitAs.VOICE_OVER)):
            yield _change(kind, "", partial(set_hand, tag=tag, segment_ids=[segment.id], fit_as=fit_as))


def _change(kind: Help, words: str, change: Edit) -> tuple[Help, str, Edit, Edit]:
    return kind, words, change, change


def _shorter(
    project: Project, tag: str, segment: Segment, line: Line, take: Take
) -> Iterator[tuple[Help, str, Edit, Edit]]:
    """Wordings on offer, as long as the voice will need for them."""
    pace = voice_pace(project, find_version(project, tag), segment)
    own_us = max(1, pace.spoken_us(line.text))
    speech = take.speech_end_samples - take.speech_start_samples
    for offer in line.offers:
        share = pace.spoken_us(offer.text) / own_us
        if share < 1:
            end = take.speech_start_samples + max(RATE // 5, round(speech * share))
            spoken = replace(take, speech_end_samples=end, pauses_samples=(), words=())
            edit = partial(take_offer, tag=tag, segment_id=segment.id, text=offer.text, origin=offer.origin)
            yield Help.SHORTER, offer.text, edit, partial(_with_take, tag=tag, take=spoken)


def _with_take(project: Project, tag: str, take: Take) -> Project:
    version = find_version(project, tag)
    return put_version(project, replace(version, takes=with_rows(version.takes, {take.id: take})))


def _slack(
    project: Project, tag: str, segment: Segment, line: Line, placed: Placement
) -> Iterator[tuple[Help, str, Edit, Edit]]:
    """Time from the pause behind it, and from whoever speaks next."""
    following = next((one for one in project.segments if one.start_us >= segment.end_us), None)
    last_us = project.programme.sound.duration_us if project.programme else segment.end_us
    pause_us = min((following.start_us if following else last_us) - segment.end_us, _MOST_PAUSE_US)
    wanted_us = placed.start_us + placed.length_us + placed.overflow_us - segment.end_us
    needed_us = -(-max(0, min(wanted_us, pause_us)) // _SLACK_STEP_US) * _SLACK_STEP_US
    if needed_us > line.hand.end_slack_us:
        edit = partial(set_hand, tag=tag, segment_ids=[segment.id], end_slack_us=needed_us)
        yield _change(Help.BORROW, f"{needed_us / SECOND_US:.1f} s", edit)
    theirs = find_version(project, tag).lines.get(following.id) if following else None
    if following is not None and theirs is not None and theirs.pin is None:
        slack_us = max(theirs.hand.start_slack_us, 500_000)
        edit = partial(set_hand, tag=tag, segment_ids=[following.id], start_slack_us=slack_us)
        name = project.speakers[following.speaker_id].name
        yield _change(Help.NEIGHBOUR, name, edit)
