"""Captions: lines laid out to reading-speed rules, timed to the dub or to the original."""

from zweistimme.stages.caption.rules import CaptionRules, CaptionStatistics, rules_for, statistics, too_fast
from zweistimme.stages.caption.timed import dub_captions, source_captions

__all__ = [
    "CaptionRules",
    "CaptionStatistics",
    "dub_captions",
    "rules_for",
    "source_captions",
    "statistics",
    "too_fast",
]
