"""How words are said in a language, where a voice would say them otherwise: a project's own dictionary. By IPA, or by
another spelling that sounds so. Names and terms may say it too (``terms.py``); what stands here comes first. Edits are
in ``saying_edits.py``."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from zweistimme.project.languages import language_of, spoken_tag

LIKE: Final = "="
"""Before what a word is spelled like, where IPA would stand; no IPA begins with it."""


@dataclass(frozen=True, slots=True)
class Saying:
    """A word as it is written, in a language (``de``, or ``de-AT`` for that region alone), and how it is said: in IPA,
    or *like* something spelled otherwise."""

    word: str
    language: str
    ipa: str = ""
    like: str = ""

    @property
    def how(self) -> str:
        """How it is said, as one text: IPA, or another spelling behind a sign."""
        return self.ipa or LIKE + self.like


def saying_key(word: str, language: str) -> str:
    """What a saying is kept by."""
    return f"{language} {word}"


def sayings_in(sayings: Mapping[str, Saying], tag: str) -> list[Saying]:
    """Those that hold in a version: of its very region first, then of its language."""
    spoken, language = spoken_tag(tag), language_of(tag)
    here = [one for one in sayings.values() if one.language == spoken]
    return here + [one for one in sayings.values() if one.language == language != spoken]
