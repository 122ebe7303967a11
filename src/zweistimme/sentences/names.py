"""What is called what, wherever it is said."""

from __future__ import annotations

from typing import Final

from zweistimme.messages import msg
from zweistimme.project.brief import Address
from zweistimme.project.wordings import LineState

ADDRESSES: Final = {
    Address.UNKNOWN: msg("not said"),
    Address.FORMAL: msg("formal"),
    Address.FAMILIAR: msg("familiar"),
}
"""How somebody is addressed."""
STATES: Final = {
    LineState.INITIAL: msg("initial"),
    LineState.TRANSLATED: msg("translated"),
    LineState.REVIEWED: msg("reviewed"),
    LineState.FINAL: msg("final"),
}
"""How far a line is."""
