"""What is done to the voice of each line so that it sits where the original's sat.

Each figure comes from what was measured of both voices and is rounded to steps nobody hears, so that one line more
or less does not make every other sound again.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from zweistimme.project.hand_fit import AS_PLANNED
from zweistimme.project.mix_settings import Place, Treatment
from zweistimme.project.model import Project, Style, Version
from zweistimme.sound.long_spectrum import BANDS_HZ, NOTHING, correction_db, together
from zweistimme.sound.room_response import Room, rounded_room
from zweistimme.sound.voice_dynamics import joined
from zweistimme.stages.mix.clip_envelope import PhraseShape, shapes_of
from zweistimme.stages.mix.original_voices import OriginalVoice, OriginalVoices
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.mix.take_sounds import TakeSound

MOST_TONE_DB: Final = 6.0
_TONE_STEP_DB: Final = 0.5
_UNDER_PITCH: Final = 0.7
_HIGH_PASS_HZ: Final = (40.0, 140.0)
_HIGH_PASS_STEP_HZ: Final = 10.0
_STEP_DB: Final = 0.5
_SLOPE_STEP: Final = 0.05
_LEAST_FRAMES: Final = 60
"""Under 1.3 seconds of speech nothing is said of a voice's tone."""
_MORE_SPREAD_DB: Final = 1.0


@dataclass(frozen=True, slots=True)
class VoiceTreatment:
    """What is done to a clip: below *high_pass_hz* nothing (0: as it is); each third octave by *tone_db* (empty: as
    it is); sibilants held under *sibilance_db* over the speech; of levels over the middle *slope* is left; *place*;
    over how long its ends are faded by hand, and how its *phrases* are heard."""

    high_pass_hz: float = 0.0
    tone_db: tuple[float, ...] = ()
    sibilance_db: float | None = None
    slope: float = 1.0
    place: Place = Place.NEAR
    fade_in_us: int = 0
    fade_out_us: int = 0
    phrases: tuple[PhraseShape, ...] = ()


UNTREATED: Final = VoiceTreatment()


def treatments_of(
    project: Project,
    version: Version,
    steps: Treatment,
    takes: Sequence[PlacedTake],
    sounds: Mapping[str, TakeSound],
    voices: OriginalVoices | None,
) -> dict[str, VoiceTreatment]:
    """What is done to each placed take, by its segment. *sounds* are by segment too; a person of whom nothing was
    measured is left as they are. Over a voice-over's original nobody is to sound as if they stood in it."""
    over = version.style is Style.VOICE_OVER
    by_person: dict[str, list[TakeSound]] = {}
    for item in takes:
        if item.segment.id in sounds:
            by_person.setdefault(item.segment.speaker_id, []).append(sounds[item.segment.id])
    seen = {segment.speaker_id for segment in project.segments if segment.on_screen}
    voice_of = {
        person: _of_voice(steps, some, None if over or voices is None else voices.people.get(person), voices)
        for person, some in by_person.items()
    }
    found = {}
    for item in takes:
        own = voice_of.get(item.segment.speaker_id, UNTREATED)
        place = Place.NEAR if over else place_of(item, seen=item.segment.speaker_id in seen)
        line = version.lines.get(item.segment.id)
        hand = line.hand if line else AS_PLANNED
        shapes = shapes_of(line, item) if line else ()
        found[item.segment.id] = replace(
            own, place=place, fade_in_us=hand.fade_in_us, fade_out_us=hand.fade_out_us, phrases=shapes
        )
    return found


def place_of(item: PlacedTake, *, seen: bool) -> Place:
    """Where a line is heard: who is never seen is a narrator, and near."""
    place = item.segment.place
    if place is not Place.AS_SEEN:
        return place
    return Place.NEAR if item.segment.on_screen or not seen else Place.FAR


def _of_voice(
    steps: Treatment, sounds: Sequence[TakeSound], original: OriginalVoice | None, voices: OriginalVoices | None
) -> VoiceTreatment:
    return VoiceTreatment(
        _high_pass_hz(sounds) if steps.high_pass else 0.0,
        _tone_db(sounds, original, voices) if steps.tone and original is not None and voices is not None else (),
        _sibilance_db(original) if steps.de_ess else None,
        _slope(sounds, original) if steps.even_out else 1.0,
    )


def _high_pass_hz(sounds: Sequence[TakeSound]) -> float:
    """Well under what the voice has lowest."""
    voiced = [sound.low_pitch_hz for sound in sounds if sound.voiced]
    if not voiced:
        return 0.0
    low = float(np.clip(_UNDER_PITCH * np.median(voiced), *_HIGH_PASS_HZ))
    return round(low / _HIGH_PASS_STEP_HZ) * _HIGH_PASS_STEP_HZ


def _tone_db(sounds: Sequence[TakeSound], original: OriginalVoice, voices: OriginalVoices) -> tuple[float, ...]:
    given = together([sound.bands() for sound in sounds])
    if min(given.frames, original.frames) < _LEAST_FRAMES:
        return ()
    under = voices.bands_under() if len(voices.under) == len(BANDS_HZ) else NOTHING
    wanted_db = correction_db(original.bands(), given, under, MOST_TONE_DB, _high_pass_hz(sounds))
    gains = np.round(wanted_db / _TONE_STEP_DB) * _TONE_STEP_DB
    return tuple(gains.tolist()) if gains.any() else ()


def _sibilance_db(original: OriginalVoice | None) -> float | None:
    """No sharper than the original's sharp moments."""
    if original is None or original.dynamics is None or original.frames < _LEAST_FRAMES:
        return None
    return round(original.dynamics.sibilance_db / _STEP_DB) * _STEP_DB


def _slope(sounds: Sequence[TakeSound], original: OriginalVoice | None) -> float:
    """Loud moments go no further over the rest than the original's do."""
    own = joined([sound.dynamics for sound in sounds if sound.dynamics is not None])
    if own is None or original is None or original.dynamics is None or original.frames < _LEAST_FRAMES:
        return 1.0
    if own.spread_db <= original.dynamics.spread_db + _MORE_SPREAD_DB:
        return 1.0
    return round(original.dynamics.spread_db / own.spread_db / _SLOPE_STEP) * _SLOPE_STEP


def rooms_of(project: Project, voices: OriginalVoices | None) -> dict[str, Room]:
    """The room of each person that rings: their own, or that of all where theirs cannot be told."""
    if voices is None:
        return {}
    found = {}
    for person in project.speakers:
        own = voices.people.get(person)
        decays = own.decays_s if own is not None and own.decays_s else voices.decays_s
        if decays:
            room = rounded_room(decays)
            if room.is_heard:
                found[person] = room
    return found
