"""Directions proposed from how the original is said, against how it was made to be said."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
import pytest
import soxr

from demo_project import work_on
from zweistimme.formats.ssml import Span
from zweistimme.project.edits import set_direction
from zweistimme.project.errors import EngineError
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.model import Segment
from zweistimme.project.writing import syllables
from zweistimme.sound.delivery import DeliveryFigures, delivery_figures
from zweistimme.sound.features import RATE
from zweistimme.sound.pitch import pitch_track
from zweistimme.stages.voice import voice
from zweistimme.stages.voice.deliveries import _heard, _usual, give_directions, proposed_by_text, proposed_directions
from zweistimme.standin.voice import Manner, speak_spans, voice_by_id
from zweistimme.store.document import Document

TEXTS = (
    "Nobody has seen him since.",
    "The boats come in at six.",
    "She told me all about it.",
    "They left the light on.",
)


def figures(text: str, direction: str = "", **manner: float) -> DeliveryFigures:
    voice = voice_by_id("hale")
    assert voice is not None
    manner.setdefault("volume_db", -12.0)  # so that there is room above
    spoken = speak_spans([Span(text)], "en-GB", voice, direction=direction, manner=Manner(**manner)).samples
    found = delivery_figures(soxr.resample(spoken, 48_000, RATE, "HQ").astype(np.float32), syllables(text, "en-GB"))
    assert found is not None
    return found


@pytest.fixture(scope="module")
def usual() -> list[DeliveryFigures]:
    return [figures(text) for text in TEXTS]


def kinds(one: DeliveryFigures, usual: list[DeliveryFigures]) -> list[str]:
    return [kind for kind, _ in _heard(one, _usual([*usual, one]), Segment("s", "p", 0, 1, TEXTS[0]))]


def test_a_whisper_a_shout_hurry_and_calm_are_heard(usual: list[DeliveryFigures]) -> None:
    assert kinds(figures(TEXTS[0], "whispering"), usual)[0] == "whispered"
    assert "shouted" in kinds(figures(TEXTS[0], volume_db=-3.0, pitch=1.25), usual)
    assert "hurried" in kinds(figures(TEXTS[0], pace=1.5), usual)
    assert "slow" in kinds(figures(TEXTS[0], pace=0.66), usual)


def test_of_what_is_said_as_usual_nothing_is_said(usual: list[DeliveryFigures]) -> None:
    for one in usual:
        assert _heard(one, _usual(usual), Segment("s", "p", 0, 1, "It is so.")) == []


def test_a_rise_that_no_question_mark_says_is_a_question(usual: list[DeliveryFigures]) -> None:
    rising = replace(usual[0], rise_st=6.0)
    assert kinds(rising, usual) == ["questioning"]
    asked = Segment("s", "p", 0, 1, "Nobody has seen him?")
    assert _heard(rising, _usual([*usual, rising]), asked) == []


def test_the_demo_s_whisper_is_found_and_nothing_else(demo: Document) -> None:
    whispered = [one.id for one in demo.project.segments if one.text.startswith("Listen")]
    demo.apply("Forget", partial(set_direction, tag="de-DE", segment_id=whispered[0], direction=""))
    found = proposed_directions(work_on(demo), "de-DE")
    assert [(one.segment_id, one.direction) for one in found] == [(whispered[0], "whispering")]
    demo.apply("Take", partial(give_directions, tag="de-DE", proposed=found))
    assert demo.project.versions["de-DE"].lines[whispered[0]].direction == "whispering"
    assert proposed_directions(work_on(demo), "de-DE") == []
    again = [replace(found[0], direction="calm")]
    assert give_directions(demo.project, "de-DE", again) is demo.project


def test_too_little_sound_says_nothing() -> None:
    assert delivery_figures(np.zeros(100, np.float32), 9) is None
    assert delivery_figures(np.zeros(RATE, np.float32), 9) is None


def test_directions_come_from_the_tone_of_the_wording(demo: Document) -> None:
    for key, text in (("s0003", "Leise, flüstern!"), ("s0006", "Der Hafen."), ("s0008", "Wunderbar, endlich!")):
        demo.apply("Write", partial(set_line_text, tag="de-DE", segment_id=key, text=text))
    demo.apply("Direct", partial(set_direction, tag="de-DE", segment_id="s0008", direction="calm"))
    found = {one.segment_id: one.direction for one in proposed_by_text(work_on(demo), "de-DE", "bundled")}
    assert found["s0003"] == "whispering"
    assert "s0006" not in found
    assert "s0008" not in found, "it has one"
    (only,) = proposed_by_text(work_on(demo), "de-DE", "bundled", ["s0003"])
    assert only.why.code == "text-has-tone"
    with pytest.raises(EngineError, match="no engine called"):
        proposed_by_text(work_on(demo), "de-DE", "nobody")


def test_a_direction_within_a_line_is_spoken_by_and_never_said(demo: Document) -> None:
    text = "Ich habe es gehört [whispering] und niemand sonst."
    demo.apply("Write", partial(set_line_text, tag="de-DE", segment_id="s0006", text=text))
    voice(work_on(demo), "de-DE", ["s0006"])
    version = demo.project.versions["de-DE"]
    take = version.takes[version.lines["s0006"].take_id or ""]
    assert [word.text for word in take.words] == ["Ich", "habe", "es", "gehört", "und", "niemand", "sonst."]
    samples = demo.clips.get(take.clip)
    middle = round(take.words[4].start_us * 0.048)
    voiced = [
        np.isfinite(pitch_track(soxr.resample(one, 48_000, RATE), RATE)).mean()
        for one in (samples[:middle], samples[middle:])
    ]
    assert voiced[0] > 0.3 > voiced[1], "the second half is whispered"
