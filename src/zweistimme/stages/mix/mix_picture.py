"""How a mix looks over the whole programme: how loud each lane is, tenth of a second by tenth, kept beside its gains.

Everything that is drawn of a mix, and what is out of its band, comes from these few numbers; no sound is read for it.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.atomic import written_bytes
from zweistimme.project.model import Project
from zweistimme.project.sound_delivery import Channels, SoundPreset
from zweistimme.sound.arrays import Floats, decibels
from zweistimme.sound.k_weighting import HOP_SAMPLES
from zweistimme.sound.loudness import EnergyMeter, Loudness, integrated_lufs, lufs, range_lu, running_means
from zweistimme.stages.mix.gain import mix_fingerprint
from zweistimme.stages.mix.measure import FINE_SAMPLES, LayoutMeasure, MixMeasure
from zweistimme.stages.mix.opening import MixBlock

HOP_US: Final = 100_000
Curve = npt.NDArray[np.float32]
_LANES: Final = ("dub", "room", "under", "mix", "peaks")
_MOMENT, _SHORT_TERM = 4, 30
"""Tenths of a second that are heard as a moment, and as a short term (EBU Tech 3341)."""


@dataclass(frozen=True, slots=True, eq=False)
class MixPicture:
    """Energies of each lane and of the mix in stereo, before any gain, as they are heard from both sides, and the
    largest magnitude, of every tenth of a second; shape ``(n,)`` each. *gains_db* are those of the presets, by
    name."""

    dub: Curve
    room: Curve
    under: Curve
    mix: Curve
    peaks: Curve
    gains_db: Mapping[str, float]
    fits: bool = True
    """Whether it is of the mix as it is now."""

    def short_term_lufs(self, preset: str) -> Floats:
        """The loudness of the three seconds around each tenth, in a preset; -inf where nothing is heard."""
        return _running_lufs(self.mix, _SHORT_TERM) + self.gains_db.get(preset, 0.0)

    def lane_lufs(self, lane: Curve, preset: str) -> Floats:
        """How loud a lane is in the 0.4 seconds around each tenth."""
        return _running_lufs(lane, _MOMENT) + self.gains_db.get(preset, 0.0)

    def loudness(self, name: str, preset: SoundPreset) -> Loudness:
        """What the whole mix measures in a preset, but for what limiting takes."""
        gain_db, energies = self.gains_db.get(name, 0.0), self.mix.astype(np.float64)
        peak_db = float(decibels(float(self.peaks.max(initial=0.0)))) + gain_db
        loudest = [float(running.max(initial=-np.inf)) for running in (
            _running_lufs(self.mix, _MOMENT), _running_lufs(self.mix, _SHORT_TERM),
        )]  # fmt: skip
        return Loudness(
            integrated_lufs(energies) + gain_db,
            range_lu(energies),
            min(peak_db, preset.true_peak_dbtp),
            len(energies) * HOP_SAMPLES,
            loudest[0] + gain_db,
            loudest[1] + gain_db,
        )


def out_of_band(
    short_term_lufs: Floats, dub_lufs: Floats, wanted_lufs: float, within_lu: tuple[float, float]
) -> list[tuple[int, int]]:
    """Stretches ``[first, last)`` of tenths of a second that are louder than a target by more than the second of
    *within_lu*, or softer by more than the first while somebody speaks."""
    apart = short_term_lufs - wanted_lufs
    spoken = dub_lufs[: len(apart)] > -70.0
    out = (apart > within_lu[1]) | ((apart < -within_lu[0]) & np.pad(spoken, (0, len(apart) - len(spoken))))
    edges = np.flatnonzero(np.diff(np.concatenate(([False], out, [False]))))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def _running_lufs(energies: Curve, steps: int) -> Floats:
    """Loudness of the steps around each; as many as there are."""
    if not len(energies):
        return np.empty(0)
    means = running_means(np.pad(energies.astype(np.float64), (steps // 2, steps - steps // 2 - 1)), steps)
    return np.where(means > 1e-10, lufs(means), -np.inf)


class PictureMeter:
    """Hears what a mix's measuring leaves together: the room, and what lies under the dub."""

    def __init__(self) -> None:
        self._room, self._under = EnergyMeter(2), EnergyMeter(2)

    def feed(self, block: MixBlock) -> None:
        """The next stretch."""
        self._under.feed(block.under)
        self._room.feed(block.room)

    def result(self, measure: MixMeasure, gains_db: Mapping[str, float]) -> MixPicture:
        """The picture of all that was heard."""
        layout = measure.layouts[Channels.STEREO]
        room, under = (meter.energies().astype(np.float32) for meter in (self._room, self._under))
        mix, peaks = _by_hops(layout)
        return MixPicture((2 * measure.dub).astype(np.float32), room, under, mix, peaks, dict(gains_db))


def _by_hops(layout: LayoutMeasure) -> tuple[Curve, Curve]:
    steps = HOP_SAMPLES // FINE_SAMPLES
    whole = len(layout.energies) // steps * steps
    energies, peaks = (one[:whole].reshape(-1, steps) for one in (layout.energies, layout.peaks))
    return energies.mean(axis=1), peaks.max(axis=1, initial=0.0)


def keep_picture(cache: Path, project: Project, tag: str, picture: MixPicture) -> None:
    """Keep the picture of a version's mix as it is now."""
    names = np.array(list(picture.gains_db))
    room = io.BytesIO()
    arrays = {name: getattr(picture, name) for name in _LANES}
    np.savez(
        room,
        made_from=np.array(mix_fingerprint(project, tag)),
        names=names,
        gains_db=np.array(list(picture.gains_db.values())),
        **arrays,
    )
    written_bytes(_file(cache, tag), room.getvalue())


def known_picture(cache: Path, project: Project, tag: str) -> MixPicture | None:
    """The picture that was made last of a version's mix; it says whether it is of the mix as it is now."""
    try:
        with np.load(_file(cache, tag), allow_pickle=False) as kept:
            dub, room, under, mix, peaks = (np.asarray(kept[name], dtype=np.float32) for name in _LANES)
            gains = dict(zip(kept["names"].tolist(), kept["gains_db"].tolist(), strict=True))
            fits = str(kept["made_from"]) == mix_fingerprint(project, tag)
    except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
        return None
    return MixPicture(dub, room, under, mix, peaks, gains, fits)


def _file(cache: Path, tag: str) -> Path:
    return cache / f"mix-picture-{tag}.npz"
