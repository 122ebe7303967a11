"""A language for tests: every message made longer by 40 %, in letters that stand out, and read from right to left. What
is seen without its marks was never given to be translated; what is cut has no room in other languages."""

from __future__ import annotations

import gettext
import re
from collections.abc import Iterable
from string import Formatter

DIRECTION_OF = "ar"
"""The language whose direction is taken over."""
OPEN, CLOSE = "⟦", "⟧"
_LETTERS = str.maketrans("aeiouAEIOUncy", "àéîõûÀÉÎÕÛñçý")
_KEPT = re.compile(r"(<[^>]*>|&\w|\n|\(\*[^)]*\))")


def pseudo(message: str) -> str:
    """A message in the language.

    >>> pseudo("{n:line|lines} in {file}")
    '⟦{n:lîñé|lîñés} îñ {file}~~~~~~~~~~⟧'
    """
    parts = []
    for literal, name, spec, _conversion in Formatter().parse(message):
        parts.append(_spelled(literal.replace("{", "{{").replace("}", "}}")))
        if name is not None:
            spec = "|".join(map(_spelled, spec.split("|"))) if "|" in (spec or "") else spec
            parts.append(f"{{{name}:{spec}}}" if spec else f"{{{name}}}")
    return f"{OPEN}{''.join(parts)}{'~' * max(1, round(0.4 * len(message)))}{CLOSE}"


def _spelled(text: str) -> str:
    return "".join(part if _KEPT.fullmatch(part) else part.translate(_LETTERS) for part in _KEPT.split(text))


class Pseudo(gettext.NullTranslations):
    """Messages of the language, made of those there are; what is none, such as a name, stays."""

    def __init__(self, messages: Iterable[tuple[str, str | None]]) -> None:
        super().__init__()
        self._known = frozenset(messages)

    def gettext(self, message: str) -> str:
        return pseudo(message) if (message, None) in self._known else message

    def pgettext(self, context: str, message: str) -> str:
        return pseudo(message) if (message, context) in self._known else message
