"""Bring in a programme: say what is there, make its working copy and peaks, and put it on the desk as it comes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from zweistimme.media.decode import Report
from zweistimme.media.peaks import Peaks, file_peaks, kept_peaks, peaks_of
from zweistimme.media.probe import MediaInfo, is_quick, probe, quick_identity, same_file
from zweistimme.media.working_copy import Watch, working_copy
from zweistimme.project.edits import set_bed, set_programme
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import Programme, SoundPick, SoundTrack
from zweistimme.project.times import samples_to_us
from zweistimme.sound.arrays import Sound
from zweistimme.stages.intake import Intake, check
from zweistimme.stages.work import Work, open_sound, peaks_file, within_reach, working_file

_BED_TOLERANCE_US = 1_000_000


def bring_in(work: Work, intake: Intake) -> None:
    """Make a file (and a bed beside it) the project's programme. It stands there at once, before its sound is read."""
    check(intake)
    info = probe(intake.media)
    before = work.project.programme
    bed_draft = _draft(probe(intake.bed), intake.bed_sound) if intake.bed else None
    draft = Programme(_draft(info, intake.sound), info.picture, bed_draft, (), info.timecode)
    if before is None:
        work.deliver("Bring in the programme", partial(set_programme, programme=draft))
    share = 0.6 if intake.bed else 1.0
    sound, notes = _track(work, info, intake.sound, work.part(0, share))
    bed = None
    if intake.bed is not None:
        bed, bed_notes = _track(work, probe(intake.bed), intake.bed_sound, work.part(share, 1.0))
        notes += (*_of_the_bed(bed_notes), *_bed_notes(bed, sound))
    programme = replace(draft, sound=sound, bed=bed, notes=notes)
    for note in (*notes, *consequences(work.project, before, programme)):
        work.say(note)
    work.deliver("Bring in the programme", partial(set_programme, programme=programme))


def unfinished(cache: Path, programme: Programme) -> Intake | None:
    """What is to be brought in once more because its reading was cut short; None where all of it has been read, or the
    files are not there any more."""
    sound, bed = programme.sound, programme.bed
    tracks = [track for track in (sound, bed) if track is not None]
    if all(not is_quick(track.checksum) or working_file(cache, track).is_file() for track in tracks):
        return None
    if not all(same_file(Path(track.path), track.size_bytes, track.checksum) for track in tracks):
        return None
    intake = Intake(Path(sound.path), sound.pick)
    return replace(intake, bed=Path(bed.path), bed_sound=bed.pick) if bed else intake


def gone(cache: Path, programme: Programme) -> list[SoundTrack]:
    """The tracks whose working copy is not there, as after the cache was emptied, though their file is, or seems to
    have moved nearby."""
    tracks = [track for track in (programme.sound, programme.bed) if track is not None]
    return [one for one in tracks if not working_file(cache, one).is_file() and within_reach(cache, one)]


def read_again(work: Work) -> None:
    """Make the working copies that are gone, with their peaks."""
    programme = work.project.programme
    for track in gone(work.cache, programme) if programme is not None else ():
        pieces: list[Peaks] = []
        open_sound(work, track, _watching(work, track, pieces)).close()
        kept_peaks(peaks_file(work.cache, track), np.concatenate(pieces))


def _watching(work: Work, track: SoundTrack, pieces: list[Peaks]) -> Watch:
    """Shows the peaks of what is read, and adds them to *pieces*."""

    def watch(block: Sound) -> None:
        pieces.append(peaks_of(block))
        work.show(track, len(pieces) - 1, pieces[-1])

    return watch


def bring_in_bed(work: Work, path: Path | None, pick: SoundPick) -> None:
    """Give the programme a bed, another one, or (None) none."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme for a bed to belong to. Bring one in first.")
    if path is None:
        return work.deliver("Take the bed away", partial(set_bed, bed=None))
    check(Intake(path, pick))
    bed, notes = _track(work, probe(path), pick, work.report)
    for note in _of_the_bed((*notes, *_bed_notes(bed, programme.sound))):
        work.say(note)
    work.deliver("Bring in a bed", partial(set_bed, bed=bed))


def consequences(project: Project, before: Programme | None, after: Programme) -> tuple[Finding, ...]:
    """What another programme in the place of one means for what was made from that."""
    if before is None:
        return ()
    if _same_sound(before.sound, after.sound):
        same_bed = (before.bed and sound_key(before.bed)) == (after.bed and sound_key(after.bed))
        return (Finding("same-sound"),) if same_bed else ()
    if not project.segments:
        return ()
    said = [Finding("other-sound", {"segments": len(project.segments)})]
    beyond = [segment for segment in project.segments if segment.end_us > after.sound.duration_us]
    if beyond:
        said.append(Finding("segments-behind-end", {"segments": len(beyond), "from_us": beyond[0].start_us}))
    return tuple(said)


def _same_sound(before: SoundTrack, after: SoundTrack) -> bool:
    """Whether two tracks are the same sound, though one may be known by the ends of its file alone."""
    if is_quick(before.checksum) and before.pick == after.pick:
        return before.checksum == quick_identity(Path(after.path))
    return sound_key(before) == sound_key(after)


def _of_the_bed(notes: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(replace(note, place="Bed") for note in notes)


def _bed_notes(bed: SoundTrack, sound: SoundTrack) -> tuple[Finding, ...]:
    if abs(bed.duration_us - sound.duration_us) <= _BED_TOLERANCE_US:
        return ()
    return (Finding("bed-length", {"bed_us": bed.duration_us, "programme_us": sound.duration_us}),)


def _draft(info: MediaInfo, pick: SoundPick) -> SoundTrack:
    """A track as it is known before it is read: by the ends of its file, as long as the file says."""
    path = info.path.resolve()
    track = info.sounds[pick.tracks[0] - 1]
    return SoundTrack(
        str(path), path.stat().st_size, quick_identity(path), info.duration_us, track.rate, len(track.channels), pick
    )


def _track(work: Work, info: MediaInfo, pick: SoundPick, report: Report) -> tuple[SoundTrack, tuple[Finding, ...]]:
    """Read a track into the cache: its working copy, its peaks and the checksum of its file, in one go."""
    draft = _draft(info, pick)
    pieces: list[Peaks] = []
    coming = working_file(work.cache, draft)
    copy = working_copy(info, pick, coming, report, _watching(work, draft, pieces))
    track = replace(draft, checksum=copy.checksum, duration_us=samples_to_us(copy.samples))
    coming.replace(working_file(work.cache, track))
    kept_peaks(peaks_file(work.cache, track), np.concatenate(pieces))
    return track, copy.notes


def peaks(cache: Path, track: SoundTrack, report: Report) -> Peaks:
    """Peaks of a track for drawing, from the cache if they are there."""
    return file_peaks(working_file(cache, track), peaks_file(cache, track), report)
