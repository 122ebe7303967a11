"""What of a file is brought in: a proposal made by where speech is, for a person to change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from zweistimme.media.decode import picked_tracks
from zweistimme.media.decoded_run import as_floats
from zweistimme.media.downmix import channel_names, downmix, picked_channels
from zweistimme.media.probe import MediaInfo, TrackInfo, opened, probe
from zweistimme.project.errors import MediaError
from zweistimme.project.languages import same_language
from zweistimme.project.programme import SoundPick
from zweistimme.sound.activity import frame_levels_db
from zweistimme.sound.arrays import Mono

if TYPE_CHECKING:
    from av.container import InputContainer

_PLACES: Final = (0.12, 0.37, 0.62, 0.87)
_EXCERPT_S: Final = 8.0
_WHOLE_BELOW_S: Final = 60.0
_AUDIBLE_DB: Final = -75.0
_SYLLABLES_HZ: Final = (2.5, 8.0)
_CENTRE_SHARE: Final = 0.7
_REST_SHARE: Final = 0.6
"""The centre alone is the dialogue if it is nearly as much like speech as the whole, and what is round it is not."""
_SURE_LEAD: Final = 1.25
"""A track is taken before an earlier or a default one only if it sounds this much more like speech."""


@dataclass(frozen=True, slots=True)
class Intake:
    """What is brought in: a file and which of its sound is the programme's, and where its bed is, if it has one."""

    media: Path
    sound: SoundPick = field(default_factory=SoundPick)
    bed: Path | None = None
    bed_sound: SoundPick = field(default_factory=SoundPick)


@dataclass(frozen=True, slots=True)
class Candidate:
    """Sound that could be the dialogue: how loud it is, and how much it comes and goes as syllables do (0..1)."""

    pick: SoundPick
    track: TrackInfo
    level_db: float
    speech: float


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a file holds, what was heard in it, and what will be used unless somebody says otherwise."""

    info: MediaInfo
    intake: Intake
    candidates: tuple[Candidate, ...]


def propose(media: Path, source_tag: str = "", bed: Path | None = None) -> Proposal:
    """A proposal for *media*. One track of one or two channels leaves no choice and is not listened to."""
    info = probe(media)
    candidates: tuple[Candidate, ...] = ()
    pick = SoundPick()
    if len(info.sounds) > 1 or len(info.sounds[0].channels) > 2:
        candidates = tuple(_heard(info))
        pick = _best(candidates, source_tag)
    intake = Intake(media, pick, bed)
    # what is round the centre of a track is the programme without its speech, if anything is
    return Proposal(info, with_rest_as_bed(intake) if pick.channels and bed is None else intake, candidates)


def check(intake: Intake) -> None:
    """MediaError if a file has not what is picked of it."""
    for path, pick in ((intake.media, intake.sound), (intake.bed, intake.bed_sound)):
        if path is not None:
            for track in picked_tracks(probe(path), pick):
                picked_channels(track.channels, pick.channels)


def with_rest_as_bed(intake: Intake) -> Intake:
    """The same file's other channels as the bed: what is left of 5.1 without its centre."""
    if not intake.sound.channels or intake.sound.channels.startswith("-"):
        raise MediaError("The rest of a track can be the bed only where some of its channels are the dialogue (1:FC).")
    return replace(intake, bed=intake.media, bed_sound=replace(intake.sound, channels=f"-{intake.sound.channels}"))


def _best(candidates: Sequence[Candidate], source_tag: str) -> SoundPick:
    """The track that sounds most like speech, in the programme's language if tracks say so."""
    whole = [one for one in candidates if not one.pick.channels]
    audible = [one for one in whole if one.level_db > _AUDIBLE_DB] or whole
    spoken = [one for one in audible if source_tag and same_language(one.track.language, source_tag)] or audible
    usual = max(spoken, key=lambda one: (one.track.default, -one.track.number))
    best = max(spoken, key=lambda one: one.speech)
    best = best if best.speech > _SURE_LEAD * usual.speech else usual
    parts = {one.pick.channels: one.speech for one in candidates if one.track is best.track}
    centre, rest = parts.get("FC", 0.0), parts.get("-FC", 0.0)
    if centre > _CENTRE_SHARE * best.speech and rest < _REST_SHARE * centre:
        return SoundPick(best.pick.tracks, "FC")
    return best.pick


def _heard(info: MediaInfo) -> list[Candidate]:
    found = []
    with opened(info.path) as container:
        for track in info.sounds:
            excerpts = _excerpts(container, info, track)
            names = channel_names(track.channels)
            picks = ["", "FC", "-FC"] if "FC" in names and len(names) > 2 else [""]
            for channels in picks:
                matrix = downmix(track.channels, channels)
                mono = [(matrix @ sound).mean(axis=0) for sound, _ in excerpts if len(sound) == matrix.shape[1]]
                rate = excerpts[0][1] if excerpts else track.rate
                found.append(
                    Candidate(SoundPick((track.number,), channels), track, _level_db(mono), _speechness(mono, rate))
                )
    return found


def _excerpts(container: InputContainer, info: MediaInfo, track: TrackInfo) -> list[tuple[Any, int]]:
    """Short stretches of a track from places all over the programme, each with its rate."""
    import av

    stream: Any = container.streams[track.index]
    length_s = info.duration_us / 1_000_000
    whole = length_s < _WHOLE_BELOW_S
    places, wanted_s = ((0.0,), _WHOLE_BELOW_S) if whole else (_PLACES, _EXCERPT_S)
    found = []
    for place in places:
        parts, seconds, rate = [], 0.0, track.rate
        try:
            container.seek(round((float(info.origin) + place * length_s) * 1_000_000))
            frames: Any = container.decode(stream)
            for frame in frames:
                parts.append(as_floats(frame))
                rate = frame.sample_rate
                seconds += frame.samples / rate
                if seconds >= wanted_s:
                    break
        except av.FFmpegError:
            continue  # a damaged place says nothing of the track
        parts = [part for part in parts if len(part) == len(parts[0])]
        if parts:
            found.append((np.nan_to_num(np.concatenate(parts, axis=1)), rate))
    return found


def _level_db(excerpts: Sequence[Mono]) -> float:
    power = [float((part.astype(np.float64) ** 2).mean()) for part in excerpts if len(part)]
    return 10 * float(np.log10(max(float(np.mean(power)), 1e-20))) if power else -200.0


def _speechness(excerpts: Sequence[Mono], rate: int) -> float:
    """How much of what moves in the level of the speech band moves at the pace of syllables, times how far it moves:
    speech comes and goes by 20 dB and more four times a second, music and effects less or at another pace."""
    shares = []
    for part in excerpts:
        levels = frame_levels_db(np.ascontiguousarray(part, dtype=np.float32), rate)
        if len(levels) < 100 or np.percentile(levels, 95) < _AUDIBLE_DB:
            continue
        heard = np.maximum(levels, np.float64(np.percentile(levels, 95)) - 40.0)
        spectrum = np.abs(np.fft.rfft((heard - heard.mean()) * np.hanning(len(heard)))) ** 2
        pace = np.fft.rfftfreq(len(heard), 0.01)
        inside = (pace >= _SYLLABLES_HZ[0]) & (pace <= _SYLLABLES_HZ[1])
        moving = float(spectrum[inside].sum() / max(spectrum[pace > 0.2].sum(), 1e-12))
        shares.append(moving * min(1.0, float(heard.std()) / 10))
    return float(np.mean(shares)) if shares else 0.0
