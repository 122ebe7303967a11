"""What the lanes of a mix are drawn from: a column each, over the whole programme."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.messages import msg, tr
from zweistimme.project.facts import mix_of
from zweistimme.project.model import Project, Version
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats
from zweistimme.sound.ducking import CURVE_RATE
from zweistimme.stages.mix.beneath import under_curves
from zweistimme.stages.mix.gain import HOUSE, presets_for
from zweistimme.stages.mix.mix_picture import MixPicture, out_of_band
from zweistimme.stages.mix.placed import PlacedTake, placed_takes
from zweistimme.stages.mix.sitting import Sitting
from zweistimme.stages.mix.treatments import UNTREATED
from zweistimme.window.mix.sitting_words import in_words

ORIGINAL: Final = msg("Original")
UNDER: Final = msg("Bed")
ROOM: Final = msg("Room")
WITHIN_LU: Final = (10.0, 5.0)
"""How far short-term loudness lies under or over the target before it is marked: speech and its pauses move so much."""
_SILENT_LUFS: Final = -70.0
Stretch = tuple[float, float]


@dataclass(frozen=True, slots=True, eq=False)
class Lane:
    """A column: its *id* (a lane's, or ``person:`` and an id), name, how loud it is each tenth of a second, and what is
    done to whoever speaks in it."""

    id: str
    name: str
    lufs: Floats
    speaker: int = -1
    about: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class MixColumns:
    """All of a mix that is drawn: *loud* is short-term loudness in the preset that is heard, *out* what of it is out of
    the band, in seconds; *down_db* how what lies under the dub gives way, at *curve_rate* points a second."""

    seconds: float
    preset: SoundPreset
    loud: Floats
    out: tuple[Stretch, ...]
    lanes: tuple[Lane, ...]
    dub: Floats
    under: Floats
    down_db: Floats | None
    curve_rate: float = float(CURVE_RATE)


def columns_of(
    project: Project,
    version: Version,
    picture: MixPicture | None,
    original: Floats | None,
    preset_name: str,
    sitting: Sitting | None = None,
) -> MixColumns:
    """What is drawn of a version's mix. Without a *picture* (nothing was measured yet) lanes are empty; *original* are
    the energies of the original, where they are known, *sitting* is how the dub sits."""
    presets = presets_for(project, version)
    preset = presets.get(preset_name, presets[HOUSE])
    seconds = project.programme.sound.duration_us / 1e6 if project.programme else 0.0
    takes = placed_takes(project, version)
    curve, _ = under_curves(project, version, takes) if takes else (None, None)
    lanes = [Lane(ORIGINAL, tr(ORIGINAL), _levels(original, preset, picture, preset_name))]
    nothing = np.empty(0)
    under, dub, room = (
        [picture.lane_lufs(lane, preset_name) for lane in (picture.under, picture.dub, picture.room)]
        if picture is not None
        else [nothing] * 3
    )
    lanes += [Lane(UNDER, tr(UNDER), under), *_people(project, takes, dub, sitting)]
    if mix_of(project, version).treatment.room:
        lanes.append(Lane(ROOM, tr(ROOM), room))
    loud = picture.short_term_lufs(preset_name) if picture is not None else nothing
    out = tuple((a / 10, b / 10) for a, b in out_of_band(loud, dub, preset.loudness_lufs, WITHIN_LU))
    return MixColumns(seconds, preset, loud, out, tuple(lanes), dub, under, curve)


def _levels(energies: Floats | None, preset: SoundPreset, picture: MixPicture | None, preset_name: str) -> Floats:
    """The original as loud as it is played beside the mix: at the preset's loudness."""
    if energies is None or not len(energies):
        return np.empty(0)
    from zweistimme.sound.loudness import integrated_lufs, lufs

    whole = integrated_lufs(energies)
    gain_db = preset.loudness_lufs - whole if np.isfinite(whole) else 0.0
    return np.where(energies > 1e-10, lufs(energies) + gain_db, _SILENT_LUFS)


def _people(project: Project, takes: Sequence[PlacedTake], dub: Floats, sitting: Sitting | None) -> list[Lane]:
    """A lane for everybody who is heard: the dub where it is theirs."""
    order = {speaker: place for place, speaker in enumerate(project.speakers)}
    spoken: dict[str, np.ndarray[tuple[int], np.dtype[np.bool_]]] = {}
    about: dict[str, str] = {}
    for item in takes:
        if sitting is not None and item.segment.speaker_id not in about:
            room = sitting.rooms.get(item.segment.id)
            treatment = sitting.treatments.get(item.segment.id, UNTREATED)
            about[item.segment.speaker_id] = in_words(treatment, room[0] if room else None)
        theirs = spoken.setdefault(item.segment.speaker_id, np.zeros(len(dub), dtype=np.bool_))
        first, last = item.start * 10 // RATE, -(-(item.start + item.length) * 10 // RATE)
        theirs[first:last] = True
    return [
        Lane(
            f"person:{speaker}",
            project.speakers[speaker].name if speaker in project.speakers else speaker,
            np.where(theirs, dub, _SILENT_LUFS),
            order.get(speaker, 0),
            about.get(speaker, ""),
        )
        for speaker, theirs in sorted(spoken.items(), key=lambda one: order.get(one[0], 0))
    ]
