"""How the dub of a version sits: what is done to each line, how loud it is, and in which room it is heard.

Takes of one speaker are brought to one level, each line as far from it as the original's is; a whisper stays softer,
and what is left of their differences is bounded. All of it is worked out from what was measured, so that the desk can
play a mix without measuring anything, as far as that is known.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import log10
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.project.access import find_version
from zweistimme.project.facts import mix_of
from zweistimme.project.findings import Finding
from zweistimme.project.mix_settings import Place, Treatment
from zweistimme.project.model import Project, Style, Version
from zweistimme.project.picks import is_bed_the_rest
from zweistimme.sound.arrays import amplitude
from zweistimme.sound.room_response import Room
from zweistimme.stages.fit.render import fitted_key
from zweistimme.stages.mix.kept import keep_figures, kept_figures
from zweistimme.stages.mix.original_voices import OriginalVoices, known_voices, measured_voices
from zweistimme.stages.mix.placed import PlacedTake, placed_takes
from zweistimme.stages.mix.take_sounds import TakeSound, in_groups, known_sounds, measured_sounds, speech_energy
from zweistimme.stages.mix.track_levels import (
    SILENT_ENERGY,
    OriginalLevels,
    kept_energies,
    original_levels,
    track_energies,
)
from zweistimme.stages.mix.treated_clips import prune_treated, treated_clips, treated_file, treated_key
from zweistimme.stages.mix.treatments import UNTREATED, VoiceTreatment, rooms_of, treatments_of
from zweistimme.stages.work import Work

KEPT_DB: Final = (-4.0, 3.0)
"""How far a take may stay from its speaker's others by its own level, where the original says nothing."""
_FOLLOWED_DB: Final = (-12.0, 6.0)
"""How far a line may lie from its speaker's others as the original's does."""
_WHISPER_DB: Final = -10.0
_MOST_GAIN_DB: Final = 45.0
GAIN_DIGITS: Final = 3
"""Gains are whole thousandths of a decibel, so that what is rounded otherwise on another machine moves no sample."""
_ROOM_AT_A_DISTANCE_DB: Final = 3.0
AS_SPOKEN: Final = Treatment(tone=False, room=False, high_pass=False, de_ess=False, even_out=False)
_NO_LEVELS: Final = OriginalLevels({}, {})


@dataclass(frozen=True, slots=True)
class Sitting:
    """What is done to placed takes, by segment: treatment, a factor, and the room it is heard in with the factor of
    what is sent there; *complete* says whether everything was measured that it comes from."""

    treatments: Mapping[str, VoiceTreatment]
    gains: Mapping[str, float]
    rooms: Mapping[str, tuple[Room, float]]
    complete: bool = True


def measured_sitting(work: Work, tag: str, takes: Sequence[PlacedTake]) -> Sitting:
    """How a version's dub sits, with everything measured that was not before."""
    project, version = work.project, find_version(work.project, tag)
    levels = _measured_levels(work)
    voices = measured_voices(work)
    sounds = _by_segment(takes, measured_sounds(replace(work, report=work.part(0.0, 0.7)), tag, takes))
    silent = sum(sounds[item.segment.id].energy <= SILENT_ENERGY for item in takes)
    if silent:
        work.say(Finding("takes-silent", {"takes": silent, "version": tag}))
    treatments = treatments_of(project, version, mix_of(project, version).treatment, takes, sounds, voices)
    energies = _treated_energies(replace(work, report=work.part(0.7, 1.0)), tag, takes, treatments)
    return _sitting(project, version, takes, treatments, sounds, energies, levels, voices)


def known_sitting(
    project: Project, tag: str, takes: Sequence[PlacedTake], cache: Path, *, untreated: bool = False
) -> Sitting:
    """How a version's dub sits, as far as it can be told without listening. A take that was not measured yet counts as
    being as loud as the others are in the middle. *untreated*: as loud, with nothing done to it."""
    version = find_version(project, tag)
    levels, voices = _known_levels(project, cache), known_voices(project, cache) if project.programme else None
    sounds = _by_segment(takes, known_sounds(cache, tag))
    steps = AS_SPOKEN if untreated else mix_of(project, version).treatment
    treatments = treatments_of(project, version, steps, takes, sounds, voices)
    if untreated:
        treatments = dict.fromkeys(treatments, UNTREATED)
    kept = kept_figures(_energies_file(cache, tag), dict[str, float]) or {}
    energies = {item.segment.id: kept.get(_level_key(item, treatments[item.segment.id])) for item in takes}
    known = {key: energy for key, energy in energies.items() if energy is not None}
    guessed = {key: sound.energy for key, sound in sounds.items()} | known
    made = _sitting(project, version, takes, treatments, sounds, guessed, levels or _NO_LEVELS, voices)
    if untreated:
        made = replace(made, rooms={})
    there = levels is not None and (voices is not None or not takes)
    return replace(made, complete=there and len(known) == len(takes))


def prune_clips(cache: Path, project: Project) -> None:
    """Remove treated clips that no placement of any version has any more: every change of a voice's tone left some."""
    used = set()
    for tag, version in project.versions.items():
        takes = placed_takes(project, version)
        sitting = known_sitting(project, tag, takes, cache)
        used |= {treated_file(cache, item, sitting.treatments[item.segment.id]) for item in takes}
    prune_treated(cache, used)


def _by_segment(takes: Sequence[PlacedTake], sounds: Mapping[str, TakeSound]) -> dict[str, TakeSound]:
    found = {item.segment.id: sounds.get(fitted_key(item.take, item.placement)) for item in takes}
    return {segment_id: sound for segment_id, sound in found.items() if sound is not None}


def _measured_levels(work: Work) -> OriginalLevels:
    programme = work.project.programme
    if programme is None:
        return _NO_LEVELS
    original = track_energies(work, programme.sound)
    bed = track_energies(work, programme.bed) if programme.bed and not is_bed_the_rest(programme) else None
    return original_levels(work.project, original, bed)


def _known_levels(project: Project, cache: Path) -> OriginalLevels | None:
    programme = project.programme
    original = kept_energies(cache, programme.sound) if programme else None
    if programme is None or original is None:
        return None
    bed = kept_energies(cache, programme.bed) if programme.bed and not is_bed_the_rest(programme) else None
    return original_levels(project, original, bed)


def _energies_file(cache: Path, tag: str) -> Path:
    return cache / f"treated-levels-{tag}.msgpack"


def _treated_energies(
    work: Work, tag: str, takes: Sequence[PlacedTake], treatments: Mapping[str, VoiceTreatment]
) -> dict[str, float]:
    """The energy of each take once it is treated, by segment; kept, since most are what they were."""
    file = _energies_file(work.cache, tag)
    known = kept_figures(file, dict[str, float]) or {}
    keys = {item.segment.id: _level_key(item, treatments[item.segment.id]) for item in takes}
    missing = [item for item in takes if keys[item.segment.id] not in known]

    def measure(group: Sequence[PlacedTake]) -> list[float]:
        wanted = [_levelled(treatments[item.segment.id]) for item in group]
        return [speech_energy(sound) for sound in treated_clips(group, wanted, work.clips, work.cache)]

    made = in_groups(missing, measure, work.report)
    known = {**known, **{keys[item.segment.id]: energy for item, energy in zip(missing, made, strict=True)}}
    found = {key: known[key] for key in keys.values()}
    if missing or len(found) != len(known):
        keep_figures(file, found)
    return {segment_id: found[key] for segment_id, key in keys.items()}


def _levelled(treatment: VoiceTreatment) -> VoiceTreatment:
    """As what a take is measured: a phrase that somebody made louder does not make the rest softer."""
    return replace(treatment, phrases=())


def _level_key(item: PlacedTake, treatment: VoiceTreatment) -> str:
    return treated_key(item, _levelled(treatment))


def _sitting(
    project: Project,
    version: Version,
    takes: Sequence[PlacedTake],
    treatments: Mapping[str, VoiceTreatment],
    sounds: Mapping[str, TakeSound],
    energies: Mapping[str, float],
    levels: OriginalLevels,
    voices: OriginalVoices | None,
) -> Sitting:
    gains_db = _gains_db(project, version, takes, sounds, energies, levels)
    gains = {segment_id: amplitude(round(gain_db, GAIN_DIGITS)) for segment_id, gain_db in gains_db.items()}
    return Sitting(treatments, gains, _rooms(project, version, takes, treatments, voices))


def _rooms(
    project: Project,
    version: Version,
    takes: Sequence[PlacedTake],
    treatments: Mapping[str, VoiceTreatment],
    voices: OriginalVoices | None,
) -> dict[str, tuple[Room, float]]:
    """The room each line is heard in, where it is heard in any. Who speaks into a telephone is heard in none."""
    mix = mix_of(project, version)
    if not mix.treatment.room or version.style is Style.VOICE_OVER:
        return {}
    rooms, found = rooms_of(project, voices), {}
    for item in takes:
        room, place = rooms.get(item.segment.speaker_id), treatments.get(item.segment.id, UNTREATED).place
        if room is not None and place is not Place.TELEPHONE:
            farther_db = 0.0 if place is Place.NEAR else _ROOM_AT_A_DISTANCE_DB
            found[item.segment.id] = (room, amplitude(mix.room_db + farther_db))
    return found


def _gains_db(
    project: Project,
    version: Version,
    takes: Sequence[PlacedTake],
    sounds: Mapping[str, TakeSound],
    energies: Mapping[str, float],
    levels: OriginalLevels,
) -> dict[str, float]:
    """By how many dB each placed take is made louder, by its segment. A speaker nobody could measure is as loud as the
    others are in the middle; a silent take is left alone."""
    heard = [energy for energy in energies.values() if energy > SILENT_ENERGY]
    middle = float(np.median(heard)) if heard else 0.0
    usual = float(np.median(list(levels.speakers.values()))) if levels.speakers else 0.0
    own_levels = mix_of(project, version).treatment.line_levels and version.style is not Style.VOICE_OVER
    by_speaker: dict[str, list[tuple[PlacedTake, float]]] = {}
    for item in takes:
        energy = energies.get(item.segment.id, middle)
        if energy > SILENT_ENERGY:
            by_speaker.setdefault(item.segment.speaker_id, []).append((item, 10 * log10(energy)))
    gains = {item.segment.id: 0.0 for item in takes}
    for speaker, own in by_speaker.items():
        wanted = levels.speakers.get(speaker, usual)
        if wanted <= 0:
            continue
        usual_db = float(np.median([level_db - _asked_db(version, item) for item, level_db in own]))
        for item, level_db in own:
            asked_db = _asked_db(version, item)
            line = levels.lines.get(item.segment.id) if own_levels else None
            sound = sounds.get(item.segment.id)
            whispered = sound is not None and not sound.voiced
            by_take_db = float(
                np.clip(level_db - asked_db - usual_db, _WHISPER_DB if whispered else KEPT_DB[0], KEPT_DB[1])
            )
            apart_db = by_take_db
            if line is not None:
                followed_db = float(np.clip(10 * log10(line / wanted), *_FOLLOWED_DB))
                apart_db = min(followed_db, by_take_db) if whispered else followed_db
            # heard from both sides, one channel has twice its energy
            gain_db = 10 * log10(wanted / 2) + apart_db + asked_db - level_db
            gains[item.segment.id] = min(gain_db, _MOST_GAIN_DB)
    return gains


def _asked_db(version: Version, item: PlacedTake) -> float:
    """By how much somebody wants this line louder than it would be: its speaker's lines, and this one more."""
    line, manner = version.lines.get(item.segment.id), version.manners.get(item.segment.speaker_id)
    own_db = line.manner.volume_db + line.hand.gain_db if line else 0.0
    return own_db + (manner.volume_db if manner else 0.0)
