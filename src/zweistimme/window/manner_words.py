"""How a voice is to speak, in a few words."""

from __future__ import annotations

from zweistimme.messages import tr
from zweistimme.project.model import Manner


def in_few_words(manner: Manner) -> str:
    """A manner as it stands on a button.

    >>> in_few_words(Manner(1.1, volume_db=-3.0)), in_few_words(Manner())
    ('pace ×1.1, -3 dB', 'as usual')
    """
    parts = [tr("pace ×{rate:g}", rate=manner.rate)] if manner.rate != 1 else []
    parts += [tr("pitch ×{pitch:g}", pitch=manner.pitch)] if manner.pitch != 1 else []
    parts += [tr("{volume_db:+g} dB", volume_db=manner.volume_db)] if manner.volume_db else []
    parts += [manner.tier] if manner.tier else []
    parts += [tr("way {seed}", seed=manner.seed)] if manner.seed else []
    return ", ".join(parts) or tr("as usual")
