"""Titles and names of people as parts of file names."""

from __future__ import annotations

import re
import unicodedata
from typing import Final

_LONGEST_NAME_BYTES: Final = 120


def slug(title: str) -> str:
    """A title as the beginning of a file name, in its own script; Latin letters lose their accents.

    >>> slug("The Tide Clock of Varnholm"), slug("潮の時計 第1話"), slug("Gezeitenührchen")
    ('the-tide-clock-of-varnholm', '潮の時計-第1話', 'gezeitenuhrchen')
    """
    bare = re.sub(r"(?<=[a-z])[\u0300-\u036f]+", "", unicodedata.normalize("NFKD", title.lower()))
    kept = (sign if unicodedata.category(sign)[0] in "LMN" else "-" for sign in unicodedata.normalize("NFC", bare))
    name = re.sub("-+", "-", "".join(kept)).strip("-")
    while len(name.encode()) > _LONGEST_NAME_BYTES:  # file systems count bytes, and endings come behind
        name = name[:-1].rstrip("-")
    return name or "programme"
