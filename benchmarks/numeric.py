"""The numeric core: plan, stretch, loudness, limiter, decoding."""

from __future__ import annotations

import numpy as np
import soxr

from benchmarks.timing import Rows, seconds
from zweistimme.demo.script import MEDIA, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.probe import opened
from zweistimme.project.model import Preference, Style
from zweistimme.project.times import RATE
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.loudness import measure
from zweistimme.sound.stretch import stretch_by_tempo
from zweistimme.stages.fit.chains import solve
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.plan import PlanInput


def lines(count: int, seed: int = 0) -> PlanInput:
    """Random lines: takes 1.12 +- 22 % as long as their segments, some cross-talk, some pauses."""
    random = np.random.default_rng(seed)
    length = random.gamma(4, 0.7, count) + 0.5
    gap = np.where(random.random(count) < 0.05, -random.random(count) * 0.5, random.exponential(0.6, count))
    gap[random.random(count) < 0.08] += 3
    start = np.maximum.accumulate(1 + np.cumsum(np.append(0.0, (length + gap)[:-1])))
    speech = length * np.clip(random.normal(1.12, 0.22, count), 0.5, 2)
    free = np.full(count, np.nan)
    spare = speech * random.random(count) * 0.12
    seen = random.random(count) < 0.6
    speakers = random.integers(0, 4, count)
    return PlanInput(start, start + length, speech, spare, seen, speakers, free, free.copy(), float(start[-1] + 10))


def plan() -> Rows:
    """The linear programme; against what the same lines last."""
    limits = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)
    for count in (100, 1000, 10_000):
        given = lines(count)
        taken = seconds(lambda given=given: solve(given, limits), 3 if count < 10_000 else 1)
        yield f"{count:,} lines", f"{taken * 1000:.0f} ms", f"a programme of {given.programme_end / 60:.0f} min"
    result = solve(lines(10_000), limits)
    given = lines(10_000)
    comfort = ((result.tempo < 1.1501) & (result.tempo > 0.9199)).mean()
    yield (
        "10,000 lines: tempo in comfort",
        f"{comfort:.0%}",
        f"{_comfort_of_slots(given):.0%} with every take made as long as its slot",
    )


def _comfort_of_slots(given: PlanInput) -> float:
    tempo = given.speech / (given.end - given.start)
    return float(((tempo < 1.15) & (tempo > 0.92)).mean())


def _noise(length: float) -> np.ndarray:
    random = np.random.default_rng(0)
    tone = np.sin(2 * np.pi * 140 * np.arange(round(length * RATE)) / RATE) * 0.2
    return (tone + 0.05 * random.standard_normal(len(tone))).astype(np.float32)


def stretching() -> Rows:
    """Our stretch; against resampling, which changes the pitch."""
    sound = _noise(10)[None, :]
    plain = seconds(lambda: soxr.resample(sound[0], RATE, RATE * 1.25, "HQ"))
    for tempo in (0.8, 1.25):
        taken = seconds(lambda tempo=tempo: stretch_by_tempo(sound, tempo))
        yield f"tempo {tempo}", f"{10 / taken:.0f} x real time", f"soxr resampling {10 / plain:.0f} x"


def loudness() -> Rows:
    """Measuring and limiting, stereo; against one pass of a second-order filter."""
    from scipy.signal import butter, sosfilt

    sound = np.stack([_noise(60), _noise(60)])
    bare = seconds(lambda: sosfilt(butter(2, 100, "high", fs=RATE, output="sos"), sound, axis=1))
    yield (
        "loudness and true peak",
        f"{60 / seconds(lambda: measure(sound)):.0f} x real time",
        f"one filter pass {60 / bare:.0f} x",
    )
    taken = seconds(lambda: TruePeakLimiter(2, -1.0).feed(sound * 3))
    yield "limiter", f"{60 / taken:.0f} x real time", f"one filter pass {60 / bare:.0f} x"


def decoding() -> Rows:
    """Our decoder, in step and converted; against the bare decoder."""

    def bare() -> None:
        with opened(data_file(MEDIA)) as container:
            for _frame in container.decode(container.streams.audio[0]):
                pass

    def ours() -> None:
        for _block in decoded_blocks(data_file(MEDIA), DecodeNotes()):
            pass

    yield "AAC stereo", f"{85 / seconds(ours):.0f} x real time", f"bare decoder {85 / seconds(bare):.0f} x"
