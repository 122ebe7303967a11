"""The calls that came with version 2 of the protocol, each one question and one answer in JSON."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi import FastAPI
from fastapi.responses import Response

from zweistimme.engines.extra_roles import CALLS, Call, DescriptionRequest, DraftRequest, ToneRequest
from zweistimme.engines.protocol import Engine
from zweistimme.server.account import Account, Key, once


def add_extra_calls(app: FastAPI, engine: Engine, account: Account) -> None:
    """Offer every one of them."""
    for call in CALLS:
        _add(app, engine, account, call)


def _add(app: FastAPI, engine: Engine, account: Account, call: Call) -> None:
    def asked(request: Any, key: Key = None) -> Response:
        def answer() -> object:
            account.within(_characters(request))
            return replace(engine.ask(request), cost=account.charged(_characters(request)))

        return once(account, key, answer)

    asked.__annotations__ = {"request": call.request, "key": Key, "return": Response}
    asked.__doc__ = call.request.__doc__
    app.post(call.path, response_model=call.answer, operation_id=call.name)(asked)


def _characters(request: object) -> int:
    """What of a request is counted: the text in it."""
    match request:
        case ToneRequest():
            return sum(len(item.text) for item in request.items)
        case DraftRequest():
            return len(request.subject) + len(request.material)
        case DescriptionRequest():
            return len(request.instruction) + len(request.before)
    return 0
