"""What becomes of a recording: words confirmed, words written down, takes."""

from __future__ import annotations

import numpy as np
import pytest

from demo_project import work_on
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.access import find_segment
from zweistimme.project.errors import EngineError
from zweistimme.project.model import Segment, TakeKind
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.project.transcript import set_segment_text
from zweistimme.stages.recording import faults, heard, keep_take, respeak, room_words
from zweistimme.stages.work import working_file
from zweistimme.store.document import Document


def sound_of(document: Document, segment: Segment) -> np.ndarray:
    """What the programme has at a segment, with half a second of silence around it."""
    programme = document.project.programme
    assert programme is not None
    first, last = us_to_samples(segment.start_us), us_to_samples(segment.end_us)
    with SoundReader(working_file(document.cache, programme.sound)) as reader:
        said = reader.mono(first - RATE // 10, last - first + RATE // 5)
    quiet = np.zeros(RATE // 2, np.float32)
    return np.concatenate((quiet, said, quiet))


def test_words_that_are_said_again_are_confirmed_where_they_are(demo: Document) -> None:
    before = demo.project.segments[4]
    respeak(work_on(demo), before.id, sound_of(demo, before))
    now = find_segment(demo.project, before.id)
    assert now.text == before.text
    assert [(w.start_us, w.end_us) for w in now.words] == [(w.start_us, w.end_us) for w in before.words]
    assert all(a.confidence >= b.confidence for a, b in zip(now.words, before.words, strict=True))
    assert now.respoken in demo.clips


def test_a_segment_without_words_gets_them_with_their_times(demo: Document) -> None:
    before = demo.project.segments[4]
    sound = sound_of(demo, before)
    demo.apply("Forget", lambda p: set_segment_text(p, before.id, ""))
    respeak(work_on(demo), before.id, sound)
    now = find_segment(demo.project, before.id)
    assert now.text == before.text
    assert (now.start_us, now.end_us) == (before.start_us, before.end_us)
    off = [abs(a.start_us - b.start_us) for a, b in zip(now.words, before.words, strict=True)]
    assert max(off) < 200_000, "brought from the recording to the segment"


def test_a_recording_without_words_is_kept_all_the_same(demo: Document) -> None:
    before = demo.project.segments[4]
    hum = 0.1 * np.sin(2 * np.pi * 120 * np.arange(RATE) / RATE).astype(np.float32)
    with pytest.raises(EngineError, match="The recording is kept, but no words were recognised"):
        respeak(work_on(demo), before.id, hum)
    now = find_segment(demo.project, before.id)
    assert (now.text, now.words) == (before.text, before.words)
    assert now.respoken in demo.clips


def test_a_take_is_trimmed_over_the_room_it_was_recorded_in(demo: Document) -> None:
    segment = demo.project.segments[4]
    sound = sound_of(demo, segment)
    noise = 0.002 * np.random.default_rng(3).standard_normal(len(sound)).astype(np.float32)
    keep_take(work_on(demo), "de-DE", segment.id, sound + noise, heard(noise).level_db)
    line = demo.project.versions["de-DE"].lines[segment.id]
    take = demo.project.versions["de-DE"].takes[line.take_id or ""]
    assert (take.kind, take.label) == (TakeKind.RECORDED, "recorded 1")
    length = us_to_samples(segment.end_us - segment.start_us)
    assert abs(take.speech_end_samples - take.speech_start_samples - length) < 0.35 * RATE


def test_what_a_level_tells_is_said() -> None:
    tone = np.sin(2 * np.pi * 200 * np.arange(RATE) / RATE).astype(np.float32)
    assert "clipped" in faults(np.clip(2 * tone, -1, 1))[0]
    assert "soft" in faults(0.005 * tone)[0]
    assert faults(0.3 * tone) == []
    assert "switched on" in room_words(heard(np.zeros(RATE, np.float32)))
    assert "loud" in room_words(heard(0.1 * tone))
    assert "quiet enough" in room_words(heard(0.0005 * tone))
