"""The languages one can dub into, with the regions where they are spoken, as the Unicode CLDR lists them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import langcodes

from zweistimme.messages import language
from zweistimme.project.languages import language_of, own_name

_COMMON: Final = (
    "en-GB", "en-US", "de-DE", "es-ES", "es-MX", "fr-FR", "it-IT", "pt-BR", "pt-PT", "nl-NL", "pl-PL", "ja-JP",
    "zh-Hans-CN", "zh-Hant-TW", "ko-KR", "tr-TR", "ru-RU", "uk-UA", "ar-EG", "hi-IN", "sv-SE", "da-DK", "cs-CZ",
)  # fmt: skip
"""What is dubbed into most; they come first."""


@dataclass(frozen=True, slots=True)
class ListedLanguage:
    """A language of a region: its name in the language of the desk, and its own."""

    tag: str
    name: str
    own: str


@lru_cache(maxsize=4)
def _listed(desk: str) -> tuple[ListedLanguage, ...]:
    from babel import Locale
    from babel.localedata import locale_identifiers

    locale = Locale.parse(desk)
    found = {}
    for identifier in locale_identifiers():
        parts = identifier.split("_")
        if len(parts) > 1 and len(parts[-1]) == 2 and parts[:2] != ["zh", "Latn"]:
            tag = langcodes.standardize_tag("-".join(parts))
            words = [locale.territories.get(parts[-1], parts[-1])]
            words += [locale.scripts.get(parts[1], parts[1])] if len(parts) == 3 else []
            name = f"{locale.languages.get(parts[0], parts[0])} ({', '.join(words)})"
            found[tag] = ListedLanguage(tag, name[:1].upper() + name[1:], own_name(language_of(tag), region=False))
    order = {tag: place for place, tag in enumerate(_COMMON)}
    return tuple(sorted(found.values(), key=lambda one: (order.get(one.tag, len(order)), one.name.casefold())))


def listed_languages() -> tuple[ListedLanguage, ...]:
    """All of them: those that are dubbed into most first, then by name."""
    return _listed(language())


def found_languages(words: str) -> list[ListedLanguage]:
    """The languages that have every one of *words* in their names or their tag.

    >>> [one.tag for one in found_languages("german aust")]
    ['de-AT']
    """
    wanted = words.casefold().split()
    return [
        one
        for one in listed_languages()
        if all(word in f"{one.name} {one.own} {one.tag}".casefold() for word in wanted)
    ]
