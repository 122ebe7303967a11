"""Messages are looked up by their English text, as with GNU gettext; ``tools/messages.py`` gathers them from the code.

Which language is used is the first that is there of what was chosen (``use``), else of what the environment asks for.
"""

from __future__ import annotations

import gettext
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Final

from zweistimme.messages.places import fill, write_numbers_as

DOMAIN: Final = "zweistimme"
LOCALES: Final = Path(__file__).parent / "locales"
ENGLISH: Final = "en"
NAMES: Final[Mapping[str, str]] = {ENGLISH: "English", "de": "Deutsch"}
"""The languages there are, each by its own name."""
ACT: Final = "act"
_translations: gettext.NullTranslations | None = None
_language = ENGLISH


def msg(message: str) -> str:
    """A message that is written down here and shown elsewhere, by ``tr``."""
    return message


def tr(message: str, /, **figures: object) -> str:
    """A message in the language of whoever reads it, with its places filled."""
    said = _now().gettext(message) if message else ""
    return fill(said, figures) if figures else said


def msg_act(label: str) -> str:
    """The name of something that is done, as it is kept in histories and logs: shown by ``tr_act``."""
    return label


def tr_act(label: str) -> str:
    """What was or can be done, as histories, logs and the job board keep it: an act, and behind it perhaps what it was
    done to, which is shown as it is (“Fit de-DE”). Acts have a context of their own, since what is a verb here
    (“Voice”) may be a thing elsewhere."""
    words = label.split(" ")
    for count in range(len(words), 0, -1):
        act = " ".join(words[:count])
        said = _now().pgettext(ACT, act) if act else act
        if said != act:
            return " ".join([said, *words[count:]])
    return label


def language() -> str:
    """The tag of the language that is used."""
    _now()
    return _language


def use(tag: str = "", translations: gettext.NullTranslations | None = None) -> None:
    """Use a language from now on; none is what the environment asks for, or English. *translations* are used in place
    of those that lie with the program."""
    global _translations, _language
    _language = _first_of([tag] if tag else list(_asked_for()))
    if translations is None:
        translations = gettext.translation(DOMAIN, LOCALES, [_language], fallback=True)
        if type(translations) is gettext.NullTranslations:  # set-up has not compiled it: all in English then
            _language = ENGLISH
    _translations = translations
    write_numbers_as(_language, getattr(translations, "plural", _english_plural))


def listed(items: Iterable[str]) -> str:
    """Items as a list in a sentence.

    >>> listed(["Mira", "Tobin", "Juna"])
    'Mira, Tobin and Juna'
    """
    *most, last = list(items) or [""]
    return tr("{most} and {last}", most=", ".join(most), last=last) if most else last


def _now() -> gettext.NullTranslations:
    if _translations is None:
        use()
    assert _translations is not None
    return _translations


def _asked_for() -> Iterable[str]:
    """Languages from the environment, in the order GNU gettext looks at it."""
    for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        value = os.environ.get(name, "")
        if value:
            return value.split(":")
    return ()


def _first_of(tags: Iterable[str]) -> str:
    for tag in tags:
        base = tag.partition(".")[0].partition("@")[0].replace("_", "-").partition("-")[0].lower()
        if base in NAMES:
            return base
        if base in ("c", "posix"):
            break
    return ENGLISH


def _english_plural(number: int) -> int:
    return int(number != 1)
