"""The numeric core against signals whose answer is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, lfilter, sosfilt

from helpers import speechlike
from zweistimme.project.times import RATE
from zweistimme.sound.activity import clip_speech, frame_levels_db, speech_regions
from zweistimme.sound.ducking import CURVE_RATE, Ducking, curve_gain, ducking_curve
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import LoudnessMeter, measure
from zweistimme.sound.pitch import median_pitch_hz, pitch_track
from zweistimme.sound.quality import SoundMeter
from zweistimme.sound.stretch import stretch, stretch_by_tempo
from zweistimme.sound.timemap import elasticity, speech_map

TEMPOS = (0.8, 0.9, 1.1, 1.25, 1.3)


def pulse_train(hertz: float, seconds: float = 3.0) -> np.ndarray:
    """Pulses through one resonance."""
    pulses = np.zeros(round(seconds * RATE))
    pulses[:: round(RATE / hertz)] = 1
    pole = 0.98 * np.exp(2j * np.pi * 700 / RATE)
    ringing = lfilter([1], [1, -2 * pole.real, abs(pole) ** 2], pulses)
    return (ringing / np.abs(ringing).max()).astype(np.float32)


@pytest.mark.parametrize("even", [True, False])
@pytest.mark.parametrize("tempo", TEMPOS)
def test_stretching_keeps_the_pitch(tempo: float, even: bool) -> None:
    stretched = stretch_by_tempo(pulse_train(150)[None, :], tempo, even=even)[0]
    peaks = np.flatnonzero(
        (stretched[1:-1] > stretched[:-2]) & (stretched[1:-1] >= stretched[2:]) & (stretched[1:-1] > 0.5)
    )
    periods = np.diff(peaks[5:-5])
    assert abs(RATE / periods.mean() / 150 - 1) < 0.001
    assert abs(np.nanmedian(pitch_track(stretched, RATE)) / 150 - 1) < 0.001


@pytest.mark.parametrize("tempo", TEMPOS)
def test_no_burst_is_lost_or_doubled(tempo: float) -> None:
    random = np.random.default_rng(1)
    times = np.arange(10 * RATE) / RATE
    sound = 0.2 * np.sin(2 * np.pi * (120 * times + 2 * np.sin(2 * np.pi * 1.3 * times)))
    places = ((np.arange(40) * 0.24 + 0.2) * RATE).astype(int) + random.integers(-2000, 2000, 40)
    for place in places:
        sound[place : place + 150] += random.standard_normal(150) * np.exp(-np.arange(150) / 40) * 0.8
    stretched = stretch_by_tempo(sound.astype(np.float32)[None, :], tempo)[0]
    high = sosfilt(butter(4, 4000, "high", fs=RATE, output="sos"), stretched)
    level = np.sqrt(np.convolve(high**2, np.ones(240) / 240, "same"))
    onsets = np.flatnonzero(np.diff((level > 0.06).astype(int)) == 1)
    onsets = onsets[np.insert(np.diff(onsets) > 480, 0, True)]
    assert len(onsets) == 40


@given(st.integers(1, 30_000), st.floats(0.5, 2.0))
@settings(max_examples=40)
def test_stretched_length_is_exact(length: int, tempo: float) -> None:
    wanted = max(1, round(length / tempo))
    assert len(stretch(speechlike(1.0)[:length], wanted)) == wanted


def test_channels_stay_in_phase() -> None:
    sound = speechlike(2.0)
    left, right = stretch_by_tempo(np.stack([sound, 0.5 * sound]), 1.2)
    assert np.allclose(right, 0.5 * left, atol=1e-6)


def test_pauses_give_first() -> None:
    sound = np.concatenate([speechlike(1.0), np.zeros(RATE // 2, np.float32), speechlike(1.0)])
    pause = (RATE, RATE + RATE // 2)
    mapped = speech_map(sound, len(sound) - RATE // 4, pauses=[pause], pauses_cut=RATE // 4)
    start, end = mapped.to_result(np.array(pause, dtype=float))
    assert end - start == pytest.approx(RATE / 4, rel=0.15)
    assert start == pytest.approx(RATE, rel=0.02)
    assert np.all(np.diff(mapped.result) > 0)


def test_bursts_are_stiff_and_vowels_give() -> None:
    sound = speechlike(1.0) * 0 + 0.1 * np.sin(2 * np.pi * 150 * np.arange(RATE) / RATE).astype(np.float32)
    sound[RATE // 2 : RATE // 2 + 200] += np.random.default_rng(0).standard_normal(200).astype(np.float32)
    give = elasticity(sound)
    assert give[48:52].max() < 0.25 * np.median(give)


def tone(level_dbfs: float, seconds: float, hertz: float = 1000.0) -> np.ndarray:
    wave = 10 ** (level_dbfs / 20) * np.sin(2 * np.pi * hertz * np.arange(round(seconds * RATE)) / RATE)
    return np.stack([wave, wave]).astype(np.float32)


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-23, 20)], -23.0),
        ([(-33, 20)], -33.0),
        ([(-36, 10), (-23, 60), (-36, 10)], -23.0),
        ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
        ([(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
    ],
)
def test_loudness_of_the_ebu_signals(parts: list[tuple[float, float]], expected: float) -> None:
    """EBU Tech 3341, cases 1 to 5, within 0.1 LU."""
    sound = np.concatenate([tone(level, seconds) for level, seconds in parts], axis=1)
    assert measure(sound).integrated_lufs == pytest.approx(expected, abs=0.1)


def sounds(*parts: tuple[float | None, float]) -> np.ndarray:
    """Tones one behind the other; None is silence."""
    return np.concatenate([tone(-200 if level is None else level, seconds) for level, seconds in parts], axis=1)


def test_short_term_loudness_of_the_ebu_signals() -> None:
    """EBU Tech 3341, cases 9 and 10: levels that come and go within three seconds, and tones that begin anywhere."""
    steady = sounds(*[(-20, 1.34), (-30, 1.66)] * 5)
    assert measure(steady).short_term_lufs == pytest.approx(-23.0, abs=0.1)
    for turn in range(20):
        shifted = sounds((None, 0.15 * turn + 0.01), (-23, 3.0), (None, 1.0))
        assert measure(shifted).short_term_lufs == pytest.approx(-23.0, abs=0.1)


def test_momentary_loudness_of_the_ebu_signals() -> None:
    """EBU Tech 3341, cases 12 and 13: within four tenths, and bursts of that length that begin at any hundredth."""
    steady = sounds(*[(-20, 0.18), (-30, 0.22)] * 25)
    assert measure(steady).momentary_lufs == pytest.approx(-23.0, abs=0.1)
    for turn in range(20):
        burst = sounds((None, 0.02 * turn + 0.003), (-23, 0.4), (None, 1.0))
        assert measure(burst).momentary_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize("peak_dbfs", [-38.0, -30.0, -22.0])
def test_the_loudest_are_told_at_any_level(peak_dbfs: float) -> None:
    """EBU Tech 3341, cases 11 and 14: tones that grow louder, each heard as loud as it is."""
    rising = sounds(*[(level, 3.0) for level in np.arange(peak_dbfs - 10, peak_dbfs + 0.5, 2.0)])
    result = measure(rising)
    assert result.short_term_lufs == pytest.approx(peak_dbfs, abs=0.1)
    assert result.momentary_lufs == pytest.approx(peak_dbfs, abs=0.1)


def test_of_what_is_too_short_nothing_is_said() -> None:
    short = measure(tone(-23, 0.3))
    assert np.isneginf([short.momentary_lufs, short.short_term_lufs]).all()
    assert np.isneginf(measure(np.zeros((2, 10 * RATE), np.float32)).momentary_lufs)


@pytest.mark.parametrize(
    ("levels", "expected"),
    [((-20, -30), 10), ((-20, -15), 5), ((-40, -20), 20), ((-50, -35, -20, -35, -50), 15)],
)
def test_loudness_range_of_the_ebu_signals(levels: tuple[float, ...], expected: float) -> None:
    """EBU Tech 3342, cases 1 to 4, within 1 LU."""
    sound = np.concatenate([tone(level, 20) for level in levels], axis=1)
    assert measure(sound).range_lu == pytest.approx(expected, abs=1.0)


@pytest.mark.parametrize(
    ("part", "degrees", "level", "expected"),
    [(4, 0.0, 0.5, -6.0), (4, 45.0, 0.5, -6.0), (6, 60.0, 0.5, -6.0), (8, 67.5, 0.5, -6.0), (4, 45.0, 1.41, 3.0)],
)
def test_true_peak_lies_between_samples(part: int, degrees: float, level: float, expected: float) -> None:
    """EBU Tech 3341, cases 15 to 19: sines of a quarter, a sixth and an eighth of the rate, within +0.2 and -0.4 dB."""
    at = np.arange(RATE)
    wave = level * np.sin(2 * np.pi * at / part + np.radians(degrees)) * np.minimum(1, np.minimum(at, at[::-1]) / 4800)
    result = measure(np.stack([wave, wave]).astype(np.float32))
    assert expected - 0.4 <= result.true_peak_dbtp <= expected + 0.2


@pytest.mark.parametrize("offset", [0.0, 0.25, 0.5, 0.75])
def test_true_peak_of_an_impulse_between_samples(offset: float) -> None:
    """EBU Tech 3341, cases 20 to 23: an impulse held to half the band, at quarters of a sample, whose peak is at 0
    dBTP."""
    at = np.arange(-400, 400) - offset
    wave = np.sinc(at / 2) * (0.5 + 0.5 * np.cos(np.pi * at / 401))
    result = measure(np.pad(np.stack([wave, wave]), ((0, 0), (9_600, 9_600))).astype(np.float32))
    assert -0.4 <= result.true_peak_dbtp <= 0.2


def test_loudness_does_not_depend_on_block_sizes() -> None:
    sound = np.stack([speechlike(8.0), speechlike(8.0, seed=1)])
    meter = LoudnessMeter(2)
    random = np.random.default_rng(0)
    place = 0
    while place < sound.shape[1]:
        count = int(random.integers(1, 30_000))
        meter.feed(sound[:, place : place + count])
        place += count
    assert meter.result() == measure(sound)


def test_silence_has_no_loudness() -> None:
    result = measure(np.zeros((2, RATE), dtype=np.float32))
    assert result.integrated_lufs == float("-inf")
    assert result.range_lu == 0.0


@given(st.integers(0, 1000))
@settings(max_examples=15)
def test_the_limiter_holds_its_ceiling_in_step(seed: int) -> None:
    random = np.random.default_rng(seed)
    sound = (random.standard_normal((2, RATE)) * random.uniform(0.05, 0.8)).astype(np.float32)
    sound[:, 20_000:20_010] *= 4
    limiter = TruePeakLimiter(2, -1.0)
    parts, place = [], 0
    while place < RATE:
        count = int(random.integers(1, 9000))
        parts.append(limiter.feed(sound[:, place : place + count]))
        place += count
    limited = np.concatenate([*parts, limiter.finish()], axis=1)
    assert limited.shape == sound.shape
    assert measure(limited).true_peak_dbtp <= -1.0
    gain = np.abs(limited) / np.maximum(np.abs(sound), 1e-9)
    assert gain.max() <= 1.0001


def test_quiet_sound_passes_the_limiter_untouched() -> None:
    sound = np.stack([speechlike(1.0)] * 2) * 0.3
    limiter = TruePeakLimiter(2, -1.0)
    limited = np.concatenate([limiter.feed(sound), limiter.finish()], axis=1)
    assert np.array_equal(limited, sound)


def test_ducking_never_pumps_inside_a_sentence() -> None:
    speech = [(2.0, 3.0), (3.7, 5.0), (9.0, 10.0)]
    curve = ducking_curve(speech, 15.0, Ducking(-18.0))
    inside = curve[round(1.95 * CURVE_RATE) : round(5.0 * CURVE_RATE)]
    assert np.all(inside == -18.0)
    assert curve[round(1.5 * CURVE_RATE)] == 0.0
    assert curve[round(7.5 * CURVE_RATE)] == 0.0
    assert np.abs(np.diff(curve)).max() <= 18.0 / (0.18 * CURVE_RATE) + 1e-9
    gain = curve_gain(curve, 2 * RATE, 100, RATE)
    assert gain == pytest.approx(10 ** (-18 / 20), rel=1e-4)


def test_speech_is_found_under_noise_that_changes() -> None:
    random = np.random.default_rng(3)
    noise = 0.002 * random.standard_normal(20 * RATE) * np.linspace(1, 4, 20 * RATE)
    truth = [(2.0, 4.0), (6.0, 7.5), (11.0, 14.0), (17.0, 18.0)]
    for start, end in truth:
        noise[round(start * RATE) : round(end * RATE)] += speechlike(end - start)
    found = speech_regions(frame_levels_db(noise.astype(np.float32), RATE))
    assert len(found) == len(truth)
    for (a, b), (start, end) in zip(found, truth, strict=True):
        assert abs(a - start) < 0.15
        assert abs(b - end) < 0.15


def test_trimming_a_clip() -> None:
    clip = np.concatenate(
        [
            np.zeros(4800, np.float32),
            speechlike(0.5),
            np.zeros(9600, np.float32),
            speechlike(0.5),
            np.zeros(4800, np.float32),
        ]
    )
    speech = clip_speech(clip, RATE)
    assert -1200 <= speech.start - 4800 <= 240  # a little before: an h is heard before it is loud
    assert abs(speech.end - (len(clip) - 4800)) <= 480
    assert len(speech.pauses) >= 1
    assert clip_speech(np.zeros(1000, np.float32), RATE).end == 1000


def test_pitch_of_what_has_none() -> None:
    noise = np.random.default_rng(0).standard_normal(RATE).astype(np.float32) * 0.1
    assert median_pitch_hz(np.zeros(RATE, np.float32), RATE) is None
    assert np.isfinite(pitch_track(noise, RATE)).mean() < 0.2
    assert median_pitch_hz(speechlike(1.0, pitch=140), RATE) == pytest.approx(140, rel=0.01)


def test_bad_input_is_refused() -> None:
    with pytest.raises(ValueError, match="shape"):
        stretch(np.zeros((2, 10), np.float32), 5)
    with pytest.raises(ValueError, match="not numbers"):
        stretch(np.full(5000, np.nan, np.float32), 4000)
    with pytest.raises(ValueError, match="tempo"):
        stretch_by_tempo(np.zeros((1, 100), np.float32), 9.0)
    with pytest.raises(ValueError, match="channels"):
        LoudnessMeter(3)


def test_speech_is_found_alike_wherever_hours_of_levels_are_cut() -> None:
    """Stretches of levels are looked at one by one; what lies over such a cut is one region."""
    levels = np.full(150_000, -60.0) + np.random.default_rng(5).normal(0, 0.5, 150_000)
    for start, end in ((100, 300), (59_900, 60_100), (119_950, 120_000), (149_000, 149_500)):
        levels[start:end] = -25.0
    found = speech_regions(levels)
    assert [(round(a, 1), round(b, 1)) for a, b in found] == [
        (1.0, 3.0), (599.0, 601.0), (1199.5, 1200.0), (1490.0, 1495.0),
    ]  # fmt: skip
    assert speech_regions(levels.astype(np.float32)) == found


def test_levels_do_not_depend_on_how_many_spectra_are_held() -> None:
    sound = speechlike(7.3)
    whole = frame_levels_db(sound, RATE)
    for first in (0, 511, 512, 513):
        part = frame_levels_db(sound[first * 480 : (first + 40) * 480], RATE)
        assert np.allclose(part[2:38], whole[first + 2 : first + 38], atol=1e-3)


@pytest.mark.parametrize("level_db", [-10.0, -56.0, -75.0])
def test_the_pitch_of_quiet_voices_is_found(level_db: float) -> None:
    voice = speechlike(1.5, pitch=118.0)
    quiet = (voice * 10 ** (level_db / 20) / np.abs(voice).max()).astype(np.float32)
    assert median_pitch_hz(quiet[::3], 16_000) == pytest.approx(118.0, rel=0.01)


@pytest.mark.parametrize("level_db", [0.0, -30.0])
@pytest.mark.parametrize("room_db", [-60.0, -36.0, -26.0])
def test_takes_are_trimmed_in_any_room_at_any_level(level_db: float, room_db: float) -> None:
    random = np.random.default_rng(5)
    voice = speechlike(0.8)
    clip = np.concatenate([np.zeros(RATE // 2), voice, np.zeros(RATE // 2), voice, np.zeros(RATE // 2)])
    clip = clip / np.abs(voice).max() + random.standard_normal(len(clip)) * 10 ** (room_db / 20) / 2
    speech = clip_speech((clip * 10 ** (level_db / 20)).astype(np.float32), RATE)
    assert abs(speech.start - RATE // 2) < 0.03 * RATE
    assert abs(speech.end - (RATE // 2 + 2 * len(voice) + RATE // 2)) < 0.05 * RATE
    longest = max(speech.pauses, key=lambda pause: pause[1] - pause[0])
    assert abs(longest[0] - RATE // 2 - len(voice)) < 0.05 * RATE


def test_a_quiet_voice_is_found_as_a_loud_one_is() -> None:
    sound = np.concatenate([np.zeros(RATE), speechlike(1.5), np.zeros(RATE), speechlike(1.5), np.zeros(RATE)])
    sound = (sound + 1e-4 * np.random.default_rng(2).standard_normal(len(sound))).astype(np.float32)
    loud, soft = (speech_regions(frame_levels_db(gain * sound, RATE)) for gain in (np.float32(1), np.float32(0.004)))
    assert len(loud) == 2
    assert soft == loud


@pytest.mark.parametrize("hertz", [60, 100, 440])
def test_clean_tones_are_not_called_clipped_and_clipped_ones_are(hertz: int) -> None:
    tone = (0.25 * np.sin(2 * np.pi * hertz * np.arange(2 * RATE) / RATE)).astype(np.float32)
    for sound, clipped in (
        (tone, False),
        (np.round(tone * 32768) / 32768, False),
        (np.clip(4 * tone, -0.7, 0.7), True),
    ):
        meter = SoundMeter(RATE)
        meter.feed(sound[None].astype(np.float32))
        assert (meter.facts().clipped > 3) == clipped
