"""What lies under the dub: the bed, the original made to give way, or the original with room tone where somebody
speaks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.facts import fingerprint, mix_of
from zweistimme.project.mix_settings import Beneath, Giving, MixSettings
from zweistimme.project.model import Project, Style, Version
from zweistimme.project.picks import is_bed_the_rest, sound_key
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import RATE, SECOND_US, us_to_samples
from zweistimme.sound.arrays import Floats, Sound, amplitude
from zweistimme.sound.ducking import Ducking, curve_gain, ducking_curve
from zweistimme.sound.room_tone import GrownTone, RoomTone, room_tone_of
from zweistimme.stages.mix.kept import keep_figures, kept_figures
from zweistimme.stages.mix.original_voices import pauses_of
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.work import Work, open_sound

Opened = Callable[[SoundTrack], SoundReader]
_TONE_PAUSES_US: Final = 40_000_000
_GONE_DB: Final = -60.0
"""Where room tone takes the original's place, nothing of it is heard."""
_TONE_GIVING: Final = Giving(30_000, 60_000, 200_000, 120_000)
"""Room tone and original change over quickly, just outside speech: it is one place."""


class UnderLane:
    """A sound under the dub, made to give way by a curve in dB, its sides by another; with *beside* beside it, and
    *tone* where the curve takes it away; stereo."""

    def __init__(
        self,
        reader: SoundReader,
        curve_db: Floats | None,
        gain_db: float,
        beside: UnderLane | None = None,
        *,
        sides_db: Floats | None = None,
        tone: GrownTone | None = None,
    ) -> None:
        self._reader, self.curve_db, self._gain = reader, curve_db, np.float32(amplitude(gain_db))
        self._beside, self._sides_db, self._tone = beside, sides_db, tone

    def read(self, start: int, count: int) -> Sound:
        """*count* samples from *start*, shape ``(2, count)``."""
        sound = self._own(start, count)
        return sound if self._beside is None else sound + self._beside.read(start, count)

    def _own(self, start: int, count: int) -> Sound:
        sound = self._reader.read(start, count) * self._gain
        if len(sound) == 1:
            sound = np.repeat(sound, 2, axis=0)
        if self.curve_db is None:
            return sound
        gain = curve_gain(self.curve_db, start, count, RATE)
        if self._tone is not None:
            return self._with_tone(sound, gain, start)
        if self._sides_db is None:
            return np.asarray(sound * gain)
        middle, side = (sound[0] + sound[1]) / 2 * gain, (sound[0] - sound[1]) / 2
        side = side * curve_gain(self._sides_db, start, count, RATE)
        return np.stack((middle + side, middle - side))

    def _with_tone(self, sound: Sound, gain: np.ndarray[tuple[int], np.dtype[np.float32]], start: int) -> Sound:
        """The original faded into room tone by the same power, where it is down."""
        least = np.float32(amplitude(_GONE_DB))
        gain = np.maximum(gain - least, 0.0) / (1 - least)
        made = sound * gain
        down = np.flatnonzero(gain < 1.0)
        if self._tone is not None and len(down):
            first, last = int(down[0]), int(down[-1]) + 1
            share = np.sqrt(1.0 - gain[first:last] ** 2)
            made[:, first:last] += self._tone.read(start + first, last - first) * share
        return made


def under_lane(
    project: Project, version: Version, takes: Sequence[PlacedTake], opened: Opened, tone: RoomTone | None = None
) -> UnderLane:
    """What lies under the dub of a version; *opened* opens a track of the programme, which there is. *tone* is the
    original's room tone, where it is wanted and could be told."""
    programme, mix = project.programme, mix_of(project, version)
    assert programme is not None
    bed = programme.bed
    curve, sides = under_curves(project, version, takes)
    if curve is None:
        assert bed is not None
        return UnderLane(opened(bed), None, mix.bed_db)
    rest = UnderLane(opened(bed), None, mix.bed_db) if bed is not None and is_bed_the_rest(programme) else None
    grown = GrownTone(tone, us_to_samples(programme.sound.duration_us)) if tone is not None else None
    return UnderLane(opened(programme.sound), curve, 0.0, rest, sides_db=sides, tone=grown)


def wants_tone(project: Project, version: Version) -> bool:
    """Whether room tone lies under a version's dub."""
    return mix_of(project, version).beneath is Beneath.ROOM_TONE and version.style is not Style.VOICE_OVER


def measured_tone(work: Work) -> RoomTone | None:
    """The room tone of the original, from its pauses, kept in the cache; None where they are too short."""
    project, programme = work.project, work.project.programme
    known, is_known = known_tone(project, work.cache)
    if is_known or programme is None:
        return known
    with open_sound(work, programme.sound) as reader:
        pauses = [(us_to_samples(a), us_to_samples(b)) for a, b in pauses_of(project, _TONE_PAUSES_US)]
        tone = room_tone_of([reader.read(a, b - a) for a, b in pauses])
    keep_figures(
        _tone_file(work.cache), _KeptTone(_tone_from(project), *(_NO_TONE if tone is None else _as_bytes(tone)))
    )
    return tone


def known_tone(project: Project, cache: Path) -> tuple[RoomTone | None, bool]:
    """The room tone of the original as it was measured, and whether it was."""
    kept = kept_figures(_tone_file(cache), _KeptTone)
    if kept is None or project.programme is None or kept.made_from != _tone_from(project):
        return None, False
    if not kept.shapes:
        return None, True
    shapes = np.frombuffer(kept.shapes, dtype=np.complex128).reshape(3, -1)
    return RoomTone(shapes, np.array(kept.spread_db), np.array(kept.stays)), True


@dataclass(frozen=True, slots=True)
class _KeptTone:
    """A room tone as it is kept, and of what it was measured; nothing in it where the pauses were too short."""

    made_from: str
    shapes: bytes
    spread_db: tuple[float, ...]
    stays: tuple[float, ...]


_NO_TONE: Final = (b"", (), ())


def _as_bytes(tone: RoomTone) -> tuple[bytes, tuple[float, ...], tuple[float, ...]]:
    return tone.shapes.tobytes(), tuple(tone.spread_db.tolist()), tuple(tone.stays.tolist())


def _tone_from(project: Project) -> str:
    assert project.programme is not None
    spans = tuple((segment.start_us, segment.end_us) for segment in project.segments)
    return fingerprint("room tone", 1, sound_key(project.programme.sound), spans)


def _tone_file(cache: Path) -> Path:
    return cache / "room-tone.msgpack"


def under_curves(
    project: Project, version: Version, takes: Sequence[PlacedTake]
) -> tuple[Floats | None, Floats | None]:
    """How what lies under the dub gives way, in dB: whole, and its sides where those do otherwise; None where a bed
    simply lies there.

    Where the original itself lies under the dub it is kept down wherever either of them speaks, lest a word of
    the original stick out; in a voice-over it gives way to the dub alone.
    """
    programme, mix = project.programme, mix_of(project, version)
    over = version.style is Style.VOICE_OVER
    if programme is None or _bed_lies_there(project, version):
        return None, None
    duration = programme.sound.duration_us / SECOND_US
    speech = [(item.start / RATE, (item.start + item.length) / RATE) for item in takes]
    if over:
        return _curve(speech, duration, mix.voice_over_duck_db, mix.giving), _sides(speech, duration, mix)
    said = [(s.start_us / SECOND_US, s.end_us / SECOND_US) for s in project.segments]
    if mix.beneath is Beneath.ROOM_TONE:  # only where the original speaks is there anything to take away
        return _curve(said, duration, _GONE_DB, _TONE_GIVING), None
    return _curve(speech + said, duration, mix.duck_db, mix.giving), _sides(speech + said, duration, mix)


def _bed_lies_there(project: Project, version: Version) -> bool:
    """Whether the bed alone lies under a version's dub, as it is."""
    bed = project.programme.bed if project.programme else None
    as_there = mix_of(project, version).beneath is Beneath.AS_THERE
    return bed is not None and as_there and version.style is not Style.VOICE_OVER


def figures_in_use(project: Project, version: Version) -> frozenset[str]:
    """The figures of what lies under the dub, by their names in the settings, that change anything in a version; with
    ``sides_db``."""
    programme = project.programme
    if programme is None:
        return frozenset()
    alone = _bed_lies_there(project, version)
    used = {"bed_db"} if alone or (programme.bed is not None and is_bed_the_rest(programme)) else set()
    if not alone and not wants_tone(project, version):
        used |= {"voice_over_duck_db" if version.style is Style.VOICE_OVER else "duck_db", "sides_db"}
        used |= {one.name for one in fields(Giving)}
    return frozenset(used)


def _sides(speech: Sequence[tuple[float, float]], duration: float, mix: MixSettings) -> Floats | None:
    sides_db = mix.giving.sides_db
    return None if sides_db is None else _curve(speech, duration, sides_db, mix.giving)


def _curve(speech: Sequence[tuple[float, float]], duration: float, depth_db: float, giving: Giving) -> Floats:
    times = (giving.look_ahead_us, giving.attack_us, giving.hold_us, giving.release_us)
    return ducking_curve(speech, duration, Ducking(depth_db, *(time / SECOND_US for time in times)))
