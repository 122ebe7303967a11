"""A voice that says what is written, for comparing: a script with a programme, a take with its wording."""

from __future__ import annotations

from typing import Final

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import Role, VoiceInfo
from zweistimme.engines.protocol import Engine
from zweistimme.engines.registry import engine
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project
from zweistimme.stages.engine_choice import engine_for

_BETWEEN_HZ: Final = 150.0
"""Between the usual pitch of men and that of women."""


def voice_of_language(project: Project, tag: str) -> tuple[Engine, VoiceInfo] | None:
    """A voice of a language, neither high nor low: the bundled ones cost nothing."""
    language = language_of(tag)
    for name in dict.fromkeys((BUNDLED, engine_for(project, Role.SPEAK))):
        asked = engine(name)
        there = [v for v in asked.info().voices if language in {language_of(one) for one in v.languages}]
        if there:
            return asked, min(there, key=lambda v: abs((v.pitch_hz or 1000.0) - _BETWEEN_HZ))
    return None
