"""Samples of a voice, and what is poor about them: length, noise, music, clipping, the room."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.project.findings import Finding
from zweistimme.project.times import RATE
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono
from zweistimme.sound.decay import decay_s
from zweistimme.sound.quality import SoundMeter

PLAIN: Final = ""
"""The tone of what is said as usual."""
ENOUGH_S: Final = 10.0
GOOD_S: Final = 30.0
"""With less than the first a voice is a guess; more than the second adds little."""
_LEAST_SNR_DB: Final = 20.0
_MOST_DECAY_S: Final = 0.5
"""A living room, furnished; a voice that was made in it brings it along."""
_LONGEST_S: Final = 30.0
_EDGE_S: Final = 0.05
_NO_NOISE_DB: Final = 60.0


@dataclass(frozen=True, eq=False)
class Sample:
    """A clip of somebody's speech at 48 kHz, shape ``(n,)``. *source* is the segment it is from, or the name of a file;
    *tone* how it is said (empty: as usual); *snr_db* how far speech stands over what is under it, *clipped* how many
    places are cut off at the top."""

    source: str
    samples: Mono
    text: str
    tone: str
    snr_db: float
    clipped: int

    @property
    def seconds(self) -> float:
        """How long it is."""
        return len(self.samples) / RATE

    @property
    def poor(self) -> bool:
        """Whether it would spoil a voice."""
        return self.snr_db < _LEAST_SNR_DB or self.clipped > 0


@dataclass(frozen=True, slots=True)
class Poor:
    """What is poor about the samples of one tone."""

    tone: str
    why: Finding


def of_clip(source: str, samples: Mono, text: str = "", tone: str = PLAIN) -> Sample:
    """A sample of a clip, trimmed to its speech, and looked at."""
    meter = SoundMeter(RATE)
    meter.feed(samples[None, :])
    facts = meter.facts()
    speech = clip_speech(samples, RATE)
    start, end = max(0, speech.start - round(_EDGE_S * RATE)), speech.end + round(_EDGE_S * RATE)
    snr_db = facts.snr_db if facts.noise_db > -190 and facts.speech_db > -190 else _NO_NOISE_DB
    return Sample(source, samples[start:end], text, tone, min(snr_db, _NO_NOISE_DB), facts.clipped)


def of_file(path: Path, folder: Path) -> list[Sample]:
    """Samples of what is said in a sound or video file, half a minute long at most, cut in pauses. *folder* is for a
    working copy. MediaError for what is no sound."""
    from zweistimme.media.probe import probe
    from zweistimme.media.sound_reader import SoundReader
    from zweistimme.media.working_copy import working_copy
    from zweistimme.project.programme import SoundPick

    copy = folder / "sample.wav"
    working_copy(probe(path), SoundPick(), copy, lambda _share: None)
    with SoundReader(copy) as reader:
        whole = reader.mono(0, min(reader.length, 20 * round(_LONGEST_S) * RATE))
    copy.unlink()
    return [of_clip(path.name, whole[a:b]) for a, b in _pieces(whole)]


def _pieces(whole: Mono) -> list[tuple[int, int]]:
    """Where a long sound is cut: in its pauses, before a piece gets longer than half a minute."""
    pauses = [(a + b) // 2 for a, b in clip_speech(whole, RATE, least_pause=0.3).pauses]
    found, start, longest = [], 0, round(_LONGEST_S * RATE)
    while len(whole) - start > longest:
        cut = max((at for at in pauses if start < at <= start + longest), default=start + longest)
        found.append((start, cut))
        start = cut
    return [*found, (start, len(whole))]


def poor_sets(samples: Iterable[Sample]) -> list[Poor]:
    """What is missing or poor in the samples of each tone, what counts most first."""
    by_tone: dict[str, list[Sample]] = {}
    for one in samples:
        by_tone.setdefault(PLAIN, [])  # how somebody usually speaks is wanted in any case
        by_tone.setdefault(one.tone, []).append(one)
    return [Poor(tone, why) for tone, some in by_tone.items() for why in _poor(some)]


def _poor(samples: Sequence[Sample]) -> list[Finding]:
    seconds = sum(one.seconds for one in samples)
    found = []
    if seconds < ENOUGH_S:
        found.append(Finding("samples-short", {"seconds": round(seconds, 1), "enough": ENOUGH_S, "good": GOOD_S}))
    noisy = [one for one in samples if one.snr_db < _LEAST_SNR_DB]
    if noisy:
        worst = min(one.snr_db for one in noisy)
        found.append(Finding("samples-noisy", {"samples": len(noisy), "snr_db": round(worst)}))
    clipped = sum(one.clipped > 0 for one in samples)
    if clipped:
        found.append(Finding("samples-clipped", {"samples": clipped}))
    rings = decay_s(np.concatenate([one.samples for one in samples]), RATE) if samples else float("nan")
    if rings > _MOST_DECAY_S:
        found.append(Finding("samples-in-a-room", {"decay_s": round(rings, 1)}))
    return found
