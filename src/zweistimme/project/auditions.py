"""Auditions: lines of a person spoken in voices that are not cast, and what was thought of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

BEST = 5
"""The highest score; 1 is the lowest, 0 where nobody gave one."""


@dataclass(frozen=True, slots=True)
class Audition:
    """One line spoken in one voice to hear whether it suits. Positions are samples of the clip at 48 kHz;
    ``[speech_start, speech_end)`` is what remains once outer silence is trimmed; *text* is what was said, *made_from*
    the fingerprint a take of it would have. *won* and *lost* count comparisons with others."""

    id: str
    segment_id: str
    voice: str
    text: str
    clip: str
    length_samples: int
    speech_start_samples: int
    speech_end_samples: int
    made_from: str
    score: int = 0
    won: int = 0
    lost: int = 0
    note: str = ""


@dataclass(frozen=True, slots=True)
class Standing:
    """How a voice stands after its auditions: how many, how many comparisons it won of how many, and the mean of the
    scores it was given (None: none was)."""

    voice: str
    auditions: int
    won: int
    compared: int
    score: float | None

    @property
    def rank(self) -> float:
        """What standings are ordered by: the share of comparisons won, as one knows it after so few (Laplace's rule of
        succession), and as much again for the scores."""
        score = 0.5 if self.score is None else (self.score - 1) / (BEST - 1)
        return (self.won + 1) / (self.compared + 2) + score


def standings(auditions: Iterable[Audition]) -> list[Standing]:
    """How each voice stands, the best first.

    >>> one = Audition("a", "s1", "x:ina", "", "", 1, 0, 1, "", won=2)
    >>> [(s.voice, s.won, s.compared) for s in standings([one])]
    [('x:ina', 2, 2)]
    """
    by_voice: dict[str, list[Audition]] = {}
    for one in auditions:
        by_voice.setdefault(one.voice, []).append(one)
    found = []
    for voice, theirs in by_voice.items():
        scores = [one.score for one in theirs if one.score]
        won, lost = sum(one.won for one in theirs), sum(one.lost for one in theirs)
        found.append(Standing(voice, len(theirs), won, won + lost, sum(scores) / len(scores) if scores else None))
    return sorted(found, key=lambda one: -one.rank)


def auditions_of(
    auditions: Mapping[str, Audition], segment_ids: Iterable[str], voices: Iterable[str] | None = None
) -> list[Audition]:
    """Auditions of these segments, and of these voices if any are named, in the order in which they were made."""
    wanted, only = set(segment_ids), None if voices is None else set(voices)
    return [one for one in auditions.values() if one.segment_id in wanted and (only is None or one.voice in only)]
