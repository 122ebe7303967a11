"""What a service means by the way in which it refuses: wait, act, or leave it."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from functools import partial
from typing import Final

from zweistimme.engines.secrets import variable_for
from zweistimme.engines.wire import PROBLEM_TYPE, Problem, read
from zweistimme.messages import msg, tr
from zweistimme.project.errors import BadAnswer, EngineBusy, EngineError, EngineFault, EngineRefused

_MOST_DIGITS: Final = 9
_MEANINGS: Final = {"token": 401, "quota": 402, "wait": 429, "again": 500, "line": 400}
Says = Callable[[bytes], Problem | None]


def own_meaning(status: int, means: Mapping[str, str]) -> int:
    """The status that says what a service means by one of its own."""
    return _MEANINGS.get(means.get(str(status), ""), status)


def refusal(
    name: str, address: str, status: int, headers: Mapping[str, str], body: bytes, says: Says | None = None
) -> EngineError:
    """What a service that refuses with *body* means, as an error that says whether asking again helps. *says* finds
    the reason in the body, where it is not given as problem details."""
    problem = (says(body) if says else None) or _problem(body)
    after_s = retry_after_s(headers.get("Retry-After", ""))
    said = f": {problem.detail or problem.title}" if problem else tr(" (status {status})", status=status)
    said = said.rstrip(".") + "."
    sentences: dict[int, Callable[[], EngineError]] = {
        401: partial(
            EngineRefused,
            msg("{name} does not accept the token{said} {where_token}"),
            name=name,
            said=said,
            where_token=_where_token(address),
        ),
        402: partial(EngineRefused, msg("The quota of {name} is used up{said}"), name=name, said=said),
        403: partial(EngineRefused, msg("The token for {name} has no rights for this{said}"), name=name, said=said),
        413: partial(EngineError, msg("{name} says the request is too large{said}"), name=name, said=said),
        429: partial(EngineBusy, msg("{name} asks to wait{said}"), after_s, name=name, said=said),
        503: partial(EngineBusy, msg("{name} is not ready{said}"), after_s, name=name, said=said),
    }
    if problem and problem.type == f"{PROBLEM_TYPE}quota":
        return sentences[402]()
    if status in sentences:
        return sentences[status]()
    if status >= 500:
        return EngineFault("{name} failed{said}", name=name, said=said)
    if 300 <= status < 400:
        return EngineRefused("{name} sends the desk on to another address. Give that address instead.", name=name)
    return EngineError("{name} refused{said}", name=name, said=said)


def _where_token(address: str) -> str:
    return tr("It is looked for in the secret store, then in {variable}.", variable=variable_for(address))


def _problem(body: bytes) -> Problem | None:
    try:
        return read(Problem, body, "")
    except BadAnswer:
        return None


def retry_after_s(value: str) -> float | None:
    """``Retry-After`` (RFC 9110): seconds, or a date; None for what is neither.

    >>> retry_after_s("7"), retry_after_s("²"), retry_after_s("9" * 400)
    (7.0, None, None)
    """
    from email.utils import parsedate_to_datetime

    value = value.strip()
    if value.isascii() and value.isdigit():
        return float(value) if len(value) <= _MOST_DIGITS else None
    try:
        return max(0.0, parsedate_to_datetime(value).timestamp() - time.time())
    except (ValueError, OverflowError, OSError):  # no date, or one no clock here can hold
        return None
