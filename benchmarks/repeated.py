"""Long programmes of real waveforms: the demo over and over as one video, its transcript, lines and takes with it.

Every round is trimmed a little differently, so that nothing that was made for one of them serves for another.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from zweistimme.demo.script import BED, MEDIA, data_file
from zweistimme.media.containers import add_copy
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.probe import opened
from zweistimme.project.model import Project, Segment, Take, Version
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.store.document import Document

TAGS = ("de-DE", "es-ES")
ROUND_S = 86
"""From one beginning to the next."""


def dubbed_demo(folder: Path) -> Path:
    """The demo dubbed into two languages in *folder*; where its project is."""
    command = [sys.executable, "-c", "from zweistimme.cli.main import main; main()", "dub", str(data_file(MEDIA))]
    command += ["--from", "en-GB", "--bed", str(data_file(BED)), "--out", str(folder)]
    for tag in TAGS:
        command += ["--to", tag]
    subprocess.run(command, check=True, capture_output=True)
    return folder / "project"


def rounds_of(minutes: float) -> int:
    """How often the demo fits into so many minutes."""
    return max(1, round(minutes * 60 / ROUND_S))


def long_video(path: Path, rounds: int) -> None:
    """The demo's own packets, *rounds* times one behind the other."""
    import av

    with av.open(str(path), "w") as out:
        targets: dict[int, Any] = {}
        for number in range(rounds):
            with opened(data_file(MEDIA)) as given:
                if not targets:
                    targets = {one.index: add_copy(out, one) for one in given.streams if one.type in ("audio", "video")}
                    out.start_encoding()
                for packet in given.demux():
                    if packet.dts is None or packet.stream_index not in targets or packet.pts is None:
                        continue
                    shift = round(Fraction(number * ROUND_S) / packet.time_base)
                    packet.dts, packet.pts = packet.dts + shift, packet.pts + shift
                    packet.stream = targets[packet.stream_index]
                    out.mux(packet)


def long_bed(path: Path, rounds: int) -> None:
    """The demo's bed, as often."""
    once = np.concatenate(list(decoded_blocks(data_file(BED), DecodeNotes())), axis=1)
    once = np.pad(once, ((0, 0), (0, max(0, ROUND_S * RATE - once.shape[1]))))[:, : ROUND_S * RATE]
    with soundfile.SoundFile(path, "w", RATE, len(once), "PCM_24", format="FLAC") as file:
        for _ in range(rounds):
            file.write(np.clip(once, -1.0, 1.0).T)


def repeated(project: Project, rounds: int) -> Project:
    """A project of *rounds* rounds, without a programme and placements."""
    segments = tuple(_moved(one, number) for number in range(rounds) for one in project.segments)
    versions = {tag: _repeated_version(version, rounds) for tag, version in project.versions.items()}
    return replace(project, programme=None, segments=segments, versions=versions)


def _moved(segment: Segment, number: int) -> Segment:
    shift = number * ROUND_S * 1_000_000
    words = tuple(replace(w, start_us=w.start_us + shift, end_us=w.end_us + shift) for w in segment.words)
    return replace(
        segment, id=f"{segment.id}r{number}", start_us=segment.start_us + shift, end_us=segment.end_us + shift,
        words=words, fillers=(),
    )  # fmt: skip


def _repeated_version(version: Version, rounds: int) -> Version:
    lines = {
        f"{key}r{number}": replace(
            line, segment_id=f"{key}r{number}", take_id=line.take_id and f"{line.take_id}r{number}"
        )
        for number in range(rounds)
        for key, line in version.lines.items()
    }
    takes = {one.id: one for number in range(rounds) for one in _trimmed(version.takes.values(), number)}
    return replace(version, lines=lines, takes=takes, placements={}, delivery=None)


def _trimmed(takes: Any, number: int) -> Iterator[Take]:
    for take in takes:
        end = take.speech_end_samples - number % 200
        yield replace(take, id=f"{take.id}r{number}", segment_id=f"{take.segment_id}r{number}", speech_end_samples=end)


def copied_clips(source: Document, target: Document) -> None:
    """Take over the clips that takes of *source* speak of."""
    for version in source.project.versions.values():
        for take in version.takes.values():
            target.clips.put(source.clips.get(take.clip))


def length_us(rounds: int) -> int:
    """How long so many rounds last."""
    return samples_to_us(rounds * ROUND_S * RATE)
