"""Which line a clip is, told by what is heard in it: all clips and lines are weighed against each other at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from rapidfuzz.distance import Levenshtein

from zweistimme.engines.offers import Role
from zweistimme.engines.protocol import RecognitionQuestion
from zweistimme.engines.registry import engine
from zweistimme.memory.likeness import normal
from zweistimme.project.access import find_version
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import language_name, language_of, spoken_tag
from zweistimme.project.writing import joined, spoken_text
from zweistimme.sound.arrays import Mono
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.recognitions import piece_of, recognised
from zweistimme.stages.work import Work

_ALIKE: Final = 0.5
"""Half of the letters at least must be those of the line."""
_APART: Final = 0.1
"""And so much more of them than of any other line that says something else."""


@dataclass(frozen=True, slots=True)
class PlacedClip:
    """A clip, what is heard in it, and the number of its line (None: it is like none, or like several)."""

    name: str
    text: str
    number: int | None


def lines_of_clips(work: Work, tag: str, clips: Sequence[tuple[str, Mono]]) -> list[PlacedClip]:
    """Which line of a version each clip, a name and its samples at 48 kHz, is. EngineError where the engine that
    recognises does not know the language."""
    name = engine_for(work.project, Role.RECOGNISE, tag)
    asked = engine(name)
    if language_of(tag) not in {language_of(one) for one in asked.info().recognises}:
        raise EngineError(
            "{name} does not recognise {language}, so clips cannot be told by what is heard in them. Name them by the "
            "number of their line.",
            name=name, language=language_name(tag),
        )  # fmt: skip
    pieces = [piece_of(samples) for _, samples in clips]
    heard = recognised(work, asked, pieces, RecognitionQuestion((spoken_tag(tag),)))
    texts = [joined([word.text for segment in one.segments for word in segment.words]) for one in heard]
    lines = find_version(work.project, tag).lines
    wordings = [spoken_text(lines[one.id].text) if one.id in lines else "" for one in spoken_segments(work.project)]
    places = placed_texts(texts, wordings)
    return [
        PlacedClip(clip_name, text, None if place is None else place + 1)
        for (clip_name, _), text, place in zip(clips, texts, places, strict=True)
    ]


def placed_texts(texts: Sequence[str], wordings: Sequence[str]) -> list[int | None]:
    """For each text the place of the wording it is most like, each given once; None where nothing is alike enough, or
    another wording is as well.

    >>> placed_texts(["the boats come", "good night", ""], ["Good night.", "The boats come in.", "Yes."])
    [1, 0, None]
    """
    from rapidfuzz.process import cdist
    from scipy.optimize import linear_sum_assignment

    if not texts or not wordings:
        return [None] * len(texts)
    said, written = [normal(one) for one in texts], [normal(one) for one in wordings]
    alike = cdist(said, written, scorer=Levenshtein.normalized_similarity, workers=-1)
    alike *= np.array([bool(one) for one in said])[:, None] & np.array([bool(one) for one in written])[None, :]
    rows, columns = linear_sum_assignment(-alike)
    found: list[int | None] = [None] * len(texts)
    kinds = np.unique(written, return_inverse=True)[1]  # lines that say the same are no rivals
    for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
        rival = float(np.max(alike[row], where=kinds != kinds[column], initial=0.0))
        if alike[row, column] >= _ALIKE and alike[row, column] - rival >= _APART:
            found[row] = column
    return found
