"""Terms and names of a programme, and what they are in other languages. Edits are in ``term_edits.py``, how they are
found in a text in ``term_finding.py``."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from zweistimme.project.languages import language_of, spoken_tag


class PartOfSpeech(StrEnum):
    """What kind of word a term is, with the values of TBX-Basic; a name is a proper noun."""

    UNKNOWN = ""
    NOUN = "noun"
    NAME = "properNoun"
    VERB = "verb"
    ADJECTIVE = "adjective"
    ADVERB = "adverb"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Rendering:
    """What a term is in a language: the words to use, what may *also* be said, words not to use for it, and in IPA how
    it is said."""

    text: str = ""
    also: tuple[str, ...] = ()
    forbidden: tuple[str, ...] = ()
    pronunciation: str = ""


NO_RENDERING = Rendering()


@dataclass(frozen=True, slots=True)
class Term:
    """A term or a name as it is in the original, by language tag what it is elsewhere, and a note for people. A *kept*
    one stays as it is in every language that has nothing else for it; *pronunciation* is in IPA."""

    source: str
    renderings: Mapping[str, Rendering] = field(default_factory=dict)
    note: str = ""
    part: PartOfSpeech = PartOfSpeech.UNKNOWN
    kept: bool = False
    pronunciation: str = ""

    @property
    def is_name(self) -> bool:
        """A name of somebody or something rather than a word."""
        return self.part is PartOfSpeech.NAME


def key_in(term: Term, tag: str) -> str | None:
    """Under which tag a term has what it is in a version: for its very language and region, for the language, or for
    another region of it."""
    wanted, language, there = spoken_tag(tag), language_of(tag), term.renderings
    key = next((one for one in (wanted, language) if one in there), None)
    return key or next((one for one in sorted(there) if language_of(one) == language), None)


def rendering_in(term: Term, tag: str) -> Rendering:
    """What a term is in a version; itself where it is kept and nothing else is said.

    >>> light = Term("light", {"de": Rendering("Feuer"), "es-ES": Rendering("faro")})
    >>> [rendering_in(light, tag).text for tag in ("de-AT-x-kids", "es-MX", "fr-FR")]
    ['Feuer', 'faro', '']
    """
    key = key_in(term, tag)
    known = term.renderings[key] if key else NO_RENDERING
    if known.text or not term.kept:
        return known
    return Rendering(term.source, known.also, known.forbidden, known.pronunciation or term.pronunciation)
