"""Takes from a folder of clips, named by the number of their line: ``003.wav``, ``12 second try.flac``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.access import find_line, find_version
from zweistimme.project.edits import add_take
from zweistimme.project.errors import EngineError, FormatError, MediaError
from zweistimme.project.facts import IMPORTED_VOICE, spoken_segments, take_fingerprint
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.model import TakeKind
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono
from zweistimme.stages.voice.by_engine import take_from
from zweistimme.stages.voice.clip_numbers import lines_named, numbers_in
from zweistimme.stages.voice.clips_heard import lines_of_clips
from zweistimme.stages.work import Work

_ENDINGS = {".wav", ".flac"}
_LONGEST_S = 600


def import_takes(work: Work, tag: str, folder: Path, *, missing_only: bool = False, by_hearing: bool = False) -> None:
    """Take over every clip of *folder* whose name holds the number of a line (1 is the first); with *missing_only*
    for lines that have no take yet, as after an import that was cut short. Clips without a number are left out and
    said, or, *by_hearing*, go to the line that is heard in them."""
    version = find_version(work.project, tag)
    segments = spoken_segments(work.project)
    clips = _clips(folder, tag, work, by_hearing=by_hearing)
    if by_hearing:
        clips = sorted([*clips, *_heard(work, tag, folder)])
    used: set[int] = set()
    for place, (number, path) in enumerate(clips):
        if not 1 <= number <= len(segments):
            work.say(Finding("no-such-line", {"file": path.name, "line": number, "lines": len(segments)}))
            continue
        segment = segments[number - 1]
        line = version.lines.get(segment.id)
        if line is None:
            work.say(Finding("line-without-wording", {"file": path.name, "line": number, "version": tag}))
            continue
        if missing_only and line.take_id is not None:
            used.add(number)
            continue
        made_from = take_fingerprint(line, IMPORTED_VOICE)
        try:
            take = take_from(work, segment.id, _mono(path, work), made_from, TakeKind.IMPORTED, path.stem)
        except (MediaError, EngineError) as error:
            work.say(Finding("file-unusable", {"file": path.name, "why": error.finding}))
            continue
        work.deliver("Import takes", partial(add_take, tag=tag, take=take))
        used.add(number)
        work.report((place + 1) / len(clips))
    if not used:
        raise FormatError(
            "No clip of {folder} could be used. Name clips by line number, such as 001.wav.", folder=folder
        )
    missing = [str(number) for number in range(1, len(segments) + 1) if number not in used]
    if missing:
        work.say(
            Finding(
                "lines-without-clip",
                {
                    "lines": len(missing),
                    "version": tag,
                    "numbers": ", ".join(missing[:12]),
                    "more": " …" if len(missing) > 12 else "",
                },
            )
        )


def import_clips(work: Work, tag: str, segment_id: str, files: Sequence[Path]) -> None:
    """Take over files as takes of one line; the last of them is chosen. What is wrong with one is said, and the others
    are taken all the same; MediaError where none could be."""
    line = find_line(work.project, tag, segment_id)
    made_from, problems = take_fingerprint(line, IMPORTED_VOICE), []
    for place, path in enumerate(files):
        try:
            take = take_from(work, segment_id, _mono(path, work), made_from, TakeKind.IMPORTED, path.stem)
        except (MediaError, EngineError) as error:
            problems.append(error)
            work.say(Finding("file-unusable", {"file": path.name, "why": error.finding}))
            continue
        work.deliver("Import takes", partial(add_take, tag=tag, take=take))
        work.report((place + 1) / len(files))
    if problems and len(problems) == len(files):
        raise problems[0]


def unnumbered(folder: Path) -> list[Path]:
    """The clips of a folder without a number in their names."""
    return [path for path in _sounds(folder) if not numbers_in(path)]


def _heard(work: Work, tag: str, folder: Path) -> list[tuple[int, Path]]:
    """Clips without a number, each with the number of the line that is heard in it; what is like none is said."""
    by_name, read, found = {path.name: path for path in unnumbered(folder)}, [], []
    for name, path in by_name.items():
        try:
            read.append((name, _mono(path, work)))
        except MediaError as error:
            work.say(Finding("file-unusable", {"file": name, "why": error.finding}))
    try:
        placed = lines_of_clips(work, tag, read) if read else []
    except EngineError as error:  # those with a number are taken all the same
        work.say(error.finding)
        return []
    for one in placed:
        if one.number is None:
            work.say(Finding("clip-of-no-line", {"file": one.name, "text": one.text or "–"}))
        else:
            work.say(Finding("clip-of-line", {"file": one.name, "line": one.number, "text": one.text}))
            found.append((one.number, by_name[one.name]))
    return found


def _sounds(folder: Path) -> list[Path]:
    return [path for path in sorted(folder.iterdir()) if path.suffix.lower() in _ENDINGS and path.is_file()]


def _clips(folder: Path, tag: str, work: Work, *, by_hearing: bool) -> list[tuple[int, Path]]:
    """Clips with the number of their line."""
    if not folder.is_dir():
        raise FormatError("There is no folder {folder}. Give the folder that holds the clips.", folder=folder)
    sounds = _sounds(folder)
    named = {path: numbers for path in sounds if (numbers := numbers_in(path))}
    if by_hearing and sounds and not named:
        return []
    if len(named) < len(sounds) and not by_hearing and named:
        nameless = [path.name for path in sounds if path not in named]
        shown: dict[str, Figure] = {
            "clips": len(nameless),
            "names": ", ".join(nameless[:6]),
            "more": " …" if len(nameless) > 6 else "",
        }
        work.say(Finding("clips-without-number", shown))
    if not named:
        raise FormatError("{folder} holds no WAV or FLAC clips named by line number, such as 001.wav.", folder=folder)
    clips, said = lines_named(work.project, find_version(work.project, tag), named)
    if said is not None:
        work.say(said)
    return clips


def _mono(path: Path, work: Work) -> Mono:
    """A clip at 48 kHz, one channel; conversions are said."""
    notes = DecodeNotes()
    blocks: list[Mono] = []
    channels, count = 1, 0
    for block in decoded_blocks(path, notes):
        channels = block.shape[0]
        blocks.append(block.mean(axis=0, dtype=np.float32))
        count += block.shape[1]
        if count > _LONGEST_S * RATE:
            raise MediaError("{file} is longer than ten minutes; a take is one line. It is left out.", file=path.name)
    for note in notes.notes:
        work.say(replace(note, place=path.name))
    if channels > 1:
        work.say(Finding("mixed-to-one", {"file": path.name}))
    return np.concatenate(blocks)
