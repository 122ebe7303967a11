"""Whether each word is in a clip: words taken out, said twice and mumbled on purpose."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest
import soxr
from scipy.signal import butter, sosfilt

from zweistimme.sound.features import RATE
from zweistimme.sound.word_check import CheckedWord, WordState, check_words
from zweistimme.standin.voice import Spoken, speak, voice_by_id

TEXT = "Der Bäcker öffnet um sieben, und der Zug kam wieder zu spät."
DESK = 48_000


@lru_cache
def said(voice: str, seed: int = 0) -> Spoken:
    found = voice_by_id(voice)
    assert found is not None
    return speak(TEXT, "de-DE", found, seed=seed)


def low(samples: np.ndarray) -> np.ndarray:
    return soxr.resample(samples, DESK, RATE, "HQ").astype(np.float32)


def checked(samples: np.ndarray) -> list[CheckedWord]:
    reference = said("dario")
    return check_words(low(samples), low(reference.samples), [(a, b) for _, a, b in reference.words])


def word_at(place: int) -> tuple[np.ndarray, int, int]:
    _, start, end = said("alva").words[place]
    return said("alva").samples, round(start * DESK), round(end * DESK)


@pytest.mark.parametrize(("voice", "seed"), [("alva", 0), ("brandt", 3), ("fenn", 0), ("dario", 0)])
def test_a_whole_line_is_clear_whoever_says_it(voice: str, seed: int) -> None:
    assert {one.state for one in checked(said(voice, seed).samples)} == {WordState.CLEAR}


@pytest.mark.parametrize("place", [1, 4, 9])
def test_what_is_missing_doubled_or_mumbled_is_found_where_it_is(place: int) -> None:
    whole, a, b = word_at(place)
    mumbled = whole.copy()
    mumbled[a:b] = sosfilt(butter(4, 500, fs=DESK, output="sos"), whole[a:b]) * 0.5
    for state, sound in (
        (WordState.MISSING, np.concatenate((whole[:a], whole[b:]))),
        (WordState.DOUBLED, np.concatenate((whole[:b], whole[a:b], whole[b:]))),
        (WordState.MUMBLED, mumbled),
    ):
        found = checked(sound)
        bad = [number for number, one in enumerate(found) if one.state is not WordState.CLEAR]
        assert bad, state
        assert all(abs(number - place) <= 1 for number in bad), state


def test_words_lie_where_they_are_said() -> None:
    for (_, start, end), one in zip(said("alva").words, checked(said("alva").samples), strict=True):
        assert one.start_s == pytest.approx(start, abs=0.06)
        assert one.end_s == pytest.approx(end, abs=0.06)


def test_of_a_single_word_or_nothing_nothing_is_said() -> None:
    assert check_words(low(said("alva").samples), low(said("dario").samples), [(0.0, 0.5)]) == []
    assert check_words(np.zeros(10, np.float32), low(said("dario").samples), [(0.0, 0.2), (0.2, 0.4)]) == []


def test_a_speech_of_a_minute_is_looked_at_within_bounds() -> None:
    times = 14
    clip, reference = np.tile(said("alva").samples, times), np.tile(said("dario").samples, times)
    length = len(said("dario").samples) / DESK
    marks = [(a + n * length, b + n * length) for n in range(times) for _, a, b in said("dario").words]
    found = check_words(low(clip), low(reference), marks)
    assert len(found) == len(marks)
    assert sum(one.state is not WordState.CLEAR for one in found) <= len(marks) // 10


def test_of_what_sounds_otherwise_altogether_nothing_is_said() -> None:
    random = np.random.default_rng(1)
    babble = low(said("alva").samples)[random.permutation(len(low(said("alva").samples)) // 800 * 800).reshape(-1, 800)]
    reference = said("dario")
    assert check_words(babble.ravel(), low(reference.samples), [(a, b) for _, a, b in reference.words]) == []
