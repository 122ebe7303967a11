"""Speech and speakers found in the sound alone, without any engine: where somebody speaks, and who."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.access import in_order, people_made, segment_id, segments_made
from zweistimme.project.errors import EditError, MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.intervals import Intervals
from zweistimme.project.model import Project, Segment, Speaker
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.picks import sound_key
from zweistimme.project.speaker_edits import unused_name
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.project.transcript import set_transcript
from zweistimme.project.words import SHORTEST_SEGMENT_US
from zweistimme.sound.activity import ActivitySettings, frame_levels_db, noise_under, speech_regions, speechlike
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.diarization import SpokenTurn, VoiceFrames, frames_from, spoken_turns, voice_frames
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import power_spectra
from zweistimme.stages.work import Report, Work, open_sound

_BLOCK_S: Final = 20
_CLOSE: Final = ActivitySettings(edge=-0.015)
"""Segments begin where speech does: frames see it coming 15 ms before it is there."""
_ASIDE_S: Final = 1.0
_LONGEST_US: Final = 8_000_000
_LEAST_REST_US: Final = 600_000
"""What a segment leaves of a turn counts as speech of its own only if it lasts so long."""
Regions = list[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class FoundSpeech:
    """Where somebody speaks, in seconds, and who: turns in order of time."""

    regions: Regions
    turns: list[SpokenTurn]


def find_speech(work: Work, speakers: int | None = None, *, keep: bool = True) -> None:
    """Lay segments without words over all speech, each with its speaker. What the transcript has is kept, and only
    speech it does not cover is laid over; *keep* False replaces it."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme yet. Bring one in before its speech is looked for.")
    with open_sound(work, programme.sound) as reader:
        found = found_speech(reader, work.report, speakers)
    if not found.turns:
        raise EditError("No speech was found in the sound. Check that it is the right track.")
    end_us = programme.sound.duration_us
    work.deliver("Find speech", lambda project: laid_over(project, found.turns, end_us, keep=keep))
    people = len({turn.speaker for turn in found.turns})
    seconds = sum(turn.end_s - turn.start_s for turn in found.turns)
    work.say(Finding("speech-found", {"seconds": seconds, "people": people}))
    if speakers and people < speakers:
        work.say(Finding("voices-alike", {"people": speakers}))


def found_speech(reader: SoundReader, report: Report, speakers: int | None = None) -> FoundSpeech:
    """Regions of speech and turns of speakers in a working copy."""
    regions = regions_of(reader, lambda share: report(0.4 * share))
    semitones, envelopes = [], []
    for number, block in enumerate(_low_blocks(reader)):
        pitch, envelope = voice_frames([block])
        semitones.append(pitch.astype(np.float32))
        envelopes.append(envelope)
        report(0.4 + 0.5 * min(1.0, (number + 1) * _BLOCK_S * RATE / reader.length))
    if not semitones:
        return FoundSpeech([], [])
    measured = np.concatenate(semitones)
    turns = spoken_turns(
        VoiceFrames(measured, np.concatenate(envelopes), frames_from(regions, len(measured))), speakers
    )
    report(1.0)
    return FoundSpeech(regions, turns)


def regions_of(reader: SoundReader, report: Report) -> Regions:
    """Stretches of speech in seconds: where the sound stands out from what is under it, and moves as speech does."""
    levels = []
    for start in range(0, reader.length, _BLOCK_S * RATE):
        count = min(_BLOCK_S * RATE, reader.length - start)
        levels.append(frame_levels_db(reader.mono(start, count), RATE)[: count // (RATE // 100)])
        report(0.8 * (start + count) / reader.length)
    every = np.concatenate(levels) if levels else np.empty(0)
    regions = [r for r in speech_regions(every, settings=_CLOSE) if _is_speech(reader, r, every)]
    report(1.0)
    return regions


def _is_speech(reader: SoundReader, region: tuple[float, float], levels: Floats) -> bool:
    import soxr

    start, end = max(0.0, region[0] - _ASIDE_S), min(region[1], region[0] + 30.0) + _ASIDE_S
    sound = reader.mono(round(start * RATE), round((end - start) * RATE))
    power = power_spectra(soxr.resample(sound, RATE, LOW_RATE, "QQ").astype(np.float32))
    first, last = round((region[0] - start) * 100), round((region[1] - start) * 100)
    return speechlike(power[first:last], noise_under(power, levels[round(start * 100) :]))


def _low_blocks(reader: SoundReader) -> Iterator[Mono]:
    """The sound at 16 kHz, in blocks of whole frames."""
    import soxr

    for start in range(0, reader.length, _BLOCK_S * RATE):
        block = reader.mono(start, min(_BLOCK_S * RATE, reader.length - start))
        yield soxr.resample(block, RATE, LOW_RATE, "QQ").astype(np.float32)


def laid_over(project: Project, turns: Sequence[SpokenTurn], end_us: int, *, keep: bool) -> Project:
    """New segments where nobody has one yet; a new speaker for each voice that is nobody's."""
    there = project.segments if keep else ()
    spans = Intervals((one.start_us, one.end_us) for one in there)
    people = dict(project.speakers) if there else {}
    owners = _owners(there, spans, turns)
    number, person, made = segments_made(project), people_made(project), []
    seen = project.programme is not None and project.programme.picture is not None
    for turn in turns:
        for start, end in _pieces(turn, spans, end_us):
            who = owners.get(turn.speaker)
            if who is None:
                person += 1
                who = owners[turn.speaker] = f"p{person}"
                people[who] = Speaker(who, unused_name(one.name for one in people.values()))
            number += 1
            made.append(Segment(segment_id(number), who, start, end, "", on_screen=seen))
    if not keep:
        return replace_transcript(project, people.values(), made)
    return set_transcript(project, people.values(), in_order((*there, *made)))


def _owners(there: tuple[Segment, ...], spans: Intervals, turns: Sequence[SpokenTurn]) -> dict[int, str]:
    """Which known speaker each voice is: the one whose segments it shares most time with."""
    shared: dict[int, dict[str, int]] = {}
    for turn in turns:
        for place, time in spans.shared(seconds_to_us(turn.start_s), seconds_to_us(turn.end_s)):
            own, who = shared.setdefault(turn.speaker, {}), there[place].speaker_id
            own[who] = own.get(who, 0) + time
    return {voice: max(own, key=lambda key: own[key]) for voice, own in shared.items()}


def _pieces(turn: SpokenTurn, spans: Intervals, end_us: int) -> Iterator[tuple[int, int]]:
    """What of a turn no segment covers, in stretches no longer than somebody would dub at once."""
    for start, end in spans.uncovered(seconds_to_us(turn.start_s), min(seconds_to_us(turn.end_s), end_us)):
        count = max(1, -(-(end - start) // _LONGEST_US))
        for k in range(count):
            piece = start + (end - start) * k // count, start + (end - start) * (k + 1) // count
            whole = piece == (seconds_to_us(turn.start_s), min(seconds_to_us(turn.end_s), end_us))
            if piece[1] - piece[0] >= (SHORTEST_SEGMENT_US if whole else _LEAST_REST_US):
                yield piece


def kept_regions(work: Work) -> npt.NDArray[np.int64]:
    """Regions of speech of the programme in microseconds, shape ``(k, 2)``; found once and kept in the cache."""
    programme = work.project.programme
    if programme is None:
        return np.empty((0, 2), dtype=np.int64)
    file = work.cache / f"speech-{sound_key(programme.sound)}.npy"
    kept = kept_array(file, np.int64)
    if kept is not None:
        return kept.reshape(-1, 2)
    with open_sound(work, programme.sound) as reader:
        regions = regions_of(reader, work.report)
    found = np.array([[seconds_to_us(a), seconds_to_us(b)] for a, b in regions], dtype=np.int64).reshape(-1, 2)
    written_array(file, found)
    return found
