"""The whole chain, mixing, importing and memory; in processes of their own where that matters."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from benchmarks.chain import STEPS
from benchmarks.repeated import TAGS, copied_clips, dubbed_demo, length_us, long_bed, long_video, repeated, rounds_of
from benchmarks.start import environment
from benchmarks.timing import Row, Rows, figure, once
from zweistimme.demo.script import BED, MEDIA, data_file
from zweistimme.formats.captions import read_captions, write_srt
from zweistimme.formats.cue import Cue
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.files import context_of
from zweistimme.stages.fit import fit
from zweistimme.stages.handover import hand_over
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix import write_mix
from zweistimme.stages.translate import translation_from_file
from zweistimme.stages.voice import import_takes
from zweistimme.stages.work import Work
from zweistimme.store.document import Document, Edit

ROOT = Path(__file__).parents[1]
_DEMO_S = 85.0
_DOUBLED_MIN = (15, 30, 60, 120)


def demo(beside: str = "") -> Rows:
    """From media to hand-over, two versions, step by step; also with the source of the revision *beside*."""
    chains = {"": _chain(ROOT, data_file(MEDIA), data_file(BED), TAGS)}
    if beside:
        with tempfile.TemporaryDirectory() as folder:
            tree = Path(folder) / "tree"
            subprocess.run(["git", "worktree", "add", "-q", "--detach", tree, beside], cwd=ROOT, check=True)
            try:
                chains[f" at {beside}"] = _chain(tree, data_file(MEDIA), data_file(BED), TAGS)
            finally:
                subprocess.run(["git", "worktree", "remove", "--force", tree], cwd=ROOT, check=True)
    for name, steps in chains.items():
        for step in steps:
            yield figure(
                f"{step['step']}{name}", step["s"], "s", f"{step['cpu_s']:.1f} s of processors, {step['mb']:.0f} MB"
            )
        whole = sum(step["s"] for step in steps)
        yield figure(
            f"media to hand-over{name}", _DEMO_S / whole, "x real time", f"{whole:.1f} s for 85 s; wanted: 8 x"
        )


def _chain(tree: Path, media: Path, bed: Path, tags: tuple[str, ...]) -> list[dict[str, Any]]:
    """The steps of the chain with the source in *tree*; once before, so that what is kept for good is there."""
    for _ in range(2 if media == data_file(MEDIA) else 1):
        with tempfile.TemporaryDirectory() as folder:
            paths = f"{tree / 'src'}:{ROOT}"
            command = [sys.executable, "-m", "benchmarks.chain", str(media), str(bed), folder, *tags]
            surroundings = {**environment(), "PYTHONPATH": paths, "CHAIN_BEGAN": repr(time.time())}
            ended = subprocess.run(command, check=True, capture_output=True, text=True, env=surroundings)
    return [json.loads(line) for line in ended.stdout.splitlines() if line.startswith("{")]


def doubling() -> Rows:
    """The same chain over programmes of 15 to 120 minutes, one version: time and highest memory of each stage."""
    found: dict[int, dict[str, dict[str, Any]]] = {}
    for minutes in _DOUBLED_MIN:
        with tempfile.TemporaryDirectory() as folder:
            video, bed, rounds = Path(folder) / "v.mp4", Path(folder) / "b.flac", rounds_of(minutes)
            long_video(video, rounds)
            long_bed(bed, rounds)
            found[minutes] = {step["step"]: step for step in _chain(ROOT, video, bed, TAGS[1:])}
        whole = sum(step["s"] for step in found[minutes].values())
        highest = max(step["mb"] for step in found[minutes].values())
        rate = length_us(rounds) / SECOND_US / whole
        yield figure(f"{minutes} min", rate, "x real time", f"{whole:.0f} s, {highest:.0f} MB at most")
    for step in STEPS:
        times = ", ".join(f"{found[minutes][step]['s']:.1f}" for minutes in _DOUBLED_MIN)
        memory = ", ".join(f"{found[minutes][step]['mb']:.0f}" for minutes in _DOUBLED_MIN)
        yield Row(step, f"{times} s", f"{memory} MB")


@contextmanager
def _long(minutes: float, tags: tuple[str, ...] = TAGS) -> Iterator[tuple[Document, float]]:
    """A project of so many minutes with all takes placed, and how many seconds it lasts."""
    rounds = rounds_of(minutes)
    with tempfile.TemporaryDirectory() as folder:
        video, bed = Path(folder) / "v.mp4", Path(folder) / "b.flac"
        long_video(video, rounds)
        long_bed(bed, rounds)
        with Document.open(dubbed_demo(Path(folder) / "demo")) as once_dubbed:
            many = repeated(once_dubbed.project, rounds)
            many = replace(many, versions={tag: many.versions[tag] for tag in tags})
            document = Document.create(Path(folder) / "p", many)
            copied_clips(once_dubbed, document)
        with document:
            bring_in(_work(document), Intake(video, bed=bed))
            for tag in tags:
                fit(_work(document), tag)
            yield document, length_us(rounds) / SECOND_US


def _work(document: Document) -> Work:
    def deliver(label: str, edit: Edit) -> None:
        document.apply(label, edit)

    return Work.on(document, deliver)


_MIX = """
import os, sys, time
os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
from pathlib import Path
from benchmarks.whole import _work
from zweistimme.sound.room_response import Room
from zweistimme.stages.mix import sitting, write_mix
from zweistimme.store.document import Document
if sys.argv[3] == "rings":  # as if the original's voices had been measured in such a room
    sitting.rooms_of = lambda project, _voices: dict.fromkeys(project.speakers, Room((0.6,) * 4))
with Document.open(Path(sys.argv[1])) as document:
    began = time.perf_counter()
    write_mix(_work(document), "es-ES", Path(sys.argv[2]) / "mix.wav", Path(sys.argv[2]) / "voice.wav")
    taken = time.perf_counter() - began
    print(taken, int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0]) / 1024)
"""


def mix() -> Rows:
    """One version's mix and stem of an hour over a bed, from fitted clips, on one core; against the bare reading of its
    bed."""
    with _long(60, TAGS[1:]) as (document, length_s), tempfile.TemporaryDirectory() as out:
        folder = document.folder
        write_mix(_work(document), "es-ES", Path(out) / "mix.wav", Path(out) / "voice.wav")  # fits the clips
        document.close()
        found = []
        for room in ("dry", "rings"):
            command = [sys.executable, "-c", _MIX, str(folder), out, room]
            ended = subprocess.run(command, check=True, capture_output=True, text=True, env=environment(), cwd=ROOT)
            found.append([float(part) for part in ended.stdout.split()])
        (taken, memory), (in_room, memory_in_room) = found
        bed = folder.parent / "b.flac"
        plain = once(lambda: [None for _ in soundfile.blocks(bed, 10 * RATE, dtype="float32")])
    against = f"reading its bed alone {length_s / plain:.0f}; wanted: 60"
    yield figure("an hour: mix and voice stem, one core", length_s / taken, "x real time", against)
    yield figure("the same in a room of 0.6 s", length_s / in_room, "x real time", "wanted: 60")
    yield figure("an hour: highest memory", max(memory, memory_in_room), "MB", "wanted: 400 MB")


def two_hours() -> Rows:
    """The hand-over of two hours in two versions, video and all; then once more, with a line of one version changed."""
    with _long(120) as (document, length_s), tempfile.TemporaryDirectory() as out:
        taken = once(lambda: hand_over(_work(document), TAGS, Path(out)))
        yield figure("two hours, two versions", taken, "s", f"{length_s / taken:.0f} x real time; wanted: 240 s")
        again = once(lambda: hand_over(_work(document), TAGS, Path(out)))
        yield figure("the same again, nothing changed", again, "s", "the checksums of all files")


def importing() -> Rows:
    """Two thousand takes from a folder of clips, and as many translations from captions."""
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        with Document.open(dubbed_demo(place / "demo")) as once_dubbed:
            takes = [once_dubbed.clips.get(take.clip) for take in once_dubbed.project.versions["es-ES"].takes.values()]
            many = repeated(once_dubbed.project, 111)
        version, segments = many.versions["es-ES"], many.segments
        cues = [Cue(s.start_us, s.end_us, version.lines[s.id].text) for s in segments]
        (place / "t.srt").write_text(write_srt(cues, "es-ES"), encoding="utf-8")
        (place / "clips").mkdir()
        for k in range(len(segments)):
            clip = takes[k % len(takes)] * np.float32(1 - k * 1e-5)
            soundfile.write(place / "clips" / f"{k + 1:04d}.wav", clip, RATE, "PCM_24")
        empty = replace(many, versions={"es-ES": replace(version, lines={}, takes={}, failures={})})
        with Document.create(place / "p", empty) as document:

            def translations() -> None:
                context = context_of(document.project, "es-ES", "", translation=True)
                translation_from_file(
                    _work(document), "es-ES", read_captions(place / "t.srt", context), place / "t.srt"
                )

            yield figure(f"{len(segments):,} translations", once(translations), "s", "wanted: 1 s")
            taken = once(lambda: import_takes(_work(document), "es-ES", place / "clips"))
            yield figure(f"{len(segments):,} takes", len(segments) / taken, "a second", "wanted: 20 on each core")


_BRING_IN = """
import json, sys, time
from pathlib import Path
from zweistimme.project.model import Project
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.work import Work
from zweistimme.store.document import Document
with Document.create(Path(sys.argv[2]), Project("x", "en-GB")) as d:
    began = time.perf_counter()
    work = Work.on(d, lambda l, e: d.apply(l, e) and None)
    bring_in(work, Intake(Path(sys.argv[1])))
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0]) / 1024
    print(json.dumps([time.perf_counter() - began, peak]))
"""


def memory() -> Rows:
    """Bringing in a long file; against ten minutes."""
    figures = {}
    for hours in (1 / 6, 3.0):
        with tempfile.TemporaryDirectory() as folder:
            media = Path(folder) / "long.wav"
            _write_long(media, hours)
            command = [sys.executable, "-c", _BRING_IN, str(media), f"{folder}/p"]
            answer = subprocess.run(command, check=True, capture_output=True, text=True, env=environment())
            figures[hours] = json.loads(answer.stdout)
    (short_taken, short_peak), (long_taken, long_peak) = figures.values()
    yield figure("three hours brought in: memory", long_peak, "MB", f"ten minutes {short_peak:.0f} MB")
    rate = 3 * 3600 / long_taken
    yield figure("three hours brought in: time", rate, "x real time", f"ten minutes {600 / short_taken:.0f} x")


def _write_long(path: Path, hours: float) -> None:
    block = (np.random.default_rng(0).standard_normal(60 * RATE) * 2000).astype(np.int16)
    with soundfile.SoundFile(path, "w", RATE, 1, "PCM_16") as file:
        for _ in range(round(hours * 60)):
            file.write(block)
