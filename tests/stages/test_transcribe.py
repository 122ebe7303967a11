"""From what an engine heard to a transcript, whatever the engine says."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from demo_project import work_on
from helpers import project_with, write_sound
from zweistimme.engines.offers import EngineInfo, Limits, Price
from zweistimme.engines.protocol import HeardSegment, HeardWord, Recognition, RecognitionQuestion, Report, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.estimate import estimated
from zweistimme.stages.fit.slot import slot_us
from zweistimme.stages.intake import Intake
from zweistimme.stages.transcribe import transcribe
from zweistimme.stages.translate import batched, items_of
from zweistimme.store.document import Document


class Hearing:
    """An engine of one's own: it hears what it was told to, and remembers what it was asked."""

    def __init__(self, heard: Recognition, info: EngineInfo | None = None) -> None:
        self.heard, self._info, self.asked = heard, info or EngineInfo("ear", "1", recognises=("en", "de")), []

    name = identity = "ear"

    def info(self, *, anew: bool = False) -> EngineInfo:
        return self._info

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        self.asked.append(question)
        report(0.5)
        assert len(sound.read(0, 100)) == 100
        return self.heard


def word(text: str, start: float, *, filler: bool = False, confidence: float = 0.9) -> HeardWord:
    return HeardWord(text, round(start * 1e6), round((start + 0.3) * 1e6), confidence, filler)


def segment(start: float, end: float, speaker: str, *words: HeardWord) -> HeardSegment:
    return HeardSegment(round(start * 1e6), round(end * 1e6), speaker, words)


HEARD = Recognition(
    "en-GB",
    0.9,
    (
        segment(0.2, 0.5, "A", word("Um", 0.2, filler=True)),
        segment(0.6, 1.4, "A", word("Good", 0.6), word("uh", 0.9, filler=True), word("day.", 1.1)),
        segment(1.6, 1.9, "B"),
        segment(3.2, 3.5, "B", word("Hm", 3.2, filler=True)),
        segment(2.2, 3.0, "B", word("Yes.", 2.2, confidence=0.4)),
    ),
)


@pytest.fixture
def document(tmp_path: Path):  # type: ignore[no-untyped-def]
    with Document.create(tmp_path / "p", Project("Kitchen", "en-GB")) as made:
        bring_in(work_on(made), Intake(write_sound(tmp_path / "kitchen.wav", 4.0)))
        yield made


def test_words_times_speakers_and_hesitations(document: Document) -> None:
    said: list[str] = []
    transcribe(work_on(document, said), Hearing(HEARD))  # type: ignore[arg-type]
    rows = [(s.text, document.project.speakers[s.speaker_id].name) for s in document.project.segments]
    assert rows == [("Good day.", "Speaker A"), ("", "Speaker B"), ("Yes.", "Speaker B")]
    fillers = [[w.text for w in s.fillers] for s in document.project.segments]
    assert fillers == [["Um", "uh"], [], ["Hm"]], "a hesitation that stands alone goes to the nearest speech"
    assert document.project.segments[2].words[0].confidence == 0.4
    assert any("1 stretch of speech could not be put into words" in text for text in said)
    assert any("3 sounds of hesitation left out" in text for text in said)


def test_another_language_than_expected_is_said(document: Document) -> None:
    said: list[str] = []
    info = EngineInfo("ear", "1", recognises=("en-GB", "de-DE"), detects=True)
    ear = Hearing(replace(HEARD, language="de-DE", probability=0.83), info)
    transcribe(work_on(document, said), ear, candidates=("de-DE", "ja-JP", "en-GB"), hints=("Varnholm",), speakers=2)  # type: ignore[arg-type]
    assert ear.asked == [RecognitionQuestion(("en-GB", "de-DE"), ("Varnholm",), 2)]
    assert any("sounds like German (Germany) (83%), not English (United Kingdom)" in text for text in said)


def test_an_engine_that_cannot_tell_languages_is_asked_for_one(document: Document) -> None:
    ear = Hearing(HEARD)
    transcribe(work_on(document), ear, candidates=("de-DE",))  # type: ignore[arg-type]
    assert ear.asked[0].languages == ("en-GB",)


def test_what_was_heard_costs_what_the_engine_asks(document: Document) -> None:
    said: list[str] = []
    info = EngineInfo("ear", "1", recognises=("en",), price=Price(a_second=0.25, currency="EUR"))
    transcribe(work_on(document, said), Hearing(HEARD, info))  # type: ignore[arg-type]
    assert "ear: 4 s of sound, 1.00 EUR." in said


@pytest.mark.parametrize(
    ("heard", "info", "sentence"),
    [
        (replace(HEARD, segments=()), None, "No speech was found"),
        (replace(HEARD, segments=HEARD.segments[:1]), None, "No speech was found"),
        (replace(HEARD, segments=(segment(9, 10, "A", word("Late", 9)),)), None, "speech outside the programme"),
        (replace(HEARD, segments=(segment(2, 2, "A", word("No", 2)),)), None, "speech outside the programme"),
        (HEARD, EngineInfo("ear", "1", recognises=("ja",)), "ear does not recognise en-GB; it recognises ja"),
    ],
)
def test_answers_and_engines_of_no_use(
    document: Document, heard: Recognition, info: EngineInfo | None, sentence: str
) -> None:
    with pytest.raises(EngineError, match=sentence):
        transcribe(work_on(document), Hearing(heard, info))  # type: ignore[arg-type]
    assert not document.project.segments


class Counting(Hearing):
    """It hears one word at the beginning of whatever it is given, and can be made to fail."""

    def __init__(self, fails_at: int = -1) -> None:
        super().__init__(HEARD, EngineInfo("ear", "1", recognises=("en",), limits=Limits(seconds=30)))
        self.lengths: list[int] = []
        self.fails_at = fails_at

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        if len(self.lengths) == self.fails_at:
            raise EngineError("the ear is tired")
        self.lengths.append(sound.length_samples)
        self.asked.append(question)
        return Recognition("en-GB", 1.0, (segment(4.0, 4.5, "X", word(f"Piece{len(self.lengths)}.", 4.0)),))


def test_long_programmes_are_recognised_in_pieces_and_a_run_goes_on_where_it_was(demo: Document) -> None:
    tired = Counting(fails_at=2)
    with pytest.raises(EngineError, match="tired"):
        transcribe(work_on(demo), tired, speakers=3)  # type: ignore[arg-type]
    assert len(tired.lengths) == 2
    fresh = Counting()
    transcribe(work_on(demo), fresh, speakers=3)  # type: ignore[arg-type]
    lengths = tired.lengths + fresh.lengths
    programme = demo.project.programme
    assert programme is not None
    assert sum(lengths) == pytest.approx(programme.sound.duration_us * 48_000 / 1e6, abs=2)
    assert max(lengths) <= 30 * 48_000
    assert len(fresh.lengths) == len(lengths) - 2, "what was answered is not asked again"
    assert {question.speakers for question in fresh.asked} == {None}
    spoken = [s for s in demo.project.segments if s.text]
    starts = [round(s.start_us / 1e6, 2) for s in spoken]
    edges = [0.0]
    for length in lengths[:-1]:
        edges.append(edges[-1] + length / 48_000)
    assert starts == [pytest.approx(edge + 4.0, abs=0.02) for edge in edges]
    assert {demo.project.speakers[s.speaker_id].name for s in spoken} <= {f"Speaker {a}" for a in "ABC?"} | {
        "Speaker ?X"
    }


def test_without_a_programme_nothing_is_heard(tmp_path: Path) -> None:
    with (
        Document.create(tmp_path / "empty", Project("Empty", "en-GB")) as empty,
        pytest.raises(MediaError, match="no programme to transcribe"),
    ):
        transcribe(work_on(empty), engine())


LINES = [(2.0 * k, 2.0 * k + 1.5, f"Line number {k}.") for k in range(40)]


def test_texts_go_with_their_neighbours_in_requests_as_large_as_allowed() -> None:
    project = project_with(LINES)
    items = items_of(project, project.segments[3:6])
    first = items[0]
    assert (first.before, first.text, first.after) == ("Line number 2.", "Line number 3.", "Line number 4.")
    everything = items_of(project, project.segments)
    assert everything[0].before == everything[-1].after == ""
    batches = batched(everything, Limits(items=6))
    assert [len(batch) for batch in batches] == [6] * 6 + [4]
    for batch in batched(everything, Limits(items=6, characters=100)):
        assert sum(len(i.text) + len(i.before) + len(i.after) for i in batch) <= 100
    assert [len(batch) for batch in batched(everything, Limits(characters=10))] == [1] * 40


def test_a_slot_is_found_wherever_its_segment_stands() -> None:
    project = project_with([*LINES, (81.0, 82.0, "Side by side."), (81.0, 82.5, "Side by side.")])
    version = project.versions["de-DE"]
    for place, here in enumerate(project.segments[1:-3], 1):
        before, after = project.segments[place - 1], project.segments[place + 1]
        slot = slot_us(project, version, here)
        assert here.end_us - here.start_us <= slot < after.start_us - before.end_us


def test_estimates_count_what_would_be_sent() -> None:
    project = project_with(LINES)
    info = EngineInfo("quay", "1", limits=Limits(requests_a_minute=60), price=Price(0.001, 0.0, "EUR"))
    assert estimated(project, "de-DE", Step.TRANSLATION, "quay", info).requests == 0, "all lines are there"
    spoken = estimated(project, "de-DE", Step.TAKES, "bundled", info)
    assert (spoken.requests, spoken.least_s) == (40, 39.0)
    assert spoken.cost.amount == pytest.approx(spoken.cost.characters / 1000)
    assert "40 requests" in spoken.sentence
    assert "at least 39 s" in spoken.sentence


def test_asked_anew_the_recogniser_answers_again(document: Document) -> None:
    ear = Hearing(HEARD)
    for anew, count in ((False, 1), (False, 1), (True, 2), (False, 2), (True, 3)):
        transcribe(work_on(document), ear, anew=anew)
        assert len(ear.asked) == count
    assert [question.attempt for question in ear.asked] == [0, 1, 2]
