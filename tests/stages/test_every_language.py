"""Eleven languages as source and as target, from captions to hand-over, with takes of one's own: nobody's engine."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile

from data.eighteen_lines import LINES
from helpers import speechlike, work_on
from zweistimme.formats.captions import read_captions, write_srt
from zweistimme.formats.cue import Cue
from zweistimme.formats.transcripts import read_transcript
from zweistimme.project.edits import add_version
from zweistimme.project.model import Project
from zweistimme.project.times import RATE
from zweistimme.project.writing import RTL_MARK, letters, runs_right_to_left
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.caption import rules_for
from zweistimme.stages.files import context_of
from zweistimme.stages.fit import fit
from zweistimme.stages.fit.slot import measured_length
from zweistimme.stages.handover import hand_over
from zweistimme.stages.intake import Intake
from zweistimme.stages.transcribe import transcript_from_file
from zweistimme.stages.translate import translation_from_file
from zweistimme.stages.voice import import_takes
from zweistimme.store.document import Document

EVERY_S, SPEECH_S = 3.4, 2.6
TITLES = {"ja-JP": "潮の時計", "ar-EG": "ساعة المد", "hi-IN": "ज्वार घड़ी", "th-TH": "นาฬิกาน้ำขึ้น", "ru-RU": "Часы прилива"}
TAGS = tuple(LINES)


@pytest.fixture(scope="module")
def programme(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Eighteen stretches of speech, and a clip for each, made once."""
    folder = tmp_path_factory.mktemp("programme")
    sound = np.zeros(round(19 * EVERY_S * RATE), np.float32)
    (folder / "clips").mkdir()
    for k in range(18):
        at = round((k * EVERY_S + 1) * RATE)
        sound[at : at + round(SPEECH_S * RATE)] = speechlike(SPEECH_S, pitch=110.0 + 60 * (k % 2))
        soundfile.write(folder / "clips" / f"{k + 1:03d}.wav", speechlike(SPEECH_S, pitch=150.0), RATE, "PCM_16")
    soundfile.write(folder / "programme.wav", sound, RATE, "PCM_16")
    return folder


def captions(folder: Path, tag: str) -> Path:
    cues = [
        Cue(round((k * EVERY_S + 1) * 1e6), round((k * EVERY_S + 1 + SPEECH_S) * 1e6), text)
        for k, text in enumerate(LINES[tag])
    ]
    path = folder / f"{tag}.srt"
    path.write_text(write_srt(cues, tag), encoding="utf-8")
    return path


@pytest.mark.parametrize(("source", "target"), list(zip(TAGS, [*TAGS[1:], TAGS[0]], strict=True)))
def test_the_whole_chain_in_any_language(source: str, target: str, programme: Path, tmp_path: Path) -> None:
    said: list[str] = []
    title = TITLES.get(target, "The Tide Clock")
    with Document.create(tmp_path / "p", add_version(Project(title, source), target)) as document:
        bring_in(work_on(document, said), Intake(programme / "programme.wav"))
        given = read_transcript(captions(tmp_path, source), context=context_of(document.project, source))
        transcript_from_file(work_on(document, said), given, Path("source.srt"))
        assert [segment.text for segment in document.project.segments] == list(LINES[source])
        context = context_of(document.project, target, translation=True)
        reading = read_captions(captions(tmp_path, target), context)
        translation_from_file(work_on(document, said), target, reading, Path("target.srt"))
        version = document.project.versions[target]
        assert [version.lines[s.id].text for s in document.project.segments] == list(LINES[target])
        import_takes(work_on(document, said), target, programme / "clips")
        shares = [
            measured_length(document.project, version, segment, text).spoken_us / (SPEECH_S * 1e6)
            for segment, text in zip(document.project.segments, LINES[target], strict=True)
        ]
        assert 0.3 < np.mean(shares) < 2.5
        fit(work_on(document, said), target)
        files = hand_over(work_on(document, said), [target], tmp_path / "out")
    assert not any("Traceback" in sentence for sentence in said)
    manifest = json.loads((tmp_path / "out" / "manifest.json").read_text())
    names = [entry["name"] for entry in manifest["files"]]
    assert len({name.split(".")[0] for name in names}) == 1
    assert names[0].split(".")[0] not in ("programme", "")
    assert f"{names[0].split('.')[0]}.{target}.m4a" in names
    shown = read_captions(next(file for file in files if file.name.endswith(f"{target}.srt")), whole=True).cues
    rules = rules_for(target)
    for before, after in pairwise(shown):
        assert after.start_us >= before.end_us
    assert all(letters(line) <= rules.line_letters for cue in shown for line in cue.text.split("\n"))
    assert "".join("".join(cue.text.split()) for cue in shown) == "".join("".join(LINES[target]).split())
    raw = next(file for file in files if file.name.endswith(f"{target}.srt")).read_text(encoding="utf-8")
    assert (RTL_MARK in raw) == runs_right_to_left(target)
