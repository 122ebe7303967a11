"""Clips and their phrases louder, softer and faded by hand."""

from __future__ import annotations

import numpy as np
import pytest

from zweistimme.project.times import RATE
from zweistimme.stages.mix.clip_envelope import PhraseShape, enveloped

SOUND = np.ones(2 * RATE, np.float32)


def at(sound: np.ndarray, second: float) -> float:
    return float(sound[round(second * RATE)])


def test_a_clip_nobody_shaped_is_itself() -> None:
    assert enveloped(SOUND, 0, 0, ()) is SOUND


def test_ends_are_faded() -> None:
    made = enveloped(SOUND, 500_000, 1_000_000, ())
    assert [at(made, x) for x in (0, 0.25, 0.5, 1.0, 1.5)] == pytest.approx([0, 0.5, 1, 1, 0.5], abs=1e-3)
    assert float(np.abs(made[-1])) < 1e-6
    assert SOUND.min() == 1, "the clip that is kept stays as it is"
    short = enveloped(SOUND[:100], 5_000_000, 5_000_000, ())
    assert short.shape == (100,)


def test_phrases_are_louder_and_faded_between_the_middles_of_pauses() -> None:
    phrases = (PhraseShape(0, 800_000, -6.0206), PhraseShape(1_200_000, 2_000_000, 0.0, 200_000, 400_000))
    made = enveloped(SOUND, 0, 0, phrases)
    assert made.shape == SOUND.shape
    assert [at(made, x) for x in (0.1, 0.9)] == pytest.approx([0.5, 0.5], abs=1e-3)
    assert at(made, 1.1) == 0, "nothing before a phrase that comes in softly"
    assert [at(made, x) for x in (1.3, 1.5, 1.8)] == pytest.approx([0.5, 1.0, 0.5], abs=0.01)
    assert np.abs(np.diff(made)).max() < 0.003, "nothing clicks"


def test_phrases_without_a_pause_between_them_change_at_their_edge() -> None:
    made = enveloped(SOUND, 0, 0, (PhraseShape(0, 1_000_000), PhraseShape(1_000_000, 2_000_000, -20.0)))
    assert [at(made, x) for x in (0.99, 1.0, 1.01)] == pytest.approx([1.0, 0.55, 0.1], abs=0.01)
