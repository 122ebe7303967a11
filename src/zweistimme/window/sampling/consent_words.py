"""Whose voice a made one is, in a sentence: said wherever the voice is shown."""

from __future__ import annotations

from zweistimme.messages import tr
from zweistimme.stages.samples import MadeFrom


def consent_words(one: MadeFrom) -> str:
    """Whose voice it is, and what for.

    >>> consent_words(MadeFrom("Ada Brook", "Yes.", "2026-11-20", "this film", 24.0))
    'made from 24 s of Ada Brook, who allowed it on 2026-11-20 for: this film'
    """
    words = tr(
        "made from {seconds:.0f} s of {person}, who allowed it on {day}", seconds=one.seconds, person=one.person,
        day=one.given_on,
    )  # fmt: skip
    return words + (" " + tr("for: {purpose}", purpose=one.purpose) if one.purpose else "")
