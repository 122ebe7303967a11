"""What is said of a programme's sound when it is brought in."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from demo_project import work_on
from helpers import speechlike
from zweistimme.demo.script import MEDIA, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.model import Project
from zweistimme.project.times import RATE
from zweistimme.sentences import sentence_of, sentences_of
from zweistimme.sound.quality import SoundMeter
from zweistimme.stages.advice import advice, listen
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.intake import Intake
from zweistimme.store.document import Document


@pytest.fixture(scope="module")
def sound() -> np.ndarray:
    """Thirty seconds of the demo, stereo."""
    return np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1)[:, : 30 * RATE]


def said_of(sound: np.ndarray) -> str:
    meter = SoundMeter(RATE)
    for start in range(0, sound.shape[1], 10 * RATE):
        meter.feed(sound[:, start : start + 10 * RATE])
    return sentences_of(advice(meter.facts()))


def low_passed(sound: np.ndarray) -> np.ndarray:
    from scipy.signal import butter, sosfilt

    return sosfilt(butter(8, 3400, fs=RATE, output="sos"), sound).astype(np.float32)


def test_good_sound_needs_no_words(sound: np.ndarray) -> None:
    assert said_of(sound) == ""


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda s: np.clip(s * 8, -1, 1), "is clipped at"),
        (lambda s: s * 1e-4, "silent all through"),
        (lambda s: s * 5e-3, "very soft (its peak is -5"),
        (lambda s: np.stack([s[0], -s[0]]), "one of them is upside down"),
        (low_passed, "nothing above 4.4 kHz"),
        (lambda s: s + 0.06, "does not swing about zero (off by +7"),
        (
            lambda s: np.pad(s, ((0, 0), (12 * RATE, 15 * RATE))),
            "begins with 12 s of silence. The programme ends with 15",
        ),
        (
            lambda s: s + 0.1 * np.random.default_rng(1).standard_normal(s.shape).astype(np.float32),
            "dB over what is under",
        ),
        (
            lambda s: 0.2 * np.sin(np.arange(s.shape[1]) / 30)[None].repeat(2, 0).astype(np.float32),
            "No speech was found",
        ),
    ],
)
def test_what_will_hurt_is_said(sound: np.ndarray, spoil, words: str) -> None:  # type: ignore[no-untyped-def]
    assert words in said_of(spoil(sound))


def test_another_language_is_noticed_beside_the_work(tmp_path: Path) -> None:
    said: list[str] = []
    with Document.create(tmp_path / "p", Project("Clock", "de-DE")) as document:
        bring_in(work_on(document, said), Intake(data_file(MEDIA)))
        assert not any("sounds like" in sentence for sentence in said)  # bringing in does not wait for it
        listen(work_on(document, said))
        assert document.project.programme is not None
        assert [*map(sentence_of, document.project.programme.notes)] == said
    assert any("sounds like English (United Kingdom), not German (Germany)" in sentence for sentence in said)


def test_speech_nobody_knows_is_no_language(tmp_path: Path) -> None:
    said: list[str] = []
    soundfile.write(tmp_path / "a.wav", speechlike(6.0), RATE)
    with Document.create(tmp_path / "p", Project("Hum", "de-DE")) as document:
        bring_in(work_on(document, said), Intake(tmp_path / "a.wav"))
        listen(work_on(document, said))
    assert not any("sounds like" in sentence for sentence in said)
