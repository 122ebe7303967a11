"""Bring in a programme: probe it, make its working copy and peaks, measure it, and say what a person should know."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from zweistimme.media.decode import SoundReader, working_copy
from zweistimme.media.peaks import Peaks, file_peaks
from zweistimme.media.probe import file_identity, probe
from zweistimme.project.edits import set_programme
from zweistimme.project.errors import MediaError
from zweistimme.project.model import Programme, SoundTrack
from zweistimme.project.times import clock, samples_to_us
from zweistimme.stages.listened import advice, measured, other_language
from zweistimme.stages.work import Report, Work, working_file

_BED_TOLERANCE_US = 1_000_000
_HEARABLE_DB = -60.0


def bring_in(work: Work, media: Path, bed: Path | None = None) -> None:
    """Make *media* (and a bed stem beside it) the project's programme."""
    media = media.resolve()
    info = probe(media)
    share = 0.6 if bed else 0.85
    sound, notes = _track(work, media, work.part(0, share))
    bed_track = None
    if bed is not None:
        bed_track, bed_notes = _track(work, bed.resolve(), work.part(share, 0.85))
        notes += tuple(f"Bed: {note}" for note in bed_notes)
        difference = bed_track.duration_us - sound.duration_us
        if abs(difference) > _BED_TOLERANCE_US:
            notes += (f"The bed lasts {clock(bed_track.duration_us)}, the programme {clock(sound.duration_us)}.",)
    notes += _listened(work, sound)
    peaks(work.cache, sound, work.part(0.9, 1.0))
    for note in notes:
        work.say(note)
    programme = Programme(sound, info.picture, bed_track, notes)
    work.deliver("Bring in the programme", lambda project: set_programme(project, programme))


def _track(work: Work, path: Path, report: Report) -> tuple[SoundTrack, tuple[str, ...]]:
    info = probe(path)
    draft = SoundTrack(str(path), path.stat().st_size, file_identity(path), 0, info.rate, info.channels)
    file = working_file(work.cache, draft)
    samples, _, notes = working_copy(path, file, report)
    if not samples:
        raise MediaError(f"{path} has a sound track without any sound. Export it anew.")
    return replace(draft, duration_us=samples_to_us(samples)), notes


def _listened(work: Work, track: SoundTrack) -> tuple[str, ...]:
    """What in the sound itself will hurt, and whether it is in another language than was said."""
    with SoundReader(working_file(work.cache, track)) as reader:
        facts = measured(reader)
        notes = advice(facts)
        if facts.speech_db > _HEARABLE_DB:
            notes += tuple(filter(None, (other_language(reader, work.project.source_tag, facts.silence_before_s),)))
    return notes


def peaks(cache: Path, track: SoundTrack, report: Report) -> Peaks:
    """Peaks of a track for drawing, from the cache if they are there."""
    return file_peaks(working_file(cache, track), cache / f"peaks-{track.checksum}.npy", report)
