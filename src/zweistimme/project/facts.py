"""Facts derived from a project: fingerprints, and what is stale. Nothing here is stored."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from dataclasses import astuple
from functools import lru_cache

from zweistimme.project.hand_fit import AS_PLANNED, HandFit
from zweistimme.project.held_words import phrase_hands_in, pins_in
from zweistimme.project.mix_settings import Beneath, MixSettings
from zweistimme.project.model import (
    AS_USUAL,
    Failure,
    Line,
    Made,
    Manner,
    Placement,
    Project,
    Segment,
    Style,
    Take,
    TakeKind,
    Version,
)
from zweistimme.project.picks import sound_key
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.project.shots import cuts_near
from zweistimme.project.sound_delivery import presets_of
from zweistimme.project.words import inner_pauses

_MIXED_LIKE = 2
"""Counted on where the same settings make another mix than before."""
IMPORTED_VOICE = "a person"
"""What stands for the voice in the fingerprint of a take that no engine made."""


@lru_cache(maxsize=200_000)
def fingerprint(*parts: object) -> str:
    """A short stable name for what something was made from; kept, since every view asks for the same ones.

    >>> fingerprint("a", 1) == fingerprint("a", 1) != fingerprint("a", 2)
    True
    """
    text = json.dumps(parts, ensure_ascii=False, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def source_fingerprint(segment: Segment) -> str:
    """What a line is made from: the words of its segment."""
    return fingerprint("line", segment.text.strip())


def take_fingerprint(line: Line, voice: str, said: tuple[tuple[str, str], ...] = ()) -> str:
    """What a take is made from: wording, direction, manner, voice, and which of its words are *said* otherwise than a
    voice would read them. A person who speaks it reads the words."""
    manner = () if line.manner == AS_USUAL else (_manner_parts(line.manner),)
    otherwise = ("said", said) if said and voice != IMPORTED_VOICE else ()
    return fingerprint("take", line.text.strip(), line.direction.strip(), voice, *manner, *otherwise)


def _manner_parts(manner: Manner) -> tuple[object, ...]:
    """A manner as fingerprints have it: without a seed where none was given, as it was before there were any."""
    parts = astuple(manner)
    return parts if manner.seed else parts[:-1]


def cast_voice_of(version: Version, segment: Segment) -> str | None:
    """The voice that speaks a segment: its line's own, else its speaker's; None where none is cast."""
    line = version.lines.get(segment.id)
    return (line.voice if line is not None else "") or version.cast.get(segment.speaker_id)


def speaker_manner(version: Version, segment: Segment) -> Manner:
    """How the speaker's voice is to speak. It was set for that voice: a line with a voice of its own has its own manner
    alone."""
    line = version.lines.get(segment.id)
    return AS_USUAL if line is not None and line.voice else version.manners.get(segment.speaker_id, AS_USUAL)


def voice_of(version: Version, segment: Segment) -> str | None:
    """The voice of a segment with the manner it is to speak in, as fingerprints have it; None where none is cast."""
    voice, manner = cast_voice_of(version, segment), speaker_manner(version, segment)
    return voice if voice is None or manner == AS_USUAL else fingerprint(voice, *_manner_parts(manner))


def cuts_of(project: Project) -> tuple[int, ...]:
    """When shots of the picture begin, as far as anybody knows."""
    return (project.programme.cuts_us or ()) if project.programme else ()


def placement_fingerprint(project: Project, version: Version, segment: Segment, line: Line, take: Take) -> str:
    """What a placement is made from: the take, the slot, the pin, the version's limits, and cuts nearby."""
    pin = (line.pin.start_us, line.pin.length_us) if line.pin else None
    slot = (segment.start_us, segment.end_us, segment.on_screen)
    speech = (take.speech_start_samples, take.speech_end_samples, take.pauses_samples)
    more: list[object] = list(_phrase_edges(version, segment, take))
    # only where a hand said something, so that what was placed before is not stale
    held = [(take.words[one.word].start_us, one.start_us) for one in pins_in(line, take)]
    more += [("words", tuple(held))] if held else []
    more += [("hand", *_fitted_by(line.hand))] if _fitted_by(line.hand) != _fitted_by(AS_PLANNED) else []
    said = [(take.words[one.word].start_us, one.tempo, one.pause_us) for one in phrase_hands_in(line, take)
            if (one.tempo, one.pause_us) != (None, None)]  # fmt: skip
    more += [("phrases", tuple(said))] if said else []
    more += [("limits", astuple(version.limits))] if version.limits is not None else []
    near = cuts_near(segment, cuts_of(project))
    more += [("cuts", near)] if near != (None, None) else []
    return fingerprint("placement", take.id, take.clip, speech, slot, pin, version.style, version.preference, *more)


def _fitted_by(hand: HandFit) -> tuple[object, ...]:
    """What of a hand's saying the plan goes by."""
    return hand.tempo, hand.pauses, hand.start_slack_us, hand.end_slack_us, hand.fit_as


def _phrase_edges(version: Version, segment: Segment, take: Take) -> list[tuple[int, int]]:
    """Where the original pauses, where that matters: both have to pause for a line to be placed phrase by phrase."""
    if not segment.on_screen or version.style is Style.VOICE_OVER or not take.pauses_samples:
        return []
    return [(segment.words[k - 1].end_us, segment.words[k].start_us) for k in inner_pauses(segment)]


def line_is_stale(segment: Segment, line: Line) -> bool:
    """The source text has changed since the line was made."""
    return line.made_from != source_fingerprint(segment)


def wanted_voice(project: Project, version: Version, segment: Segment, take: Take | None = None) -> str | None:
    """The voice a take of this segment should have; a recorded or imported take keeps its own."""
    if take is not None and take.kind is not TakeKind.SYNTHESIZED:
        return IMPORTED_VOICE
    return voice_of(version, segment)


def chosen_take(version: Version, line: Line) -> Take | None:
    """The take in use for a line, stale or not."""
    return version.takes.get(line.take_id) if line.take_id else None


def take_is_stale(project: Project, version: Version, segment: Segment, line: Line, take: Take) -> bool:
    """Wording, direction or voice have changed since the take was made."""
    voice = wanted_voice(project, version, segment, take)
    return voice is None or take.made_from != take_fingerprint(line, voice, said_in(project, version, line))


def said_in(project: Project, version: Version, line: Line) -> tuple[tuple[str, str], ...]:
    """Which words of a line are said otherwise than a voice would read them."""
    return pronunciations_of(project, version.tag).of(line.text)


def fresh_take(project: Project, version: Version, segment: Segment) -> Take | None:
    """The chosen take if it still says what the line says."""
    line = version.lines.get(segment.id)
    take = chosen_take(version, line) if line else None
    if line is None or take is None or take_is_stale(project, version, segment, line, take):
        return None
    return take


def placement_is_stale(project: Project, version: Version, segment: Segment) -> bool:
    """The placement does not belong to the chosen take, slot, pin, limits or cuts any more."""
    line = version.lines.get(segment.id)
    placement = version.placements.get(segment.id)
    take = chosen_take(version, line) if line else None
    if line is None or placement is None or take is None:
        return True
    return placement.made_from != placement_fingerprint(project, version, segment, line, take)


def failure_of(project: Project, version: Version, segment: Segment) -> Failure | None:
    """Why the line or take of a segment could not be made, if the same is still missing."""
    failure = version.failures.get(segment.id)
    if failure is None:
        return None
    if failure.made is Made.LINE:
        line = version.lines.get(segment.id)
        missing = line is None or not line.text.strip() or line_is_stale(segment, line)
        return failure if missing and failure.asked == source_fingerprint(segment) else None
    line, voice = version.lines.get(segment.id), voice_of(version, segment)
    if line is None or voice is None or failure.asked != take_fingerprint(line, voice, said_in(project, version, line)):
        return None
    return failure if fresh_take(project, version, segment) is None else None


def heard_of(segment: Segment, line: Line | None, take: Take | None, placement: Placement | None) -> bytes:
    """A digest of what a hand-over has of one segment: mixes give way to speech, captions show what is said and
    written, levels follow who speaks."""
    words = [(word.text, word.start_us, word.end_us) for word in segment.words]
    seen = (segment.on_screen, segment.place)
    parts: list[object] = [segment.speaker_id, segment.start_us, segment.end_us, segment.text, words, seen]
    parts += [line.text, *loudness_by_hand(line)] if line else [None]
    if placement is not None and take is not None:
        parts += [placement.start_us, placement.length_us, placement.pauses_cut_us]
        parts += [astuple(one) for one in placement.phrases]
        parts += [take.clip, take.speech_start_samples, take.speech_end_samples, take.pauses_samples]
        parts += [(word.text, word.start_us, word.end_us) for word in take.words]
    text = json.dumps(parts, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).digest()[:8]


def loudness_by_hand(line: Line) -> tuple[object, ...]:
    """What somebody says of how loud a line is, and where it swells and fades."""
    hand = line.hand
    phrases = [(one.word, *one.said, one.gain_db, one.fade_in_us, one.fade_out_us) for one in hand.phrases]
    return line.manner.volume_db, hand.gain_db, hand.fade_in_us, hand.fade_out_us, *phrases


def delivery_fingerprint(project: Project, version: Version, heard: Iterable[bytes]) -> str:
    """What a hand-over is made from: what is *heard* of each segment, the people, the sounds, how they are mixed."""
    sounds = None
    bed = project.programme.bed if project.programme else None
    if project.programme:
        sounds = (sound_key(project.programme.sound), sound_key(bed) if bed else None)
    mixed = _mixed_from(mix_of(project, version), version, has_bed=bed is not None)
    people = [(speaker.id, speaker.name) for speaker in project.speakers.values()]
    head: list[object] = [project.title, project.source_tag, version.tag, mixed, sounds, people]
    # only where there are any, so that what was handed over before there were is not stale
    head += [
        [tag, *astuple(limits)]
        for tag in (project.source_tag, version.tag)
        if (limits := project.caption_limits.get(tag)) is not None
    ]
    head += [[person, manner.volume_db] for person, manner in version.manners.items() if manner.volume_db]
    own = presets_of(project.presets)
    head += [[name, *astuple(own[name])] for name in version.presets if name in own]
    digest = hashlib.sha256(json.dumps(head, ensure_ascii=False).encode())
    digest.update(b"".join(heard))
    return digest.hexdigest()[:16]


def mix_of(project: Project, version: Version) -> MixSettings:
    """How a version is mixed: as it says itself, else as the project does."""
    return version.mix or project.mix


def _mixed_from(mix: MixSettings, version: Version, *, has_bed: bool) -> tuple[object, ...]:
    """What of its settings a version's mix is made from, in its style and with a bed or without one."""
    over = version.style is Style.VOICE_OVER
    lies_there = has_bed and mix.beneath is Beneath.AS_THERE and not over
    under: list[object] = [mix.beneath, mix.bed_db if has_bed else None]
    if not lies_there:
        depth_db = mix.voice_over_duck_db if over else mix.duck_db
        under += [depth_db if mix.beneath is not Beneath.ROOM_TONE or over else None, *astuple(mix.giving)]
    room_db = mix.room_db if mix.treatment.room else None
    return (_MIXED_LIKE, mix.loudness_lufs, mix.true_peak_dbtp, over, under, astuple(mix.treatment), room_db)


def lines_without_take(project: Project, version: Version) -> list[tuple[int, Segment]]:
    """Spoken segments that a version has no take for, with their numbers, counted from 1."""
    without = []
    for number, segment in enumerate(spoken_segments(project), 1):
        line = version.lines.get(segment.id)
        if line is None or chosen_take(version, line) is None:
            without.append((number, segment))
    return without


def spoken_segments(project: Project) -> list[Segment]:
    """Segments that have words to dub; speech nobody could recognise has none yet."""
    return [segment for segment in project.segments if segment.text.strip()]


def speakers_in_use(project: Project) -> list[str]:
    """Ids of speakers who say something, in order of first appearance."""
    return list(dict.fromkeys([s.speaker_id for s in project.segments if s.text and s.text.strip()]))
