"""Takes heard back, looked at, mended, and asked for again until they are right."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
import pytest

from demo_project import work_on
from zweistimme.engines.protocol import HeardWord
from zweistimme.project.edits import add_take, add_version, choose_take
from zweistimme.project.errors import EditError, EngineError
from zweistimme.project.facts import chosen_take
from zweistimme.project.findings import Finding
from zweistimme.project.model import Take
from zweistimme.project.times import RATE
from zweistimme.sound.word_check import WordState
from zweistimme.stages.voice import heard_back, until_right
from zweistimme.stages.voice.heard_back import WordHeard, against_recognised, hear_back
from zweistimme.stages.voice.looked_at import Remedy, TakeFault, look_at_takes, mend_take
from zweistimme.stages.voice.until_right import Bounds, again_until_right
from zweistimme.store.document import Document, Edit

TAG = "de-DE"


def take_of(demo: Document, segment_id: str) -> Take:
    version = demo.project.versions[TAG]
    take = chosen_take(version, version.lines[segment_id])
    assert take is not None
    return take


def spoil(demo: Document, segment_id: str, samples: np.ndarray) -> Take:
    """Another sound for the chosen take of a line, under another id."""
    before = take_of(demo, segment_id)
    length = len(samples)
    made = replace(
        before, id="spoilt", clip=demo.clips.put(samples.astype(np.float32)), length_samples=length,
        speech_start_samples=0, speech_end_samples=length, pauses_samples=(), words=(),
    )  # fmt: skip
    demo.apply("Spoil", partial(add_take, tag=TAG, take=made))
    return made


def without_a_word(demo: Document, segment_id: str, place: int) -> Take:
    take = take_of(demo, segment_id)
    samples, word = demo.clips.get(take.clip), take.words[place]
    a, b = (round(at * RATE / 1_000_000) for at in (word.start_us, word.end_us))
    return spoil(demo, segment_id, np.concatenate((samples[:a], samples[b:])))


def long_line(demo: Document) -> str:
    lines = demo.project.versions[TAG].lines
    return max(lines, key=lambda key: len(lines[key].text))


def test_a_word_that_is_not_there_is_found_and_kept(demo: Document, monkeypatch: pytest.MonkeyPatch) -> None:
    key = long_line(demo)
    (whole,) = hear_back(work_on(demo), TAG, [key])
    assert (whole.score, whole.faults) == (100.0, ())
    without_a_word(demo, key, 3)
    took = []
    (heard,) = hear_back(work_on(demo), TAG, [key], took.append)
    assert took == [heard]
    assert heard.score < 100
    assert WordState.MISSING in {word.state for word in heard.faults}
    monkeypatch.setattr(heard_back, "check_words", lambda *_: pytest.fail("it was heard before"))
    assert hear_back(work_on(demo), TAG, [key]) == [heard]


def test_the_worst_come_first_and_all_are_asked(demo: Document) -> None:
    key = long_line(demo)
    without_a_word(demo, key, 2)
    some = [key, *(one.id for one in demo.project.segments[:2] if one.id != key)]
    found = hear_back(work_on(demo), TAG, some)
    assert found[0].segment_id == key
    assert len(found) == len(some)


def test_where_nobody_hears_the_language_it_is_said(demo: Document) -> None:
    demo.apply("Add", partial(add_version, tag="fi-FI"))
    with pytest.raises(EditError, match="Nobody here can hear"):
        hear_back(work_on(demo), "fi-FI")


def word(text: str, at: int = 0) -> WordHeard:
    return WordHeard(text, at, at + 1)


def heard(*texts: str) -> list[HeardWord]:
    return [HeardWord(text, 10 * n, 10 * n + 9) for n, text in enumerate(texts)]


@pytest.mark.parametrize(
    ("said", "states"),
    [
        ("the old harbour clock", "clear clear clear clear"),
        ("The, OLD «Harbour» clock!", "clear clear clear clear"),
        ("the old har bour clock", "clear clear clear clear"),
        ("the harbour clock", "clear missing clear clear"),
        ("the bold harbour clock", "clear mumbled clear clear"),
        ("the old old harbour clock", "clear doubled clear clear clear"),
        ("the old harbour clock tower", "clear clear clear clear added"),
        ("", "missing missing missing missing"),
    ],
)
def test_what_a_recogniser_writes_is_laid_beside_the_words(said: str, states: str) -> None:
    ours = tuple(map(word, ("the", "old", "harbour", "clock")))
    found = against_recognised(ours, heard(*said.split()))
    assert sorted(one.state.value for one in found) == sorted(states.split())
    assert [one.text for one in found if one.state is WordState.CLEAR or one.state is WordState.MISSING] <= [
        "the", "old", "harbour", "clock", "old",
    ]  # fmt: skip


def test_takes_that_stand_out_are_found_with_what_helps(demo: Document) -> None:
    looked = look_at_takes(work_on(demo), TAG)
    assert len(looked) == 18
    assert not [one for one in looked if {f.kind for f in one.faults} & {"clipped", "click", "noise", "silent"}]
    key = long_line(demo)
    spoil(demo, key, 0.2 * demo.clips.get(take_of(demo, key).clip))
    first = look_at_takes(work_on(demo), TAG, [key])[0]
    level = next(fault for fault in first.faults if fault.kind == "level")
    assert level.remedy is Remedy.LEVEL
    assert level.amount == pytest.approx(-14, abs=4)


def test_a_take_is_mended_and_the_other_kept(demo: Document) -> None:
    key = long_line(demo)
    quiet = spoil(demo, key, 0.2 * demo.clips.get(take_of(demo, key).clip))
    (one,) = look_at_takes(work_on(demo), TAG, [key])
    made = mend_take(work_on(demo), TAG, quiet.id, one.faults)
    assert take_of(demo, key).id == made.id
    assert quiet.id in demo.project.versions[TAG].takes
    assert "level" not in {f.kind for f in look_at_takes(work_on(demo), TAG, [key])[0].faults}
    samples = demo.clips.get(made.clip)
    assert abs(samples[0]) < 1e-3
    assert np.abs(samples).max() < 1
    with pytest.raises(EditError, match="do not help"):
        mend_take(work_on(demo), TAG, made.id, [TakeFault("noise", 0, 12.0)])


def test_again_until_right_stops_where_all_are_right_and_keeps_the_best(demo: Document) -> None:
    key = long_line(demo)
    bad = without_a_word(demo, key, 3)
    (one,) = again_until_right(work_on(demo), TAG, [key], Bounds(score=95, tries=2))
    assert one.score >= 95
    assert one.take_id != bad.id
    assert take_of(demo, key).id == one.take_id
    count = len(demo.project.versions[TAG].takes)
    again_until_right(work_on(demo), TAG, [key], Bounds(score=95, tries=2))
    assert len(demo.project.versions[TAG].takes) == count


def test_again_stays_within_the_bounds(demo: Document) -> None:
    key = long_line(demo)
    bad = without_a_word(demo, key, 3)
    (one,) = again_until_right(work_on(demo), TAG, [key], Bounds(score=95, tries=0))
    assert one.take_id == bad.id


def test_what_somebody_chose_meanwhile_stays(demo: Document) -> None:
    key = long_line(demo)
    first, bad = take_of(demo, key), without_a_word(demo, key, 3)
    work = work_on(demo)

    def chosen_meanwhile(label: str, edit: Edit) -> None:
        demo.apply(label, edit)
        if label == "Voice":
            demo.apply("Choose", partial(choose_take, tag=TAG, take_id=first.id))

    again_until_right(replace(work, deliver=chosen_meanwhile), TAG, [key], Bounds(score=95, tries=1))
    assert take_of(demo, key).id == first.id
    demo.apply("Choose", partial(choose_take, tag=TAG, take_id=bad.id))
    (one,) = look_at_takes(work_on(demo), TAG, [key])
    late = work_on(demo)
    demo.apply("Choose", partial(choose_take, tag=TAG, take_id=first.id))
    made = mend_take(late, TAG, bad.id, [*one.faults, TakeFault("cut-start", 0, 0.0)])
    assert take_of(demo, key).id == first.id
    assert made.id in demo.project.versions[TAG].takes


def test_a_clip_that_is_gone_stops_no_other(demo: Document) -> None:
    key, other = long_line(demo), demo.project.segments[0].id
    bad = without_a_word(demo, key, 3)
    demo.clips.path(bad.clip).unlink()
    said: list[Finding] = []
    work = replace(work_on(demo), say=said.append)
    assert [one.segment_id for one in hear_back(work, TAG, [key, other])] == [other]
    assert key not in {one.segment_id for one in look_at_takes(work, TAG)}
    assert [one.code for one in said] == ["take-not-heard"] * 2


def test_an_engine_that_fails_altogether_keeps_what_there_was(demo: Document, monkeypatch: pytest.MonkeyPatch) -> None:
    key, said = long_line(demo), list[Finding]()
    bad = without_a_word(demo, key, 3)

    def fails(*_: object) -> None:
        raise EngineError("The engine is away.")

    monkeypatch.setattr(until_right, "voice", fails)
    (one,) = again_until_right(replace(work_on(demo), say=said.append), TAG, [key])
    assert (one.take_id, take_of(demo, key).id) == (bad.id, bad.id)
    assert said[0].code == "The engine is away."


def test_what_no_ear_can_judge_is_said_and_not_called_clear(demo: Document) -> None:
    key, said = long_line(demo), list[Finding]()
    take = take_of(demo, key)
    noise = np.random.default_rng(3).standard_normal(take.length_samples) * 0.05
    spoil(demo, key, noise)
    assert hear_back(replace(work_on(demo), say=said.append), TAG, [key]) == []
    assert [(one.code, one.figures["takes"]) for one in said] == [("takes-not-comparable", 1)]
