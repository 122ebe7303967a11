"""Numbers counted in blocks are those counted one by one."""

from __future__ import annotations

import threading
import weakref

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import speechlike
from zweistimme.sound.arrays import decimated, steps_24
from zweistimme.sound.cores import together
from zweistimme.sound.k_weighting import HOP_SAMPLES, KWeighting
from zweistimme.sound.limiter import reductions_db
from zweistimme.sound.loudness import EnergyMeter
from zweistimme.sound.seams import DECIMATION, best_offsets
from zweistimme.sound.stretch import stretch_all, stretch_by_tempo, stretch_channels
from zweistimme.sound.true_peak import HISTORY, STEP, PeakMeter, after, step_peaks

RATE = 48_000
# ITU-R BS.1770-5, annex 2, as it stands there: four phases, one a column
PHASES = np.array(
    [
        [0.0017089843750, -0.0291748046875, -0.0189208984375, -0.0083007812500],
        [0.0109863281250, 0.0292968750000, 0.0330810546875, 0.0148925781250],
        [-0.0196533203125, -0.0517578125000, -0.0582275390625, -0.0266113281250],
        [0.0332031250000, 0.0891113281250, 0.1015625000000, 0.0476074218750],
        [-0.0594482421875, -0.1665039062500, -0.2003173828125, -0.1022949218750],
        [0.1373291015625, 0.4650878906250, 0.7797851562500, 0.9721679687500],
        [0.9721679687500, 0.7797851562500, 0.4650878906250, 0.1373291015625],
        [-0.1022949218750, -0.2003173828125, -0.1665039062500, -0.0594482421875],
        [0.0476074218750, 0.1015625000000, 0.0891113281250, 0.0332031250000],
        [-0.0266113281250, -0.0582275390625, -0.0517578125000, -0.0196533203125],
        [0.0148925781250, 0.0330810546875, 0.0292968750000, 0.0109863281250],
        [-0.0083007812500, -0.0189208984375, -0.0291748046875, 0.0017089843750],
    ]
)


def peaks_one_by_one(sound: np.ndarray) -> np.ndarray:
    """The largest magnitude around each sample, by plain convolution."""
    largest = np.abs(sound).max(axis=0).astype(np.float64)
    for line in sound.astype(np.float64):
        for phase in PHASES.T:
            np.maximum(largest, np.abs(np.convolve(line, phase)[: len(line)]), out=largest)
    return largest


def in_blocks(sound: np.ndarray, seed: int) -> list[np.ndarray]:
    random, place, blocks = np.random.default_rng(seed), 0, []
    while place < sound.shape[-1]:
        count = int(random.integers(1, 20_000))
        blocks.append(sound[..., place : place + count])
        place += count
    return blocks


@given(st.integers(0, 10_000), st.integers(1, 60_000))
@settings(max_examples=25)
def test_the_true_peak_is_that_of_a_plain_convolution(seed: int, length: int) -> None:
    random = np.random.default_rng(seed)
    envelope = np.interp(np.arange(length), np.linspace(0, length, 9), random.random(9))
    sound = (random.standard_normal((2, length)) * 0.2 * envelope).astype(np.float32)
    meter = PeakMeter(2)
    for block in in_blocks(sound, seed):
        meter.feed(block)
    assert meter.largest == pytest.approx(peaks_one_by_one(sound).max(), rel=1e-5)


@pytest.mark.parametrize("least", [0.0, 0.3, 0.9])
def test_steps_over_what_is_asked_about_are_exact(least: float) -> None:
    sound = np.stack([speechlike(2.0), speechlike(2.0, seed=3)])
    found, history = [], np.zeros((2, HISTORY), np.float32)
    for start in range(0, 2 * RATE, 50 * STEP):
        block = sound[:, start : start + 50 * STEP]
        found.append(step_peaks(block, history, least))
        history = after(history, block)
    truth = peaks_one_by_one(sound).reshape(-1, STEP).max(axis=1)
    steps = np.concatenate(found)
    over = truth > least
    assert over.any() or least == 0.9
    assert steps[over] == pytest.approx(truth[over], rel=1e-5)
    assert (steps[~over] <= max(least, 1e-6) * 1.00001).all()


@given(st.integers(0, 10_000))
@settings(max_examples=10)
def test_weighting_in_blocks_is_the_recursive_filter(seed: int) -> None:
    from scipy.signal import sosfilt

    sections = [
        [1.53512485958697, -2.69169618940638, 1.19839281085285, 1.0, -1.69065929318241, 0.73248077421585],
        [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621],
    ]
    random = np.random.default_rng(seed)
    line = (0.1 + 0.3 * random.standard_normal(3 * RATE + 1234)).astype(np.float32)
    line[RATE : RATE + 40_000] = 0
    weighting = KWeighting()
    parts = [weighting.feed(block) for block in in_blocks(line, seed)]
    assert all(len(part) % HOP_SAMPLES == 0 for part in parts)
    found = np.concatenate([*parts, weighting.rest()])
    assert found == pytest.approx(sosfilt(sections, line.astype(np.float64)), abs=2e-5)


def test_silence_after_sound_costs_no_more_than_sound() -> None:
    """What dies away is set to nothing before processors count slowly with it."""
    weighting = KWeighting()
    weighting.feed(np.ones(RATE, np.float32))
    for _ in range(8):
        last = weighting.feed(np.zeros(RATE, np.float32))
    assert not last.any()


def test_less_than_a_tenth_of_a_second_has_an_energy_too() -> None:
    meter = EnergyMeter(1)
    meter.feed(0.1 * np.ones((1, 1000), np.float32))
    assert meter.energies().shape == (1,)
    assert meter.energies()[0] > 0


def test_a_reduction_falls_no_faster_than_it_may() -> None:
    needs = np.array([0.0, 6.0, 0.0, 0.0, 5.5, 0.0, 0.0])
    assert reductions_db(needs, 1.0).tolist() == [0.0, 6.0, 5.0, 4.0, 5.5, 4.5, 3.5]
    assert reductions_db(needs[:1], 1.0, before_db=3.0).tolist() == [2.0]


@pytest.mark.parametrize(("factor", "length"), [(3, 33), (16, 33), (3, 7), (100, 5)])
def test_decimating_is_filtering_and_leaving_out(factor: int, length: int) -> None:
    random = np.random.default_rng(0)
    samples = random.standard_normal(10_007).astype(np.float32)
    half = random.random(length // 2 + 1).astype(np.float32)
    kernel = np.concatenate((half, half[-2::-1]))
    wanted = np.convolve(np.pad(samples, length // 2), kernel, "valid")[::factor]
    assert decimated(samples, factor, kernel) == pytest.approx(wanted, abs=1e-4)


def test_steps_of_24_bits_are_those_of_double_precision() -> None:
    samples = np.random.default_rng(1).uniform(-1.1, 1.1, 100_000).astype(np.float32)
    assert np.array_equal(steps_24(samples), steps_24(samples.astype(np.float64)))


def test_a_steady_tone_stays_one_where_the_search_is_cut() -> None:
    """Frames at which the search is cut stand at their places; the seams beside them are tuned all the same."""
    tone = 0.3 * np.sin(2 * np.pi * 331 * np.arange(12 * RATE) / RATE).astype(np.float32)[None, :]
    made = stretch_by_tempo(tone, 1.17, even=True)[0][RATE:-RATE]
    spectrum = np.abs(np.fft.rfft(made * np.hanning(len(made)))) ** 2
    near = round(331 * len(made) / RATE)
    assert spectrum[near - 20 : near + 21].sum() / spectrum.sum() > 0.998


def test_offsets_lie_on_their_grid_and_in_reach() -> None:
    sound = np.concatenate([speechlike(4.0), np.zeros(RATE, np.float32), speechlike(3.0, seed=2)])
    starts = np.arange(2_000, len(sound) - 3_000, 700)
    (offsets,) = best_offsets([(sound, starts)])
    assert offsets[0] == offsets[-1] == 0
    assert (np.abs(offsets) <= 384).all()
    assert not (offsets % DECIMATION).any()


def test_tasks_may_have_tasks_and_their_results_come_in_order() -> None:
    def outer(number: int) -> int:
        return sum(together([lambda k=k: number * k for k in range(5)]))  # type: ignore[misc]

    assert together([lambda k=k: outer(k) for k in range(6)]) == [10 * k for k in range(6)]  # type: ignore[misc]
    assert together([]) == []


def test_what_a_task_raises_is_raised_once_those_that_were_begun_have_ended() -> None:
    ended = threading.Event()

    def fails() -> None:
        raise ValueError("this one")

    with pytest.raises(ValueError, match="this one"):
        together([ended.set, fails])
    assert ended.is_set()
    with pytest.raises(ValueError, match="this one"):
        together([fails, fails, fails])


def test_nothing_is_kept_of_tasks_within_a_task_that_goes_on() -> None:
    """An hour's mix on another core asks thousands of times; nothing of that may wait behind it."""
    kept: list[weakref.ref[np.ndarray]] = []

    def many() -> int:
        for _ in range(50):
            array = np.zeros(1000)
            kept.append(weakref.ref(array))
            together([array.sum, array.max, array.min])
        del array
        return sum(one() is not None for one in kept)

    assert max(together([many, many])) <= 1  # what the other is just at


def test_sounds_stretched_together_are_what_each_is_alone() -> None:
    rng = np.random.default_rng(5)
    sounds = [speechlike(seconds, seed=number)[None] for number, seconds in enumerate((0.4, 2.7, 0.02, 6.0))]
    sounds.append(0.1 * rng.standard_normal((2, 30_000)).astype(np.float32))
    wanted = [
        (sound, round(sound.shape[1] * tempo), None)
        for sound, tempo in zip(sounds, (0.9, 1.2, 1.1, 0.8, 1.0), strict=True)
    ]
    together_made = stretch_all(wanted)
    for (sound, length, _), made in zip(wanted, together_made, strict=True):
        assert made.shape == (len(sound), length)
        np.testing.assert_array_equal(made, stretch_channels(sound, length))
    assert stretch_all([]) == []
