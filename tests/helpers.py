"""Small programmes, projects and sounds made for tests."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from zweistimme.demo.script import BED, LINES, MEDIA, SOURCE, TARGETS, TITLE, data_file
from zweistimme.project.edits import add_version, rename_speaker, set_on_screen
from zweistimme.project.facts import Step, source_fingerprint, take_fingerprint
from zweistimme.project.model import (
    Line,
    Programme,
    Project,
    Segment,
    SoundTrack,
    Speaker,
    Take,
    TakeKind,
    Version,
    Word,
)
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.work import Work
from zweistimme.store.document import Document


def work_on(document: Document, said: list[str] | None = None) -> Work:
    """A Work whose results go straight into *document*."""
    return Work(
        document.project,
        document.clips,
        document.cache,
        deliver=lambda label, edit: document.apply(label, edit, gesture=label) and None,
        report=lambda _share: None,
        say=(said if said is not None else []).append,
    )


def make_demo_project(folder: Path) -> None:
    """The demo, transcribed by the bundled recogniser, voiced and fitted in both versions."""
    project = Project(TITLE, SOURCE)
    for tag in TARGETS:
        project = add_version(project, tag)
    with Document.create(folder, project) as document:
        bring_in(work_on(document), data_file(MEDIA), data_file(BED))
        run_step(work_on(document), Step.TRANSCRIPT, TARGETS[0])
        for segment, line in zip(document.project.segments, LINES, strict=True):
            speaker = document.project.speakers[segment.speaker_id]
            if speaker.name.startswith("Speaker"):
                document.apply("Name", lambda p, s=speaker, n=line.speaker: rename_speaker(p, s.id, n))
            if not line.on_screen:
                document.apply("Off screen", lambda p, s=segment: set_on_screen(p, s.id, False))
        for tag in TARGETS:
            for step in (Step.TRANSLATION, Step.CAST, Step.TAKES, Step.FIT):
                run_step(work_on(document), step, tag)


def speechlike(seconds: float, *, pitch: float = 140.0, seed: int = 0) -> np.ndarray:
    """A voiced sound that comes and goes four times a second, float32 at 48 kHz."""
    times = np.arange(round(seconds * RATE)) / RATE
    random = np.random.default_rng(seed)
    tone = sum(np.sin(2 * np.pi * pitch * k * times) / k for k in range(1, 12))
    envelope = 0.15 + 0.85 * np.abs(np.sin(np.pi * 4 * times))
    return (0.2 * tone * envelope + 0.002 * random.standard_normal(len(times))).astype(np.float32)


def write_sound(path: Path, seconds: float = 2.0, *, rate: int = RATE, channels: int = 1) -> Path:
    """A sound file."""
    sound = np.repeat(speechlike(seconds)[: round(seconds * rate), None], channels, axis=1)
    soundfile.write(path, sound, rate)
    return path


def project_with(
    segments: list[tuple[float, float, str]], *, tag: str = "de-DE", takes: list[float] | None = None
) -> Project:
    """A project with segments of one speaker in seconds, and, if wanted, takes of the given lengths."""
    made = tuple(
        Segment(f"s{k}", "p1", seconds_to_us(a), seconds_to_us(b), text, tuple(_words(text, a, b)))
        for k, (a, b, text) in enumerate(segments, 1)
    )
    lines, clips = {}, {}
    for k, segment in enumerate(made):
        line = Line(segment.id, f"Zeile {k + 1}", source_fingerprint(segment))
        if takes is not None:
            length = round(takes[k] * RATE)
            made_from = take_fingerprint(line, "alva")
            clips[f"t{k}"] = Take(
                f"t{k}", segment.id, TakeKind.SYNTHESIZED, "take 1", f"clip{k}", length, 0, length, made_from
            )
            line = Line(segment.id, line.text, line.made_from, take_id=f"t{k}")
        lines[segment.id] = line
    version = Version(tag, cast={"p1": "alva"}, lines=lines, takes=clips)
    last = max(b for _, b, _ in segments) + 5
    sound = SoundTrack("/nowhere/programme.wav", 1, "0" * 32, seconds_to_us(last), RATE, 1)
    return Project("Test", "en-GB", Programme(sound), {"p1": Speaker("p1", "Ada")}, made, {tag: version})


def _words(text: str, start: float, end: float) -> list[Word]:
    parts = text.split()
    edges = np.linspace(seconds_to_us(start), seconds_to_us(end), len(parts) + 1)
    return [Word(word, int(edges[k]), int(edges[k + 1])) for k, word in enumerate(parts)]
