"""What the measuring pass says of a mix is what the mix is, limited and all."""

from __future__ import annotations

import numpy as np
import pytest

from helpers import speechlike
from zweistimme.project.errors import Cancelled
from zweistimme.project.sound_delivery import Channels, LoudnessOf, SoundPreset
from zweistimme.sound.arrays import amplitude
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import EnergyMeter, Loudness, measure
from zweistimme.stages.mix.measure import LAYOUTS, MOST_LIMITING_DB, LayoutMeasure, MixMeasure, measured_mix
from zweistimme.stages.work import SharedReport

RATE = 48_000
LENGTH_S = 24.0


def lanes(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """A dub with pauses, and a bed with a hard beat."""
    random = np.random.default_rng(seed)
    dub = 0.5 * speechlike(LENGTH_S, seed=seed)
    dub[8 * RATE : 12 * RATE] = 0
    under = 0.02 * random.standard_normal((2, len(dub))).astype(np.float32)
    for beat in random.integers(0, len(dub) - 200, 40):
        under[:, beat : beat + 200] += 0.6
    return dub, under.astype(np.float32)


def in_blocks(dub: np.ndarray, under: np.ndarray, size: int, *layouts: Channels) -> MixMeasure:
    blocks = ((dub[k : k + size], under[:, k : k + size]) for k in range(0, len(dub), size))
    return measured_mix(blocks, layouts or (Channels.STEREO,))


def in_stereo(dub: np.ndarray, under: np.ndarray, size: int = 10 * RATE) -> LayoutMeasure:
    return in_blocks(dub, under, size).layouts[Channels.STEREO]


def limited(dub: np.ndarray, under: np.ndarray, gain_db: float, ceiling: float) -> Loudness:
    limiter = TruePeakLimiter(2, ceiling)
    mix = (under + dub[None, :]) * np.float32(amplitude(gain_db))
    return measure(np.concatenate([limiter.feed(mix), limiter.finish()], axis=1))


@pytest.mark.parametrize("size", [10 * RATE, 7_919])
def test_lanes_and_mix_are_measured_as_if_each_were_heard_alone(size: int) -> None:
    dub, under = lanes(1)
    found = in_blocks(dub, under, size, *Channels)
    for channels, matrix in LAYOUTS.items():
        mix, layout = measure(matrix @ np.stack((dub, *under))), found.layouts[channels]
        assert layout.integrated_lufs == pytest.approx(mix.integrated_lufs, abs=1e-4)
        assert layout.true_peak_dbtp == pytest.approx(mix.true_peak_dbtp, abs=1e-3)
    for lane, energies in ((dub[None, :], found.dub), (under, found.sides)):
        meter = EnergyMeter(len(lane))
        meter.feed(np.ascontiguousarray(lane))
        assert energies == pytest.approx(meter.energies(), rel=1e-3, abs=1e-9)


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("gain_db", [-6.0, 2.0, 6.0])
def test_how_loud_the_limited_mix_will_be_is_known_beforehand(seed: int, gain_db: float) -> None:
    dub, under = lanes(seed)
    found = in_stereo(dub, under)
    gain_db = min(gain_db, found.most_gain_db(-1.0))
    assert found.limited_lufs(gain_db, -1.0) == pytest.approx(
        limited(dub, under, gain_db, -1.0).integrated_lufs, abs=0.1
    )


def test_the_gain_that_is_found_makes_the_limited_mix_as_loud_as_wanted() -> None:
    dub, under = lanes(2)
    found = in_stereo(dub, under)
    for wanted in (-30.0, -23.0, found.integrated_lufs + 2.5):
        gain_db = found.gain_db(wanted, -1.0)
        assert limited(dub, under, gain_db, -1.0).integrated_lufs == pytest.approx(wanted, abs=0.1)


def test_dialogue_is_brought_to_its_loudness_whatever_lies_beside_it() -> None:
    dub, under = lanes(2)
    preset = SoundPreset(-27.0, -2.0, LoudnessOf.DIALOGUE)
    for louder in (1.0, 0.3):
        gain_db = in_blocks(dub, under * np.float32(louder), 10 * RATE).gain_db(preset)
        alone = measure(np.stack((dub, dub)) * np.float32(amplitude(gain_db)))
        assert alone.integrated_lufs == pytest.approx(-27.0, abs=0.05)


def test_a_mix_is_not_crushed_for_the_sake_of_its_loudness() -> None:
    dub, under = lanes(3)
    found = in_stereo(dub, under)
    assert found.gain_db(0.0, -1.0) == pytest.approx(-1.0 - found.true_peak_dbtp + MOST_LIMITING_DB)


def test_silence_and_what_is_hardly_there_have_no_gain() -> None:
    nothing = measured_mix(iter(())).layouts[Channels.STEREO]
    assert nothing.gain_db(-23.0, -1.0) == 0.0
    short = in_stereo(np.zeros(1_000, np.float32), np.zeros((2, 1_000), np.float32), 300)
    assert short.gain_db(-23.0, -1.0) == 0.0
    assert short.true_peak_dbtp <= -199


def test_parts_that_go_on_at_once_tell_one_share_and_stop_together() -> None:
    told: list[float] = []
    shared = SharedReport(told.append, 2)
    shared.part(0)(0.5)
    shared.part(1)(1.0)
    assert told == [0.25, 0.75]
    with pytest.raises(ValueError, match="full"), shared.stopping():
        raise ValueError("full")
    with pytest.raises(ValueError, match="full"):
        shared.part(0)(0.6)


def test_what_a_person_stops_stops_in_all_parts() -> None:
    def stop(_share: float) -> None:
        raise Cancelled

    shared = SharedReport(stop, 2)
    for number in (0, 1):
        with pytest.raises(Cancelled), shared.stopping():
            shared.part(number)(0.5)
