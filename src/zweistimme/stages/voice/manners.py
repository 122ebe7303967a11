"""How a voice is to speak, as far as it can."""

from __future__ import annotations

from dataclasses import fields, replace

from zweistimme.engines.offers import VoiceInfo
from zweistimme.project.errors import EngineError
from zweistimme.project.model import AS_USUAL, Manner


def on_top(speaker: Manner, line: Manner) -> Manner:
    """How a line is spoken: its own manner on top of its speaker's; its own quality and seed, if it names any.

    >>> on_top(Manner(1.1, tier="fine"), Manner(1.1, volume_db=-3.0))
    Manner(rate=1.2100000000000002, pitch=1.0, volume_db=-3.0, tier='fine', seed=0)
    """
    return Manner(
        speaker.rate * line.rate,
        speaker.pitch * line.pitch,
        speaker.volume_db + line.volume_db,
        line.tier or speaker.tier,
        line.seed or speaker.seed,
    )


def manner_for(voice: VoiceInfo, wanted: Manner) -> tuple[Manner, tuple[str, ...]]:
    """The nearest a voice can come, and the controls by which it falls short. EngineError for a tier it has not."""
    if wanted.tier and voice.tier(wanted.tier) is None:
        raise EngineError(
            "{voice} is not to be had as “{tier}”; there is {there}. Choose another in the cast.",
            voice=voice.name,
            tier=wanted.tier,
            there=", ".join(tier.name for tier in voice.tiers) or "one quality alone",
        )
    reached, short = wanted, []
    for one in fields(Manner):
        value, usual = getattr(wanted, one.name), getattr(AS_USUAL, one.name)
        if one.name == "tier" or value == usual:
            continue
        if one.name == "seed":
            short += [] if voice.varies else ["seed"]
            continue
        control = voice.control(one.name)
        near = min(max(value, control.least), control.most) if control else usual
        if near != value:
            short.append(one.name)
            reached = replace(reached, **{one.name: near})
    return reached, tuple(short)
