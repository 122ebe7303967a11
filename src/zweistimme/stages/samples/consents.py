"""Who allowed what to be made of their voice: kept with the desk, shown wherever the voice is, removed with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from zweistimme.project.errors import StoreError
from zweistimme.store.personal_file import PersonalFile


@dataclass(frozen=True, slots=True)
class MadeFrom:
    """What a voice was made from: whose voice it is, how and when they allowed it (*words*, *given_on* as ISO 8601),
    for what, from how many seconds of samples, and in which tones."""

    person: str
    words: str
    given_on: str
    purpose: str
    seconds: float
    tones: tuple[str, ...] = ()


_CONSENTS: Final[PersonalFile[dict[str, MadeFrom]]] = PersonalFile("consents.json", dict[str, MadeFrom], {})


def consents() -> Mapping[str, MadeFrom]:
    """By a voice, as a cast names it, what it was made from; StoreError where that cannot be read."""
    return _CONSENTS.read()


def consent_of(voice: str) -> MadeFrom | None:
    """What a voice was made from, where it was made here and that can be read."""
    try:
        return consents().get(voice)
    except StoreError:
        return None


def keep_consent(voice: str, made_from: MadeFrom) -> None:
    """Keep what a voice was made from."""
    _CONSENTS.write({**consents(), voice: made_from})


def drop_consent(voice: str) -> None:
    """Forget it: the voice is gone."""
    _CONSENTS.write({key: one for key, one in consents().items() if key != voice})
