"""What is said where a command was given wrongly: the package that reads the command line says it in English, so it is
known again by its pattern and said as our own message."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any, Final

from zweistimme.messages import msg, tr

_SAID: Final = (
    (r"Missing argument (?P<name>.+)\.", msg("{name} is missing.")),
    (r"Missing option (?P<name>.+)\.", msg("{name} is missing.")),
    (r"Missing command\.", msg("Say which command; --help lists them.")),
    (r"Invalid value for (?P<name>'.+'): (?P<why>.+)", msg("{name}: {why}")),
    (r"No such option: (?P<name>\S+)", msg("There is no option {name}.")),
    (r"No such option: (?P<name>\S+) \(Possible options: (?P<near>.+)\)", msg("There is no option {name}; {near}?")),
    (r"No such command (?P<name>'.+')\.", msg("There is no command {name}.")),
    (r"Got unexpected extra argument\(s\) \((?P<words>.+)\)", msg("Nobody knows what to do with: {words}.")),
    (r"Option (?P<name>'.+') requires an argument\.?", msg("{name} wants a value.")),
    (r"Option (?P<name>'.+') does not take a value\.?", msg("{name} takes no value.")),
    (r"(?:Value error, )?(?P<value>'.*') is not one of (?P<there>.+)\.", msg("{value} is none of {there}.")),
    (r"Input should be a valid integer\b.*", msg("This is no whole number.")),
    (r"Input should be a valid number\b.*", msg("This is no number.")),
    (r"Input should be greater than or equal to (?P<least>\S+)", msg("This is less than {least}.")),
    (r"Input should be less than or equal to (?P<most>\S+)", msg("This is more than {most}.")),
    (r"Input should be (?P<there>'.+')", msg("It can be {there}.")),
)
"""What the package says, as a pattern, and our message for it."""
HELP: Final = (
    msg("Show this message and exit."),
    msg("Install completion for the current shell."),
    msg("Show completion for the current shell, to copy it or customize the installation."),
)
"""Help of the package's own options, which is looked up as it is."""


def in_our_words(said: str) -> str:
    """What the package says of a mistake, as we do; what is not known is said as it is.

    >>> in_our_words("Invalid value for '--port': Input should be less than or equal to 65535")
    "'--port': This is more than 65535."
    """
    for pattern, message in _patterns():
        found = pattern.fullmatch(said.strip())
        if found:
            return tr(message, **{name: in_our_words(value) for name, value in found.groupdict().items()})
    return said


@lru_cache(maxsize=1)
def _patterns() -> list[tuple[re.Pattern[str], str]]:
    return [(re.compile(pattern, re.DOTALL), message) for pattern, message in _SAID]


def usage_words(error: Any) -> str:
    """A mistake in a command, after how it is given, and where help is."""
    words = in_our_words(error.format_message())
    context = getattr(error, "ctx", None)
    if context is None:
        return words
    more = tr("{command} --help tells more.", command=context.command_path)
    return f"{context.get_usage()}\n\nzweistimme: {words} {more}"
