"""Directions proposed from how the original is said: each line is compared with its speaker's others, and only what the
voice of the version can do is proposed, with the reason."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Final

import numpy as np

from zweistimme.engines.extra_questions import asked_extra
from zweistimme.engines.extra_roles import ToneItem, ToneRequest, Tones
from zweistimme.engines.offers import Role, VoiceInfo
from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice
from zweistimme.project.access import find_version
from zweistimme.project.edits import set_direction
from zweistimme.project.errors import EditError, EngineError
from zweistimme.project.facts import cast_voice_of, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.languages import spoken_tag
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.project.writing import ends_sentence, is_question, spoken_text, syllables
from zweistimme.sound.arrays import Floats
from zweistimme.sound.delivery import DeliveryFigures, delivery_figures
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.stages.work import Work, open_sound

_LEAST_LINES: Final = 3
"""Of somebody who says less nobody knows what is usual."""
_WORDS: Final[Mapping[str, tuple[str, ...]]] = {
    "whispered": ("whisper", "soft"), "shouted": ("shout", "loud", "angry"),
    "hurried": ("hurr", "quick", "fast", "lively"),
    "slow": ("slow", "calm"), "lively": ("lively", "excited", "cheer"), "flat": ("calm", "flat", "sad"),
    "questioning": ("question", "asking"),
}  # fmt: skip
"""What directions may be called by a voice, for what is heard."""
_SPREADS, _OF_TWO = 3.0, 1.5
"""How many spreads away something is unlike the others; two things at once need be less so."""
_LEAST: Final = {"level_db": 6.0, "pitch_st": 2.0, "spread_st": 1.2, "pace": 1.0}
_TEXTS_AT_ONCE: Final = 200
_LEAST_STRENGTH: Final = 0.3
_UNVOICED, _USUALLY_VOICED = 0.25, 0.45
_RISE_ST: Final = 3.5
_MOST_SPREAD_ST: Final = 6.0
"""Nobody speaks over more than an octave: what moves further was not heard rightly."""


@dataclass(frozen=True, slots=True)
class DirectionProposed:
    """A direction for a line, what it has now, and why another."""

    segment_id: str
    number: int
    before: str
    direction: str
    why: Finding


def proposed_directions(work: Work, tag: str, segment_ids: Iterable[str] | None = None) -> list[DirectionProposed]:
    """Directions for lines that have none, in order. EditError where there is no programme to listen to."""
    programme, version = work.project.programme, find_version(work.project, tag)
    if programme is None:
        raise EditError("There is no programme to listen to. Bring one in first.")
    wanted = None if segment_ids is None else set(segment_ids)
    segments = spoken_segments(work.project)
    numbers = {segment.id: number for number, segment in enumerate(segments, 1)}
    figures = _measured(work, segments)
    found = []
    for speaker in dict.fromkeys(segment.speaker_id for segment in segments):
        voice, own = _voice(version.cast.get(speaker, "")), [s for s in segments if s.speaker_id == speaker]
        known = [figures[segment.id] for segment in own if segment.id in figures]
        if voice is None or len(known) < _LEAST_LINES:
            continue
        usual = _usual(known)
        for segment in own:
            line = version.lines.get(segment.id)
            if line is None or line.direction or segment.id not in figures or line.locked:
                continue
            if wanted is not None and segment.id not in wanted:
                continue
            said_by = _voice(line.voice) if line.voice else voice
            for kind, why in _heard(figures[segment.id], usual, segment):
                direction = _called(said_by, kind) if said_by is not None else ""
                if direction:
                    found.append(DirectionProposed(segment.id, numbers[segment.id], line.direction, direction, why))
                    break
    return sorted(found, key=lambda one: one.number)


def proposed_by_text(
    work: Work, tag: str, name: str, segment_ids: Iterable[str] | None = None
) -> list[DirectionProposed]:
    """Directions for lines that have none, from the tone in which the engine of a connection would say their
    wordings; only what the voice of a line can do. EngineError where it senses no tones."""
    project, version = work.project, find_version(work.project, tag)
    wanted = None if segment_ids is None else set(segment_ids)
    open_ = []
    for number, segment in enumerate(spoken_segments(project), 1):
        line = version.lines.get(segment.id)
        if line is None or line.direction or line.locked or not line.text.strip():
            continue
        if wanted is None or segment.id in wanted:
            open_.append((number, segment, line))
    asked, found = engine(name), []
    for start in range(0, len(open_), _TEXTS_AT_ONCE):
        some = open_[start : start + _TEXTS_AT_ONCE]
        items = tuple(ToneItem(segment.id, spoken_text(line.text)) for _, segment, line in some)
        request = ToneRequest(spoken_tag(tag), items)
        with work.ledger.question(
            name, Role.SENSE, asked.info().price.of(sum(len(item.text) for item in items))
        ) as charge:
            answer = asked_extra(asked, request, Tones)
            charge(answer.cost)
        tones = {tone.id: tone for tone in answer.items}
        for number, segment, line in some:
            tone, voice = tones[segment.id], _voice(cast_voice_of(version, segment) or "")
            if voice is None or tone.strength < _LEAST_STRENGTH or not tone.tone:
                continue
            direction = next((one for one in voice.directions if tone.tone.lower()[:5] in one.lower()), "")
            if direction:
                why = Finding(
                    "text-has-tone", {"engine": name, "tone": tone.tone, "strength": round(100 * tone.strength)}
                )
                found.append(DirectionProposed(segment.id, number, line.direction, direction, why))
        work.report(min(1.0, (start + len(some)) / max(1, len(open_))))
    return found


def delivery_kinds(work: Work, segments: Sequence[Segment]) -> dict[str, str]:
    """How each of a person's lines is said, where it is unlike the others: ``whispered``, ``shouted``, ``hurried`` …;
    those that are said as usual are not there, and nobody is of whom there are too few lines."""
    figures = _measured(work, segments)
    if len(figures) < _LEAST_LINES:
        return {}
    usual = _usual([*figures.values()])
    found = {one.id: _heard(figures[one.id], usual, one) for one in segments if one.id in figures}
    return {key: kinds[0][0] for key, kinds in found.items() if kinds}


def _measured(work: Work, segments: Sequence[Segment]) -> dict[str, DeliveryFigures]:
    import soxr

    programme = work.project.programme
    assert programme is not None
    found = {}
    with open_sound(work, programme.sound) as reader:
        for done, segment in enumerate(segments):
            a, b = us_to_samples(segment.start_us), us_to_samples(segment.end_us)
            low = np.asarray(soxr.resample(reader.mono(a, b - a), RATE, LOW_RATE, "HQ"), dtype=np.float32)
            one = delivery_figures(low, syllables(segment.text, work.project.source_tag))
            if one is not None:
                found[segment.id] = one
            work.report((done + 1) / len(segments))
    return found


def _voice(ref: str) -> VoiceInfo | None:
    """The voice that a cast names; None where its engine does not answer."""
    name, voice_id = split_voice(ref)
    try:
        return engine(name).info().voice(voice_id) if ref else None
    except EngineError:
        return None


def _called(voice: VoiceInfo, kind: str) -> str:
    """What a voice calls a way of speaking; empty where it has none."""
    return next((one for word in _WORDS[kind] for one in voice.directions if word in one.lower()), "")


def _usual(own: Sequence[DeliveryFigures]) -> dict[str, tuple[float, float]]:
    """By a figure, what is usual for a person, and how far their lines spread about it."""
    found = {}
    for field in fields(DeliveryFigures):
        values: Floats = np.array([getattr(one, field.name) for one in own])
        values = values[np.isfinite(values)]
        if len(values):
            middle = float(np.median(values))
            found[field.name] = middle, 1.4826 * float(np.median(np.abs(values - middle)))
    return found


def _heard(
    one: DeliveryFigures, usual: Mapping[str, tuple[float, float]], segment: Segment
) -> list[tuple[str, Finding]]:
    """What is unlike a person's other lines, what counts most first, with how far."""
    away = {name: getattr(one, name) - middle for name, (middle, _) in usual.items()}

    def out(name: str, sign: int, spreads: float = _SPREADS) -> bool:
        return name in usual and bool(sign * away[name] > max(_LEAST[name], spreads * usual[name][1]))

    found: list[tuple[str, Finding]] = []
    if one.voiced < _UNVOICED and usual["voiced"][0] > _USUALLY_VOICED:
        found.append(("whispered", Finding("heard-whispered", {"share": round(100 * one.voiced)})))
    if out("level_db", 1, _OF_TWO) and out("pitch_st", 1, _OF_TWO):
        figures = {"level_db": round(away["level_db"], 1), "pitch_st": round(away["pitch_st"], 1)}
        found.append(("shouted", Finding("heard-shouted", figures)))
    pace, common = round(one.pace, 1), round(usual.get("pace", (0.0, 0.0))[0], 1)
    if out("pace", 1):
        found.append(("hurried", Finding("heard-hurried", {"pace": pace, "usual": common})))
    if out("pace", -1):
        found.append(("slow", Finding("heard-slow", {"pace": pace, "usual": common})))
    if out("spread_st", 1) and one.spread_st < _MOST_SPREAD_ST:
        found.append(("lively", Finding("heard-lively", {"more_st": round(away["spread_st"], 1)})))
    asks = is_question(segment.text) or not ends_sentence(segment.text)
    if np.isfinite(one.rise_st) and one.rise_st > _RISE_ST and not asks:
        found.append(("questioning", Finding("heard-questioning", {"rise_st": round(one.rise_st, 1)})))
    return found


def give_directions(project: Project, tag: str, proposed: Sequence[DirectionProposed]) -> Project:
    """Take directions over; lines that have one by now, are locked or gone keep what they have."""
    for one in proposed:
        line = find_version(project, tag).lines.get(one.segment_id)
        if line is not None and not line.direction and not line.locked:
            project = set_direction(project, tag, one.segment_id, one.direction)
    return project
