"""What is wrong with a take, in words."""

from __future__ import annotations

from typing import Final

from zweistimme.messages import msg, tr

STATES: Final = (msg("clear"), msg("mumbled"), msg("missing"), msg("doubled"), msg("added"))
"""How a word may be in a take."""
_KINDS: Final = {
    "silent": msg("silent"), "clipped": msg("clipped"), "click": msg("a click"), "noise": msg("noise"),
    "hum": msg("hum"), "cut-start": msg("beginning cut"), "cut-end": msg("end cut"), "breath": msg("breath before it"),
}  # fmt: skip
_REMEDIES: Final = {
    "trim": msg("trim"), "fade": msg("fade"), "level": msg("set its level"), "again": msg("again"),
}  # fmt: skip


def fault_sentence(kind: str, amount: float, remedy: str) -> str:
    """What is wrong with a take's sound, and what helps; *amount* in dB or semitones.

    >>> fault_sentence("level", -6.2, "level"), fault_sentence("hum", 0.0, "again")
    ('-6 dB beside its others (set its level)', 'hum (again)')
    """
    said = {
        "level": tr("{amount:+.0f} dB beside its others", amount=amount),
        "pitch": tr("{amount:+.1f} semitones beside its others", amount=amount),
        "pace": tr("quicker than its others") if amount > 0 else tr("slower than its others"),
    }.get(kind) or tr(_KINDS[kind])
    return f"{said} ({tr(_REMEDIES[remedy])})"
