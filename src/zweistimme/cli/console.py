"""Where the command line writes to: the one door through which texts from outside reach a terminal, as plain text.

A title or a name may hold what a terminal would obey, or what the console library would read as mark-up. Nothing of
ours is marked up, so nothing is read as that; control characters are shown by their pictures and do nothing.
"""

from __future__ import annotations

import re
from typing import Any, Final

from rich.console import Console
from rich.text import Text

_CONTROLS: Final = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")
"""All that a terminal may obey, but line breaks and tabs (ECMA-48); and what would turn other text around (UAX 9)."""


def plain(text: str) -> str:
    r"""A text with nothing in it that a terminal would obey.

    >>> plain("\x1b]0;title\x07"), plain("Ebbe\tund\nFlut")
    ('␛]0;title␇', 'Ebbe\tund\nFlut')
    """
    return _CONTROLS.sub(_picture, text)


def _picture(sign: re.Match[str]) -> str:
    number = ord(sign.group())
    return chr(0x2400 + number) if number < 0x20 else "␡" if number == 0x7F else "\N{REPLACEMENT CHARACTER}"


class PlainConsole(Console):
    """A console that shows text as it is."""

    def render_str(self, text: str, **as_usual: Any) -> Text:
        """The text to be shown, without mark-up and control characters."""
        return super().render_str(plain(text), **{**as_usual, "markup": False, "emoji": False})


out = PlainConsole(highlight=False, soft_wrap=True, markup=False, emoji=False)
err = PlainConsole(stderr=True, highlight=False, soft_wrap=True, markup=False, emoji=False)
