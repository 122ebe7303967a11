"""Whether a translation answers what was asked."""

from __future__ import annotations

from zweistimme.engines.protocol import Translation, TranslationRequest
from zweistimme.project.errors import BadAnswer


def checked_translation(request: TranslationRequest, answer: Translation, who: str) -> Translation:
    """The answer, unless ids are unknown or repeated, or all are missing. One that leaves some out is kept as it is."""
    wanted, got = [item.id for item in request.items], [item.id for item in answer.items]
    if len(set(got)) != len(got):
        twice = next(key for key in got if got.count(key) > 1)
        raise BadAnswer("{name} answered twice for the text {twice}.", name=who, twice=twice)
    asked = set(wanted)
    unasked = next((key for key in got if key not in asked), None)
    if unasked is not None:
        raise BadAnswer(
            "{name} answered for the text {unasked}, which nobody had asked for.", name=who, unasked=unasked
        )
    if wanted and not got:
        raise BadAnswer("{name} left out all {count} texts it was asked for.", name=who, count=len(wanted))
    return answer
