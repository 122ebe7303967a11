"""What is called what, wherever it is said."""

from __future__ import annotations

from typing import Final

from zweistimme.messages import msg
from zweistimme.project.brief import Address
from zweistimme.project.terms import PartOfSpeech
from zweistimme.project.wordings import LineState

ADDRESSES: Final = {
    Address.UNKNOWN: msg("not said"),
    Address.FORMAL: msg("formal"),
    Address.FAMILIAR: msg("familiar"),
}
"""How somebody is addressed."""
PARTS: Final = {
    PartOfSpeech.UNKNOWN: msg("—"),
    PartOfSpeech.NOUN: msg("noun"),
    PartOfSpeech.NAME: msg("name"),
    PartOfSpeech.VERB: msg("verb"),
    PartOfSpeech.ADJECTIVE: msg("adjective"),
    PartOfSpeech.ADVERB: msg("adverb"),
    PartOfSpeech.OTHER: msg("other"),
}
"""What kind of word a term is."""
STATES: Final = {
    LineState.INITIAL: msg("initial"),
    LineState.TRANSLATED: msg("translated"),
    LineState.REVIEWED: msg("reviewed"),
    LineState.FINAL: msg("final"),
}
"""How far a line is."""
