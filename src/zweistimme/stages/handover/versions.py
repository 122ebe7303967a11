"""The files of each version: mix, voice stem, captions; several versions are made side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from zweistimme.formats.captions import write_srt, write_vtt
from zweistimme.formats.cue import Cue
from zweistimme.media.atomic import written_text
from zweistimme.media.mux import write_sound_file
from zweistimme.media.probe import probe, same_file
from zweistimme.project.access import find_version
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.programme import SoundTrack
from zweistimme.project.times import clock
from zweistimme.sound.cores import together
from zweistimme.stages.caption import rules_for, too_fast
from zweistimme.stages.handover.manifest import Entry, caption_entry, listening_entry, sound_entry
from zweistimme.stages.mix import measured_tracks, write_sounds
from zweistimme.stages.mix.wanted_files import house_files, preset_files
from zweistimme.stages.work import SharedReport, Work, source_of


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is wanted of each version: in which folder, how its files begin, the captions by language, and whether
    *listeners* get a file of their own, as of a programme of sound alone."""

    folder: Path
    name: str
    cues: dict[str, list[Cue]]
    listeners: bool


def made_versions(work: Work, tags: Sequence[str], wanted: Wanted) -> dict[str, list[Entry]]:
    """Make the files of these versions, as many at once as there are cores; what is said of them is said in their
    order."""
    if not tags:
        return {}
    measured_tracks(work)
    shared = SharedReport(work.report, len(tags))
    said: list[list[Finding]] = [[] for _ in tags]

    def make(number: int, tag: str) -> list[Entry]:
        with shared.stopping():
            part = replace(work, report=shared.part(number), say=said[number].append)
            return _files_of(part, tag, wanted)

    with shared.stopping():  # whoever is interrupted while waiting for a version stops that one too
        entries = together([partial(make, number, tag) for number, tag in enumerate(tags)])
    for findings in said:
        for finding in findings:
            work.say(finding)
    return dict(zip(tags, entries, strict=True))


def _files_of(work: Work, tag: str, wanted: Wanted) -> list[Entry]:
    version = find_version(work.project, tag)
    mix, voice = (wanted.folder / f"{wanted.name}.{tag}.{kind}.wav" for kind in ("mix", "voice"))
    files = house_files(work.project, version, mix, voice)
    files += preset_files(work.project, version, wanted.folder, wanted.name)
    loudness = write_sounds(work, tag, files)
    entries = [sound_entry(file, tag, loudness[file.path]) for file in files]
    entries += captions(work, wanted, tag)
    return [*entries, _sound_file(work, tag, wanted)] if wanted.listeners else entries


def captions(work: Work, wanted: Wanted, tag: str) -> list[Entry]:
    """Write the captions of a language in both forms."""
    rules, cues = rules_for(tag, work.project.caption_limits.get(tag)), wanted.cues[tag]
    hurried = too_fast(cues, rules)
    if hurried:
        places = ", ".join(clock(cue.start_us) for cue in hurried[:3]) + (" …" if len(hurried) > 3 else "")
        work.say(
            Finding(
                "captions-too-fast",
                {
                    "captions": len(hurried),
                    "version": tag,
                    "speed": rules.most_speed,
                    "places": places,
                    "more": " …" if len(hurried) > 3 else "",
                },
            )
        )
    files = {ending: wanted.folder / f"{wanted.name}.{tag}.{ending}" for ending in ("srt", "vtt")}
    written_text(files["srt"], write_srt(cues, tag))
    written_text(files["vtt"], write_vtt(cues, tag))
    return [caption_entry(file, tag, rules) for file in files.values()] if cues else []


def check_same(source: Path, track: SoundTrack) -> None:
    """What was put in the place of the programme is not handed over as if it were it."""
    if not same_file(source, track.size_bytes, track.checksum):
        raise MediaError(
            "{source} is another file than the one that was brought in. Bring it in again, or put the old one back.",
            source=source,
        )


def _sound_file(work: Work, tag: str, wanted: Wanted) -> Entry:
    """A programme of sound alone as one file for listeners, with the chapters and tags of the source."""
    project = work.project
    assert project.programme is not None
    source = source_of(work, project.programme.sound)
    check_same(source, project.programme.sound)
    target = wanted.folder / f"{wanted.name}.{tag}.m4a"
    metadata = {"title": project.title, "language": tag}
    write_sound_file(target, wanted.folder / f"{wanted.name}.{tag}.mix.wav", tag, metadata, probe(source).chapters)
    return listening_entry(target, tag)
