"""What each fitted take sounds like by itself, measured once: its level, whether it is voiced, its tone, how its level
moves."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Final, TypeVar

import numpy as np

from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono
from zweistimme.sound.cores import cores, together
from zweistimme.sound.long_spectrum import BandPowers, frame_powers, mean_powers, spoken
from zweistimme.sound.loudness import EnergyMeter, gated_energy
from zweistimme.sound.pitch import pitch_track
from zweistimme.sound.voice_dynamics import Dynamics, dynamics_of
from zweistimme.stages.fit.render import fitted_clips, fitted_key
from zweistimme.stages.mix.kept import keep_figures, kept_figures
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.work import Work

_VOICED_SHARE: Final = 0.08
_VOICED_HOP_S: Final = 0.04
_PITCH_RATE: Final = 16_000
_LOW_PERCENTILE: Final = 10
_AT_ONCE: Final = 16
"""Takes that are worked on in one go."""
Item = TypeVar("Item")
Found = TypeVar("Found")


@dataclass(frozen=True, slots=True)
class TakeSound:
    """What a take sounds like: its K-weighted *energy* as one channel, the lowest tenth of its pitch (0 where next to
    nothing in it is voiced, as in a whisper), the powers of its third octaves, and how its level moves."""

    energy: float
    low_pitch_hz: float
    tone: tuple[float, ...]
    frames: int
    dynamics: Dynamics | None

    @property
    def voiced(self) -> bool:
        """Whether it is more than whispered."""
        return self.low_pitch_hz > 0

    def bands(self) -> BandPowers:
        """Its tone as an array."""
        return BandPowers(np.array(self.tone), self.frames)


def speech_energy(samples: Mono) -> float:
    """The K-weighted energy of speech in a clip, as one channel."""
    meter = EnergyMeter(1)
    meter.feed(samples[None, :])
    return gated_energy(meter.energies())


def take_sound(samples: Mono) -> TakeSound:
    """What a clip sounds like."""
    import soxr

    low = soxr.resample(samples, RATE, _PITCH_RATE, "QQ").astype(np.float32)
    track = pitch_track(low, _PITCH_RATE, hop_seconds=_VOICED_HOP_S)
    pitch = track[np.isfinite(track)]
    voiced = len(track) > 0 and len(pitch) >= _VOICED_SHARE * len(track)
    powers = frame_powers(samples)
    bands = mean_powers(powers[spoken(powers)])
    low_pitch = round(float(np.percentile(pitch, _LOW_PERCENTILE)), 1) if voiced else 0.0
    return TakeSound(
        speech_energy(samples), low_pitch, tuple(bands.powers.tolist()), bands.frames, dynamics_of(samples)
    )


def known_sounds(cache: Path, tag: str) -> dict[str, TakeSound]:
    """What was measured of a version's takes, by the key of what is fitted."""
    return kept_figures(_file(cache, tag), dict[str, TakeSound]) or {}


def measured_sounds(work: Work, tag: str, takes: Sequence[PlacedTake]) -> dict[str, TakeSound]:
    """What every placed take sounds like, by the key of what is fitted; kept, since most takes are what they were."""
    known = known_sounds(work.cache, tag)
    keys = [fitted_key(item.take, item.placement) for item in takes]
    missing = list({key: item for key, item in zip(keys, takes, strict=True) if key not in known}.values())

    def measure(group: Sequence[PlacedTake]) -> list[TakeSound]:
        return [
            take_sound(sound) for sound in fitted_clips([(x.take, x.placement) for x in group], work.clips, work.cache)
        ]

    made = in_groups(missing, measure, work.report)
    found = {key: known[key] for key in keys if key in known}
    found |= {fitted_key(item.take, item.placement): sound for item, sound in zip(missing, made, strict=True)}
    if found != known:
        keep_figures(_file(work.cache, tag), found)
    return found


def in_groups(
    items: Sequence[Item], work_on: Callable[[Sequence[Item]], list[Found]], report: Callable[[float], None]
) -> list[Found]:
    """What is made of *items*, some at a time on each core, in their order."""
    groups = [items[first : first + _AT_ONCE] for first in range(0, len(items), _AT_ONCE)]
    found: list[Found] = []
    for first in range(0, len(groups), cores()):
        report(first / len(groups))
        for made in together([partial(work_on, group) for group in groups[first : first + cores()]]):
            found += made
    return found


def _file(cache: Path, tag: str) -> Path:
    return cache / f"take-sounds-{tag}.msgpack"
