"""The clip of a line as it is mixed: fitted, then treated; made once and kept in the cache."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.media.atomic import kept_array, written_array
from zweistimme.project.facts import fingerprint
from zweistimme.project.mix_settings import Place
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.long_spectrum import band_curve_db, filter_bins_hz, filtered, minimum_phase
from zweistimme.sound.voice_dynamics import compressed, de_essed
from zweistimme.stages.fit.render import fitted_clips, fitted_key
from zweistimme.stages.mix.clip_envelope import enveloped
from zweistimme.stages.mix.placed import PlacedTake
from zweistimme.stages.mix.treatments import UNTREATED, VoiceTreatment
from zweistimme.store.clips import ClipStore

FOLDER: Final = "treated"
_MADE_LIKE: Final = 1
_PLACES_DB: Final = {
    Place.FAR: ((80, -3.0), (200, 0.0), (2_500, 0.0), (8_000, -5.0), (16_000, -9.0)),
    Place.TELEPHONE: ((200, -50.0), (300, -3.0), (500, 0.0), (1_500, 2.0), (2_500, 3.0), (3_400, -3.0), (4_200, -50.0)),
    Place.LOUDSPEAKER: (
        (150, -30.0),
        (280, -3.0),
        (600, 0.0),
        (1_400, 5.0),
        (3_000, 3.0),
        (5_000, -6.0),
        (7_500, -30.0),
    ),
}
"""What a place does to a voice: gains in dB at frequencies, straight between them over their logarithm. The telephone's
band is that of ITU-T G.712."""


def treated_key(item: PlacedTake, treatment: VoiceTreatment) -> str:
    """What a treated clip is known by."""
    return fingerprint("treated", _MADE_LIKE, fitted_key(item.take, item.placement), treatment)


def treated_file(cache: Path, item: PlacedTake, treatment: VoiceTreatment) -> Path:
    """Where a treated clip lies."""
    return cache / FOLDER / f"{treated_key(item, treatment)}.npy"


def treated_clips(
    items: Sequence[PlacedTake], treatments: Sequence[VoiceTreatment], clips: ClipStore, cache: Path
) -> list[Mono]:
    """The sounds of placed takes as they are mixed, shape ``(n,)`` each at 48 kHz, as long as they are placed."""
    kept = [_kept(cache, *pair) for pair in zip(items, treatments, strict=True)]
    missing = [number for number, sound in enumerate(kept) if sound is None]
    made = fitted_clips([(items[k].take, items[k].placement) for k in missing], clips, cache)
    for number, sound in zip(missing, made, strict=True):
        kept[number] = sound
        if treatments[number] != UNTREATED:
            kept[number] = treated = _treated(sound, treatments[number])
            written_array(treated_file(cache, items[number], treatments[number]), treated)
    return [sound for sound in kept if sound is not None]


def prune_treated(cache: Path, used: Collection[Path]) -> None:
    """Remove treated clips that no version has any more."""
    for file in (cache / FOLDER).glob("*.npy"):
        if file not in used:
            file.unlink(missing_ok=True)


def _kept(cache: Path, item: PlacedTake, treatment: VoiceTreatment) -> Mono | None:
    if treatment == UNTREATED:
        return None
    kept = kept_array(treated_file(cache, item, treatment), np.float32)
    return kept if kept is not None and kept.shape == (item.length,) else None


def _treated(sound: Mono, treatment: VoiceTreatment) -> Mono:
    """A fitted clip as it is mixed."""
    made = _high_passed(sound, treatment.high_pass_hz)
    taps = _taps(treatment.tone_db, treatment.place)
    made = made if taps is None else filtered(made, taps)
    made = made if treatment.sibilance_db is None else de_essed(made, treatment.sibilance_db)
    made = compressed(made, treatment.slope)
    return enveloped(made, treatment.fade_in_us, treatment.fade_out_us, treatment.phrases)


def _high_passed(sound: Mono, hertz: float) -> Mono:
    from scipy.signal import butter, sosfilt

    if not hertz:
        return sound
    return np.asarray(
        sosfilt(butter(4, hertz, "high", fs=RATE, output="sos").astype(np.float32), sound), dtype=np.float32
    )


@lru_cache(maxsize=256)
def _taps(tone_db: tuple[float, ...], place: Place) -> Mono | None:
    """One filter for tone and place; None where neither does anything."""
    if not tone_db and place not in _PLACES_DB:
        return None
    hertz = filter_bins_hz()
    gains: Floats = np.zeros(len(hertz))
    if tone_db:
        gains += band_curve_db(np.array(tone_db), hertz)
    if place in _PLACES_DB:
        at, levels = np.array(_PLACES_DB[place]).T
        gains += np.interp(np.log2(np.maximum(hertz, 1.0)), np.log2(at), levels)
    return minimum_phase(gains)
