"""Edits: pure functions ``Project -> Project``. Each is total: it returns a new project or raises an EditError
whose sentence a person can read. Parts that do not change keep their identity, so listeners see what differs.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from difflib import SequenceMatcher
from typing import TypeVar

from zweistimme.project.errors import EditError
from zweistimme.project.facts import placement_fingerprint, source_fingerprint
from zweistimme.project.languages import language_tag
from zweistimme.project.model import (
    Delivery,
    Line,
    MixSettings,
    Pin,
    Placement,
    Preference,
    Programme,
    Project,
    Segment,
    Speaker,
    Style,
    Take,
    Version,
    Word,
)

SHORTEST_SEGMENT_US = 100_000
V = TypeVar("V")


def _with(mapping: Mapping[str, V], key: str, value: V) -> dict[str, V]:
    return {**mapping, key: value}


def find_segment(project: Project, segment_id: str) -> Segment:
    """The segment with this id, or an EditError."""
    for segment in project.segments:
        if segment.id == segment_id:
            return segment
    raise EditError(f"There is no segment {segment_id} in this project.")


def find_version(project: Project, tag: str) -> Version:
    """The version with this language tag, or an EditError that lists those there are."""
    try:
        return project.versions[tag]
    except KeyError:
        there = ", ".join(project.versions) or "none yet"
        raise EditError(f"This project has no version {tag}. Versions: {there}.") from None


def find_line(project: Project, tag: str, segment_id: str) -> Line:
    """The line of a segment in a version, or an EditError."""
    line = find_version(project, tag).lines.get(segment_id)
    if line is None:
        raise EditError(f"Segment {segment_id} has no line in {tag} yet. Translate it or write it by hand first.")
    return line


def _put_version(project: Project, version: Version) -> Project:
    return replace(project, versions=_with(project.versions, version.tag, version))


def _put_segment(project: Project, changed: Segment) -> Project:
    kept = (changed if segment.id == changed.id else segment for segment in project.segments)
    return replace(project, segments=tuple(sorted(kept, key=lambda s: (s.start_us, s.id))))


def _put_line(project: Project, tag: str, line: Line) -> Project:
    version = find_version(project, tag)
    return _put_version(project, replace(version, lines=_with(version.lines, line.segment_id, line)))


def set_programme(project: Project, programme: Programme) -> Project:
    """Bring in (or replace) the programme."""
    return replace(project, programme=programme)


def add_version(
    project: Project,
    tag: str,
    style: Style = Style.PHRASE_SYNC,
    preference: Preference = Preference.BALANCED,
) -> Project:
    """Add a target language."""
    tag = language_tag(tag)
    if tag in project.versions:
        raise EditError(f"This project already has a version {tag}.")
    return _put_version(project, Version(tag, style, preference))


def set_version_style(project: Project, tag: str, style: Style, preference: Preference) -> Project:
    """Change how closely a version follows the original."""
    return _put_version(project, replace(find_version(project, tag), style=style, preference=preference))


def set_mix(project: Project, mix: MixSettings) -> Project:
    """Change how mixes are made."""
    return replace(project, mix=mix)


def choose_engine(project: Project, role: str, name: str, tag: str | None = None) -> Project:
    """Say which engine is asked for *role*, in one version or (tag None) wherever a version has none of its own."""
    if tag is None:
        return replace(project, engines=_with(project.engines, role, name))
    version = find_version(project, tag)
    return _put_version(project, replace(version, engines=_with(version.engines, role, name)))


def allow_substitutes(project: Project, allowed: bool) -> Project:
    """Say whether a voice of a related language may stand in for one of a version's own."""
    return replace(project, substitutes=allowed)


def set_transcript(project: Project, speakers: Iterable[Speaker], segments: Iterable[Segment]) -> Project:
    """Replace the transcript. Lines of segments that are gone go with them."""
    by_id = {speaker.id: speaker for speaker in speakers}
    ordered = tuple(sorted(segments, key=lambda s: (s.start_us, s.id)))
    ids = {segment.id for segment in ordered}
    if len(ids) != len(ordered):
        raise EditError("Two segments of this transcript have the same id.")
    for segment in ordered:
        if segment.speaker_id not in by_id:
            raise EditError(f"Segment {segment.id} names a speaker who is not in the transcript.")
        if segment.end_us <= segment.start_us:
            raise EditError(f"Segment {segment.id} ends before it starts.")
    versions = {
        tag: replace(
            version,
            cast={key: voice for key, voice in version.cast.items() if key in by_id},
            lines={key: line for key, line in version.lines.items() if key in ids},
            takes={key: take for key, take in version.takes.items() if take.segment_id in ids},
            placements={key: placed for key, placed in version.placements.items() if key in ids},
        )
        for tag, version in project.versions.items()
    }
    return replace(project, speakers=by_id, segments=ordered, versions=versions)


def set_segment_text(project: Project, segment_id: str, text: str) -> Project:
    """Change what was said. Words that are still there keep their times; lines of the segment become stale."""
    segment = find_segment(project, segment_id)
    text = " ".join(text.split())
    if text == segment.text:
        return project
    return _put_segment(project, replace(segment, text=text, words=_retimed_words(segment, text.split())))


def _retimed_words(segment: Segment, texts: list[str]) -> tuple[Word, ...]:
    """Words that are still there keep their times; new ones share the room between their neighbours evenly."""
    old = segment.words
    matcher = SequenceMatcher(a=[w.text for w in old], b=texts, autojunk=False)
    words: list[Word] = []
    for kind, a0, a1, b0, b1 in matcher.get_opcodes():
        if kind == "equal":
            words.extend(old[a0:a1])
            continue
        start = words[-1].end_us if words else segment.start_us
        end = old[a1].start_us if a1 < len(old) else max(segment.end_us, start)
        for number, text in enumerate(texts[b0:b1]):
            left, right = (start + (end - start) * k // (b1 - b0) for k in (number, number + 1))
            words.append(Word(text, left, right))
    return tuple(words)


def retime_segment(project: Project, segment_id: str, start_us: int, end_us: int) -> Project:
    """Move a segment's edges. Its words keep their own times."""
    segment = find_segment(project, segment_id)
    if start_us < 0 or end_us - start_us < SHORTEST_SEGMENT_US:
        raise EditError("A segment lasts at least 0.1 seconds and starts no earlier than the programme.")
    if project.programme and end_us > project.programme.sound.duration_us:
        raise EditError("A segment cannot end after the programme.")
    return _put_segment(project, replace(segment, start_us=start_us, end_us=end_us))


def set_on_screen(project: Project, segment_id: str, on_screen: bool) -> Project:
    """Say whether the speaker is seen while saying this."""
    return _put_segment(project, replace(find_segment(project, segment_id), on_screen=on_screen))


def assign_speaker(project: Project, segment_id: str, speaker_id: str) -> Project:
    """Give a segment to another speaker."""
    if speaker_id not in project.speakers:
        raise EditError(f"There is no speaker {speaker_id} in this project.")
    return _put_segment(project, replace(find_segment(project, segment_id), speaker_id=speaker_id))


def rename_speaker(project: Project, speaker_id: str, name: str) -> Project:
    """Give a speaker a name, unlike any other speaker's."""
    name = " ".join(name.split())
    if not name:
        raise EditError("A speaker needs a name.")
    if any(s.name == name and s.id != speaker_id for s in project.speakers.values()):
        raise EditError(f"Another speaker is already called {name}.")
    speaker = replace(project.speakers[speaker_id], name=name)
    return replace(project, speakers=_with(project.speakers, speaker_id, speaker))


def set_pitches(project: Project, pitches: Mapping[str, float]) -> Project:
    """Keep the measured pitch of speakers, in Hz."""
    known = {key: replace(project.speakers[key], pitch_hz=hz) for key, hz in pitches.items() if key in project.speakers}
    return replace(project, speakers={**project.speakers, **known})


def put_translation(project: Project, tag: str, segment_id: str, text: str, shorter: tuple[str, ...] = ()) -> Project:
    """Store what an engine or a file said a segment is in this version; takes, direction and pin are kept."""
    segment = find_segment(project, segment_id)
    before = find_version(project, tag).lines.get(segment_id) or Line(segment_id, "", "")
    line = replace(
        before,
        text=" ".join(text.split()),
        made_from=source_fingerprint(segment),
        shorter=shorter,
        by_hand=False,
    )
    return _put_line(project, tag, line)


def set_line_text(project: Project, tag: str, segment_id: str, text: str) -> Project:
    """Write a line by hand. It counts as made from the source as it stands now."""
    segment = find_segment(project, segment_id)
    before = find_version(project, tag).lines.get(segment_id) or Line(segment_id, "", "")
    text = " ".join(text.split())
    made_from = source_fingerprint(segment)
    if text == before.text and made_from == before.made_from:
        return project
    return _put_line(project, tag, replace(before, text=text, made_from=made_from, by_hand=True))


def set_direction(project: Project, tag: str, segment_id: str, direction: str) -> Project:
    """Say how a line is to be spoken."""
    line = find_line(project, tag, segment_id)
    return _put_line(project, tag, replace(line, direction=" ".join(direction.strip("() ").split())))


def cast_voice(project: Project, tag: str, speaker_id: str, voice: str | None) -> Project:
    """Give a speaker a voice in a version; None takes it away."""
    version = find_version(project, tag)
    if speaker_id not in project.speakers:
        raise EditError(f"There is no speaker {speaker_id} in this project.")
    cast = {key: value for key, value in version.cast.items() if key != speaker_id}
    if voice is not None:
        cast[speaker_id] = voice
    return _put_version(project, replace(version, cast=cast))


def add_take(project: Project, tag: str, take: Take) -> Project:
    """Keep a finished take and choose it for its line."""
    line = find_line(project, tag, take.segment_id)
    version = find_version(project, tag)
    version = replace(
        version,
        takes=_with(version.takes, take.id, take),
        lines=_with(version.lines, line.segment_id, replace(line, take_id=take.id)),
    )
    return _put_version(project, version)


def choose_take(project: Project, tag: str, take_id: str) -> Project:
    """Use another take of a line."""
    version = find_version(project, tag)
    take = version.takes.get(take_id)
    if take is None:
        raise EditError(f"There is no take {take_id} in {tag}.")
    return _put_line(project, tag, replace(find_line(project, tag, take.segment_id), take_id=take_id))


def pin_line(project: Project, tag: str, segment_id: str, pin: Pin | None) -> Project:
    """Pin a placement where a hand put it, or leave it to the plan again (None). The take stands there at once."""
    line = replace(find_line(project, tag, segment_id), pin=pin)
    moved = _put_line(project, tag, line)
    version = find_version(moved, tag)
    placement = version.placements.get(segment_id)
    if pin is None or placement is None:
        return moved
    if pin.start_us < 0:
        raise EditError("A take cannot start before the programme.")
    segment = find_segment(project, segment_id)
    placed = replace(
        placement,
        start_us=pin.start_us,
        length_us=pin.length_us or placement.length_us,
        reason="Put here by hand.",
        made_from=placement_fingerprint(version, segment, line, version.takes[placement.take_id]),
    )
    return _put_version(moved, replace(version, placements=_with(version.placements, segment_id, placed)))


def set_placements(project: Project, tag: str, placements: Iterable[Placement]) -> Project:
    """Take over a whole plan; placements that did not change keep their identity."""
    version = find_version(project, tag)
    before = version.placements
    after = {p.segment_id: before[p.segment_id] if before.get(p.segment_id) == p else p for p in placements}
    return _put_version(project, replace(version, placements=after))


def set_delivery(project: Project, tag: str, delivery: Delivery) -> Project:
    """Remember what was handed over."""
    return _put_version(project, replace(find_version(project, tag), delivery=delivery))
