"""What everybody who translates a programme has to know of it: what it is about, who it is for, who says du to whom."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class Address(StrEnum):
    """How somebody is addressed, where a language has two ways."""

    UNKNOWN = ""
    FORMAL = "formal"
    FAMILIAR = "familiar"


@dataclass(frozen=True, slots=True)
class Brief:
    """*address* is how one person addresses another, by ``speaker>listener``."""

    subject: str = ""
    audience: str = ""
    notes: str = ""
    address: Mapping[str, Address] = field(default_factory=dict)


def pair_of(speaker_id: str, listener_id: str) -> str:
    """By what it is kept how one person addresses another."""
    return f"{speaker_id}>{listener_id}"
