"""What is known of a file of text beyond what stands in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import partial

from zweistimme.formats.names import name_and_words


@dataclass(frozen=True, slots=True)
class Context:
    """*encoding* overrules what is found out; *tag* is the language the text should be in, which tells encodings apart;
    *rate* is frames a second, for times with frames; *people* are the only names that count before a colon, None for
    any that look like one."""

    encoding: str = ""
    tag: str = ""
    rate: Fraction | None = None
    people: frozenset[str] | None = None

    @property
    def split_name(self) -> Callable[[str], tuple[str, str]]:
        """What tells a name before a colon from words before one."""
        return partial(name_and_words, people=self.people)


NOTHING_KNOWN = Context()
