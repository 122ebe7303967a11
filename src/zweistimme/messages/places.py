"""Places in messages, and what fills them.

They are those of ``str.format``. ``{n:line|lines}`` counts: as many words stand there as the language has plural forms,
and the number is written before them. Figures are written with the decimal and group signs of the language.
"""

from __future__ import annotations

import string
from collections.abc import Callable, Mapping
from typing import Any, Final

_signs: dict[int, str] = {}
"""What is written in place of a decimal point and of a comma between groups of three digits."""
_plural: Callable[[int], int] = lambda number: int(number != 1)  # noqa: E731


class Places(string.Formatter):
    """Fills the places of a message."""

    def format_field(self, value: Any, format_spec: str) -> str:
        if "|" in format_spec:
            forms = format_spec.split("|")
            # a length that is not whole is counted by the form of many, as most languages do
            form = _plural(value) if isinstance(value, int) else len(forms) - 1
            return f"{number(value, ',' if isinstance(value, int) else 'g')} {forms[min(form, len(forms) - 1)]}"
        if isinstance(value, int | float) and format_spec:
            return number(value, format_spec)
        return str(super().format_field(value, format_spec))


_PLACES: Final = Places()


def fill(message: str, figures: Mapping[str, object]) -> str:
    """A message with its places filled.

    >>> fill("{n:line|lines} in {file}, {share:.0%} heard", {"n": 1200, "file": "a.srt", "share": 0.5})
    '1,200 lines in a.srt, 50% heard'
    """
    return _PLACES.vformat(message, (), figures)


def number(value: float, spec: str = "") -> str:
    """A figure in a format of Python's, with the signs of the language.

    >>> number(1234.5, ",.2f")
    '1,234.50'
    """
    return format(value, spec).translate(_signs)


def money(amount: float, currency: str, digits: int = 2) -> str:
    """An amount in its currency.

    >>> money(1234.5, "EUR"), money(0.0123, "EUR", 4)
    ('1,234.50 EUR', '0.0123 EUR')
    """
    return f"{number(amount, f',.{digits}f')} {currency}".strip()


def write_numbers_as(language: str, plural: Callable[[int], int]) -> None:
    """Write figures as a language does from now on; *plural* gives which of its forms a number takes."""
    global _signs, _plural
    _plural = plural
    _signs = {}
    if language != "en":
        from babel import Locale  # which English can do without

        symbols = Locale.parse(language).number_symbols["latn"]
        _signs = {ord("."): symbols["decimal"], ord(","): symbols["group"]}
