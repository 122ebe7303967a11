"""Speech, speakers and scripts found in the sound, against what is known: the demo, and generated programmes of ten
and sixty minutes. Diarization error: missed, false and confused speech as a share of all speech, no collar."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import soundfile

from benchmarks.programmes import SaidLine, generated
from benchmarks.timing import Row, Rows
from zweistimme.demo.script import MEDIA, SOURCE, TRUTH, data_file
from zweistimme.formats.prose import Prose, ProseLine
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.model import Project
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.transcribe import align_script
from zweistimme.stages.transcribe.diarize import FoundSpeech, found_speech
from zweistimme.stages.work import Work, working_file
from zweistimme.store.document import Document, Edit


def transcript() -> Rows:
    """Boundary, speaker and alignment error."""
    truth = json.loads(data_file(TRUTH).read_text())["lines"]
    lines = [
        SaidLine(one["speaker"], one["text"], one["start"], one["end"], tuple((w, a, b) for w, a, b in one["words"]))
        for one in truth
    ]
    yield from _rows("demo", data_file(MEDIA), lines)
    for minutes in (10, 60):
        made = generated(minutes)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "programme.flac"
            soundfile.write(file, made.sound, 48_000)
            yield from _rows(f"{minutes} min", file, made.lines)


def _rows(name: str, media: Path, lines: Sequence[SaidLine]) -> Rows:
    folder = tempfile.TemporaryDirectory()
    with folder, Document.create(Path(folder.name) / "p", Project(name, SOURCE)) as document:
        bring_in(_work(document), Intake(media))
        programme = document.project.programme
        assert programme is not None
        seconds = programme.sound.duration_us / 1e6
        with SoundReader(working_file(document.cache, programme.sound)) as reader:
            began = time.perf_counter()
            heard = found_speech(reader, lambda _share: None)
            took = time.perf_counter() - began
        yield Row(name, _speakers(lines, heard, seconds), f"{seconds / took:.0f} x real time")
        yield Row(name, _edges(lines, heard), "starts and ends of lines after a pause")
        began = time.perf_counter()
        prose = Prose(tuple(ProseLine(line.text, line.speaker) for line in lines))
        align_script(_work(document), prose, Path("script.txt"))
        took = time.perf_counter() - began
        yield Row(name, _alignment(lines, document.project), f"{seconds / took:.0f} x real time; wanted 50 and 120 ms")


def _work(document: Document) -> Work:
    def deliver(label: str, edit: Edit) -> None:
        document.apply(label, edit)

    return Work.on(document, deliver)


def _speakers(lines: Sequence[SaidLine], heard: FoundSpeech, seconds: float) -> str:
    from scipy.optimize import linear_sum_assignment

    frames = round(seconds * 100)
    names = sorted({line.speaker for line in lines})
    count = max((turn.speaker for turn in heard.turns), default=0) + 1
    true, found = np.zeros((len(names), frames), bool), np.zeros((count, frames), bool)
    for line in lines:
        true[names.index(line.speaker), round(line.start * 100) : round(line.end * 100)] = True
    for turn in heard.turns:
        found[turn.speaker, round(turn.start_s * 100) : round(turn.end_s * 100)] = True
    shared = np.array([[(a & b).sum() for b in found] for a in true])
    rows, columns = linear_sum_assignment(-shared)
    right = sum((true[a] & found[b]).astype(int) for a, b in zip(rows, columns, strict=True))
    spoken, answered = true.sum(0), found.sum(0)
    total = spoken.sum()
    missed, false = np.maximum(spoken - answered, 0).sum() / total, np.maximum(answered - spoken, 0).sum() / total
    confused = (np.minimum(spoken, answered) - right).sum() / total
    return (
        f"diarization error {missed + false + confused:.1%} (missed {missed:.1%}, false {false:.1%}, "
        f"confused {confused:.1%}), {count} of {len(names)} speakers"
    )


def _edges(lines: Sequence[SaidLine], heard: FoundSpeech) -> str:
    """Boundary error where a pause of 0.4 s makes a boundary plain."""
    starts = np.array([a for a, _ in heard.regions])
    ends = np.array([b for _, b in heard.regions])
    errors = []
    for before, line in zip([None, *lines[:-1]], lines, strict=True):
        if before is None or line.start - before.end > 0.4:
            errors.append(np.abs(starts - line.start).min())
            if before is not None:
                errors.append(np.abs(ends - before.end).min())
    return f"boundaries {1000 * np.median(errors):.0f} ms (95 %: {1000 * np.percentile(errors, 95):.0f} ms)"


def _alignment(lines: Sequence[SaidLine], project: Project) -> str:
    said = sorted((w for s in project.segments for w in s.words), key=lambda w: w.start_us)
    errors, missing, place = [], 0, 0
    for text, start, end in (word for line in lines for word in line.words):
        near = [w for w in said[max(0, place - 60) : place + 60] if w.text == text]
        best = min(near, key=lambda w, a=start: abs(w.start_us / 1e6 - a), default=None)  # type: ignore[misc]
        if best is None or abs(best.start_us / 1e6 - start) > 1.0:
            missing += 1
        else:
            errors += [abs(best.start_us / 1e6 - start), abs(best.end_us / 1e6 - end)]
        place += 1
    return (
        f"script aligned to {1000 * np.median(errors):.0f} ms (95 %: {1000 * np.percentile(errors, 95):.0f} ms), "
        f"{missing} of {place} words missing"
    )
