"""Naming a voice together with its engine: ``alva`` is the bundled one, ``quay/alva`` that of the connection *quay*."""

from __future__ import annotations

from zweistimme.engines.connections import BUNDLED


def voice_ref(engine: str, voice: str) -> str:
    """How a cast names a voice.

    >>> voice_ref("bundled", "alva"), voice_ref("quay", "alva")
    ('alva', 'quay/alva')
    """
    return voice if engine == BUNDLED else f"{engine}/{voice}"


def split_voice(ref: str) -> tuple[str, str]:
    """The engine and the voice that a cast names.

    >>> split_voice("quay/alva"), split_voice("alva")
    (('quay', 'alva'), ('bundled', 'alva'))
    """
    engine, slash, voice = ref.partition("/")
    return (engine, voice) if slash else (BUNDLED, ref)
