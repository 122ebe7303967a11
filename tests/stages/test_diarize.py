"""Speech, speakers and scripts found in the sound: the demo's is known to the word."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from demo_project import work_on
from zweistimme.demo.script import LINES, TRUTH, data_file
from zweistimme.formats.prose import Prose, ProseLine
from zweistimme.project.errors import EditError, EngineError, MediaError
from zweistimme.project.intervals import overlap_us
from zweistimme.project.model import Project
from zweistimme.project.transcript import delete_segments, set_segment_text
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.stages.transcribe import align_script, find_speech, kept_regions, realign
from zweistimme.store.document import Document

TRUE_LINES = json.loads(data_file(TRUTH).read_text())["lines"]
SCRIPT = tuple(ProseLine(line.text, line.speaker) for line in LINES)


def spans() -> list[tuple[int, int]]:
    return [(round(line["start"] * 1e6), round(line["end"] * 1e6)) for line in TRUE_LINES]


def test_speech_is_found_with_its_speakers_and_nothing_else(demo: Document) -> None:
    said: list[str] = []
    find_speech(work_on(demo, said), keep=False)
    segments = demo.project.segments
    assert all(not segment.text for segment in segments)
    assert len(demo.project.speakers) == 3
    covered = [sum(overlap_us(span, (s.start_us, s.end_us)) for s in segments) for span in spans()]
    assert all(time > 0.85 * (b - a) for time, (a, b) in zip(covered, spans(), strict=True))
    spoken = sum(s.end_us - s.start_us for s in segments)
    assert spoken < 1.1 * sum(b - a for a, b in spans())
    owners: dict[str, set[str]] = {}
    for line, span in zip(TRUE_LINES, spans(), strict=True):
        if line["text"] != "Listen, it is still ticking.":  # whispered: there is no pitch to go by
            best = max(segments, key=lambda s, span=span: overlap_us(span, (s.start_us, s.end_us)))
            owners.setdefault(line["speaker"], set()).add(best.speaker_id)
    assert sorted(map(len, owners.values())) == [1, 1, 1]
    assert "by 3 speakers" in said[-1]


def test_speech_is_laid_only_where_no_segment_is(demo: Document) -> None:
    before = demo.project
    gone = [s.id for s in before.segments[3:5]]
    demo.apply("Delete", lambda p: delete_segments(p, gone))
    kept = demo.project.segments
    find_speech(work_on(demo))
    after = demo.project
    assert all(segment in after.segments for segment in kept)
    new = [s for s in after.segments if s not in kept]
    assert [s.speaker_id for s in new] == [s.speaker_id for s in before.segments[3:5]]
    assert all(abs(a.start_us - b.start_us) < 150_000 for a, b in zip(new, before.segments[3:5], strict=True))
    assert set(after.versions["de-DE"].lines) == {s.id for s in kept}


def test_regions_are_found_once(demo: Document) -> None:
    first = kept_regions(work_on(demo))
    asked: list[float] = []
    again = kept_regions(replace(work_on(demo), report=asked.append))
    assert not asked
    np.testing.assert_array_equal(first, again)
    assert first.shape[1] == 2


def errors_ms(project: Project) -> np.ndarray:
    heard = {w.text: [] for s in project.segments for w in s.words}
    for segment in project.segments:
        for word in segment.words:
            heard[word.text].append(word)
    errors = []
    for line in TRUE_LINES:
        for text, start, end in line["words"]:
            errors.append(
                min((abs(w.start_us / 1e6 - start) + abs(w.end_us / 1e6 - end) for w in heard.get(text, [])), default=9)
            )
    return 500 * np.array(errors)


def test_a_script_is_aligned_to_the_word(demo: Document) -> None:
    align_script(work_on(demo), Prose(SCRIPT), Path("script.txt"))
    project = demo.project
    names = [project.speakers[s.speaker_id].name for s in project.segments]
    assert [s.text for s in project.segments] == [line.text for line in LINES]
    assert names == [line.speaker for line in LINES]
    errors = errors_ms(project)
    assert np.median(errors) < 50
    assert np.percentile(errors, 95) < 120
    assert all(0 < w.confidence < 1 for s in project.segments for w in s.words)


def test_sentences_that_are_not_said_and_speech_that_is_not_written(demo: Document) -> None:
    said: list[str] = []
    extra = ProseLine("She sells warm bread behind the church on market days.", "Mira")
    script = (*SCRIPT[:4], extra, *SCRIPT[5:8], *SCRIPT[9:])
    align_script(work_on(demo, said), Prose(script), Path("script.txt"))
    texts = [s.text for s in demo.project.segments]
    assert extra.text not in texts
    assert any("“She sells warm bread" in sentence and "was not heard" in sentence for sentence in said)
    wordless = [s for s in demo.project.segments if not s.text]
    assert len(wordless) == 2
    missing = [spans()[4], spans()[8]]
    for segment, span in zip(wordless, missing, strict=True):
        assert overlap_us((segment.start_us, segment.end_us), span) > 0.8 * (span[1] - span[0])
        assert demo.project.speakers[segment.speaker_id].name == "Mira"
    assert any("2 stretches of speech are not in script.txt" in sentence for sentence in said)


def test_a_script_without_names_gets_its_speakers_from_the_voices(demo: Document) -> None:
    text = " ".join(line.text for line in LINES)
    align_script(work_on(demo), Prose((ProseLine(text),)), Path("script.txt"))
    by_line = {line.text: line.speaker for line in LINES}
    owners: dict[str, set[str]] = {}
    for segment in demo.project.segments:
        if segment.text in by_line and "Listen" not in segment.text:
            owners.setdefault(segment.speaker_id, set()).add(by_line[segment.text])
    assert all(len(names) == 1 for names in owners.values())
    assert len(owners) == 3


def test_the_wrong_script_and_the_wrong_moment(demo: Document, tmp_path: Path) -> None:
    before = demo.project
    with pytest.raises(EngineError, match=r"No sentence of other\.txt was heard"):
        align_script(work_on(demo), Prose((ProseLine("Geese keep watch over the neighbours."),)), Path("other.txt"))
    assert demo.project is before
    with Document.create(tmp_path / "empty", Project("x", "en-GB")) as empty:
        with pytest.raises(MediaError, match="no programme yet"):
            align_script(work_on(empty), Prose(SCRIPT), Path("a.txt"))
        with pytest.raises(MediaError, match="no programme yet"):
            find_speech(work_on(empty))


def test_silence_has_no_speakers(tmp_path: Path) -> None:
    import soundfile

    soundfile.write(tmp_path / "quiet.wav", 1e-4 * np.random.default_rng(0).standard_normal(48_000 * 5), 48_000)
    with Document.create(tmp_path / "p", Project("x", "en-GB")) as document:
        bring_in(work_on(document), Intake(tmp_path / "quiet.wav"))
        with pytest.raises(EditError, match="No speech was found"):
            find_speech(work_on(document))


def test_a_language_without_a_voice_is_laid_out_by_length(demo_folder: Path) -> None:
    with Document.open(demo_folder) as document:
        document.apply("French", lambda p: replace(p, source_tag="fr-FR"))
        said: list[str] = []
        align_script(work_on(document, said), Prose(SCRIPT), Path("script.txt"))
        segments = document.project.segments
        assert " ".join(s.text for s in segments if s.text) == " ".join(line.text for line in LINES)
        assert any("by length alone" in sentence for sentence in said)
        assert all(w.confidence == 0.3 for s in segments for w in s.words)
        starts = [s.start_us for s in segments if s.text]
        assert abs(starts[0] - spans()[0][0]) < 500_000


def test_times_are_looked_for_only_as_long_as_the_text_stays(demo: Document) -> None:
    segment = demo.project.segments[6]
    delivered: list = []
    realign(replace(work_on(demo), deliver=lambda _label, edit: delivered.append(edit)), [segment.id])
    (edit,) = delivered
    changed = set_segment_text(demo.project, segment.id, "Something else.")
    with pytest.raises(EditError, match="changed meanwhile"):
        edit(changed)
    assert edit(demo.project).segments[6].text == segment.text
    said: list[str] = []
    demo.apply(
        "Wrong", lambda p: set_segment_text(p, segment.id, "Geese keep watch over seven painted wooden boxes today.")
    )
    realign(work_on(demo, said), [segment.id])
    now = demo.project.segments[6]
    assert now.text.startswith("Geese")
    assert said or now.words
