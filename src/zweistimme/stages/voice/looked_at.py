"""Takes looked at: what is wrong with their sound, and which of them stand out from the others of their voice. Every
finding comes with what helps: to mend the clip (trim, fade), to set its level, or to ask again."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from pathlib import Path
from typing import Final

import msgspec
import numpy as np

from zweistimme.media.atomic import written_text
from zweistimme.project.access import find_version
from zweistimme.project.edits import put_take_instead
from zweistimme.project.errors import EditError, StoreError
from zweistimme.project.facts import fingerprint
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Take
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.project.writing import spoken_text, syllables
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Floats, Mono, amplitude, decibels, eased, in_24_bits
from zweistimme.sound.clip_faults import ClipFault, clip_faults
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.stages.voice.heard_back import takes_to_hear
from zweistimme.stages.work import Work

_LEAST_TAKES: Final = 5
"""Of a voice with fewer takes nobody knows what is usual."""
_SPREADS: Final = 3.5
_LEAST_APART: Final = {"level": 4.0, "pitch": 2.5, "pace": 2.6}
"""dB, semitones, and semitones of pace (a sixth quicker or slower), whatever the spread."""
_FADE_S: Final = 0.008
_AROUND_S: Final = 0.06
_FULL: Final = 0.98
_METHOD: Final = 2
"""Counted up when clips are looked at otherwise than before."""
_Figures = tuple[float | None, float | None, float | None]


class Remedy(StrEnum):
    """What helps."""

    TRIM = "trim"
    FADE = "fade"
    LEVEL = "level"
    AGAIN = "again"


_REMEDIES: Final = {
    ClipFault.SILENT.value: Remedy.AGAIN, ClipFault.CLIPPED.value: Remedy.AGAIN, ClipFault.CLICK.value: Remedy.AGAIN,
    ClipFault.NOISE.value: Remedy.AGAIN, ClipFault.HUM.value: Remedy.AGAIN, ClipFault.CUT_START.value: Remedy.FADE,
    ClipFault.CUT_END.value: Remedy.FADE, ClipFault.BREATH.value: Remedy.TRIM, "level": Remedy.LEVEL,
    "pitch": Remedy.AGAIN, "pace": Remedy.AGAIN,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class TakeFault:
    """What is wrong with a take: a ``ClipFault``, or *level*, *pitch* or *pace* out of line with its voice by *amount*
    (dB or semitones); *at_us* is where in the take."""

    kind: str
    at_us: int
    amount: float

    @property
    def remedy(self) -> Remedy:
        """What helps."""
        return _REMEDIES[self.kind]


@dataclass(frozen=True, slots=True)
class TakeLooked:
    """A take that was looked at."""

    segment_id: str
    take_id: str
    number: int
    faults: tuple[TakeFault, ...]


@dataclass(frozen=True, slots=True)
class _Seen:
    """What is kept of a clip: its faults, and its level in dB, pitch and pace in semitones about 100 Hz and one
    syllable a second; None where it cannot be said."""

    faults: tuple[TakeFault, ...]
    figures: _Figures


@dataclass(frozen=True, slots=True)
class _Measured:
    """A take, whose voice it is, and its figures; NaN where they cannot be said."""

    looked: TakeLooked
    voice: str
    figures: tuple[float, ...]


def look_at_takes(
    work: Work,
    tag: str,
    segment_ids: Iterable[str] | None = None,
    took: Callable[[TakeLooked], None] = lambda _looked: None,
) -> list[TakeLooked]:
    """The chosen takes of a version (of some segments, or all), each with what is wrong with it; those with faults
    first, then by line. What is usual for a voice is told by all its takes in the version."""
    wanted = None if segment_ids is None else set(segment_ids)
    project, todo = work.project, takes_to_hear(work.project, tag)
    measured: list[_Measured] = []
    speakers = {segment.id: segment.speaker_id for segment in project.segments}
    for done, (number, line, take) in enumerate(todo):
        voice = _voice_of(project, tag, take, speakers[take.segment_id])
        try:
            measured.append(_measured(work, tag, number, spoken_text(line.text), take, voice))
        except StoreError as error:
            work.say(Finding("take-not-heard", {"line": number, "why": str(error)}))
        work.report((done + 1) / len(todo))
    found = []
    by_voice: dict[str, list[_Measured]] = {}
    for one in measured:
        by_voice.setdefault(one.voice, []).append(one)
    for group in by_voice.values():
        found += _beside_each_other(group)
    shown = [one for one in found if wanted is None or one.segment_id in wanted]
    shown.sort(key=lambda one: (not one.faults, one.number))
    for looked in shown:
        took(looked)
    return shown


def _measured(work: Work, tag: str, number: int, text: str, take: Take, voice: str) -> _Measured:
    file = (
        work.cache
        / "looked"
        / f"{fingerprint('looked', _METHOD, take.clip, take.speech_start_samples, text, tag)}.json"
    )
    seen = _kept(file)
    if seen is None:
        samples = work.clips.get(take.clip)
        speech = take.speech_start_samples, take.speech_end_samples
        faults = tuple(
            TakeFault(one.fault.value, samples_to_us(one.at_samples), one.amount)
            for one in clip_faults(samples, RATE, speech)
        )
        seen = _Seen(faults, _figures(samples, take, text, tag))
        file.parent.mkdir(exist_ok=True)
        written_text(file, msgspec.json.encode(seen).decode())
    figures = tuple(np.nan if one is None else one for one in seen.figures)
    return _Measured(TakeLooked(take.segment_id, take.id, number, seen.faults), voice, figures)


def _kept(file: Path) -> _Seen | None:
    """What was seen of a clip before."""
    try:
        return msgspec.json.decode(file.read_bytes(), type=_Seen)
    except (OSError, msgspec.MsgspecError):
        return None


def _voice_of(project: Project, tag: str, take: Take, speaker: str) -> str:
    """Whose voice a take is, as far as is known: the engine's, or that of the speaker."""
    if take.maker is not None:
        return f"{take.maker.engine}/{take.maker.voice}"
    return f"{take.kind.value}/{find_version(project, tag).cast.get(speaker, speaker)}"


def _figures(samples: Mono, take: Take, text: str, tag: str) -> _Figures:
    import soxr

    said = samples[take.speech_start_samples : take.speech_end_samples]
    if not len(said) or not np.any(said):
        return None, None, None
    level = float(decibels(np.sqrt(np.mean(said.astype(np.float64) ** 2))))
    hertz = median_pitch_hz(np.asarray(soxr.resample(said, RATE, LOW_RATE, "QQ"), dtype=np.float32), LOW_RATE)
    pauses = sum(end - start for start, end in take.pauses_samples)
    seconds, count = (len(said) - pauses) / RATE, syllables(text, tag)
    pitch = 12 * float(np.log2(hertz / 100)) if hertz else None
    pace = 12 * float(np.log2(count / seconds)) if count > 2 and seconds > 0 else None
    return level, pitch, pace


def _beside_each_other(group: Sequence[_Measured]) -> list[TakeLooked]:
    """Takes of one voice, with what stands out from the others."""
    rows: Floats = np.array([one.figures for one in group])
    more: list[list[TakeFault]] = [[] for _ in group]
    for column, name in enumerate(_LEAST_APART):
        known = rows[np.isfinite(rows[:, column]), column]
        if len(known) < _LEAST_TAKES:
            continue
        away = rows[:, column] - np.median(known)
        spread = 1.4826 * float(np.median(np.abs(known - np.median(known))))
        for place in np.flatnonzero(np.abs(away) > max(_SPREADS * spread, _LEAST_APART[name])).tolist():
            more[place].append(TakeFault(name, 0, round(float(away[place]), 1)))
    return [replace(one.looked, faults=(*one.looked.faults, *beside)) for one, beside in zip(group, more, strict=True)]


def mend_take(work: Work, tag: str, take_id: str, faults: Sequence[TakeFault]) -> Take:
    """Another take of the same line, made of this one: trimmed to its speech, faded at both ends, and brought to the
    level of its voice's other takes, as far as *faults* ask for it; it is chosen, the other stays. EditError
    where nothing of that helps."""
    version = find_version(work.project, tag)
    take = version.takes.get(take_id)
    if take is None:
        raise EditError("There is no take {take_id} in {tag}.", take_id=take_id, tag=tag)
    wanted = {one.remedy for one in faults}
    if not wanted - {Remedy.AGAIN}:
        raise EditError("Trimming, fading and level do not help this take. Make or record it again.")
    samples = work.clips.get(take.clip)
    if Remedy.TRIM in wanted:
        around = round(_AROUND_S * RATE)
        samples = samples[_first_word(samples, take) : take.speech_end_samples + around]
    if Remedy.LEVEL in wanted:
        gain = amplitude(-sum(one.amount for one in faults if one.kind == "level"))
        samples = samples * np.float32(min(gain, _FULL / max(1e-9, float(np.abs(samples).max()))))
    samples = in_24_bits(eased(samples, _FADE_S, RATE))
    clip, speech = work.clips.put(samples), clip_speech(samples, RATE)
    made = replace(
        take,
        id=fingerprint("mended", take.id, clip),
        label=f"take {1 + len(takes_of(version, (take.segment_id,)))}",
        clip=clip,
        length_samples=len(samples),
        speech_start_samples=speech.start,
        speech_end_samples=speech.end,
        pauses_samples=speech.pauses,
        words=(),
    )
    work.deliver("Mend a take", partial(put_take_instead, tag=tag, take=made, known=(take_id,)))
    return made


def _first_word(samples: Mono, take: Take) -> int:
    """Where the first word begins once breath before it is left out: behind the first pause, if what is before that is
    much softer than the rest."""
    start, around = take.speech_start_samples, round(_AROUND_S * RATE)
    for pause_start, pause_end in take.pauses_samples[:1]:
        before, behind = samples[start:pause_start], samples[pause_end : take.speech_end_samples]
        if len(before) and len(behind) and np.abs(before).max() < 0.25 * np.abs(behind).max():
            start = pause_end
    return max(0, start - around)
