"""What a service means by the way in which it refuses: wait, act, or leave it."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from zweistimme.engines.secrets import variable_for
from zweistimme.engines.wire import PROBLEM_TYPE, Problem, read
from zweistimme.project.errors import BadAnswer, EngineBusy, EngineError, EngineFault, EngineRefused

if TYPE_CHECKING:
    import httpx


def refusal(name: str, response: httpx.Response, body: bytes) -> EngineError:
    """What a service that refuses with *body* means, as an error that says whether asking again helps."""
    status = response.status_code
    problem = _problem(body)
    said = f": {problem.detail or problem.title}" if problem else f" (status {status})"
    said = said.rstrip(".") + "."
    sentences: dict[int, Callable[[], EngineError]] = {
        401: partial(
            EngineRefused,
            "{name} does not accept the token{said} {where_token}",
            name=name,
            said=said,
            where_token=_where_token(name),
        ),
        402: partial(EngineRefused, "The quota of {name} is used up{said}", name=name, said=said),
        403: partial(EngineRefused, "The token for {name} has no rights for this{said}", name=name, said=said),
        413: partial(EngineError, "{name} says the request is too large{said}", name=name, said=said),
        429: partial(EngineBusy, "{name} asks to wait{said}", _retry_after_s(response), name=name, said=said),
        503: partial(EngineBusy, "{name} is not ready{said}", _retry_after_s(response), name=name, said=said),
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


def _where_token(name: str) -> str:
    return f"It is looked for in the secret store, then in {variable_for(name)}."


def _problem(body: bytes) -> Problem | None:
    try:
        return read(Problem, body, "")
    except BadAnswer:
        return None


def _retry_after_s(response: httpx.Response) -> float | None:
    """``Retry-After`` (RFC 9110): seconds, or a date."""
    from email.utils import parsedate_to_datetime

    value = response.headers.get("Retry-After", "")
    if value.isdigit():
        return float(value)
    try:
        return max(0.0, parsedate_to_datetime(value).timestamp() - time.time())
    except ValueError:
        return None
