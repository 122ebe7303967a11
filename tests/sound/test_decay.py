"""How long a room rings, told from speech that was spoken in it."""

from __future__ import annotations

import numpy as np
import pytest
import soxr
from benchmarks.rooms import room_tail
from scipy.signal import fftconvolve

from zweistimme.formats.ssml import Span
from zweistimme.sound.decay import decay_s
from zweistimme.standin.voice import speak_spans, voice_by_id

RATE = 16_000
TEXTS = (
    "Every evening the harbour lies quiet, and the boats come in with the tide.",
    "Nobody has seen him since. They left the light on.", "What did she tell you? I heard it go. It turns!",
    "Twice a day the sea walks up these steps, and twice a day it leaves again.",
)  # fmt: skip


@pytest.fixture(scope="module", params=["alva", "brandt"])
def dry(request: pytest.FixtureRequest) -> np.ndarray:
    voice = voice_by_id(request.param)
    assert voice is not None
    said = [speak_spans([Span(text)], "en-GB", voice).samples for text in TEXTS]
    pause = np.zeros(24_000, dtype=np.float32)
    return np.concatenate([soxr.resample(np.concatenate((one, pause)), 48_000, RATE) for one in said])


@pytest.mark.parametrize("seconds", [0.2, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 1.3, 1.6, 2.0])
def test_a_room_is_told_from_speech(dry: np.ndarray, seconds: float) -> None:
    heard = fftconvolve(dry, room_tail(seconds, round(10 * seconds)))[: len(dry) + RATE]
    assert decay_s(heard.astype(np.float32), RATE) == pytest.approx(seconds, rel=0.2)


def test_speech_without_a_room_rings_hardly(dry: np.ndarray) -> None:
    assert decay_s(dry.astype(np.float32), RATE) < 0.18


def test_of_too_little_nothing_is_said() -> None:
    assert np.isnan(decay_s(np.zeros(800, dtype=np.float32), RATE))
    assert np.isnan(decay_s(np.zeros(48_000, dtype=np.float32), 48_000))
