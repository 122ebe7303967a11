"""Asking an engine what only some can answer, and looking at what comes back."""

from __future__ import annotations

from typing import TypeVar

from zweistimme.engines.extra_roles import (
    Asked,
    Bed,
    Call,
    Description,
    Draft,
    DraftRequest,
    MadeVoice,
    RemovedVoice,
    ToneRequest,
    Tones,
    call_of,
)
from zweistimme.engines.offers import EngineInfo, Role
from zweistimme.engines.protocol import Engine
from zweistimme.project.errors import BadAnswer, EngineError

A = TypeVar("A", MadeVoice, RemovedVoice, Description, Draft, Bed, Tones)


def asked_extra(engine: Engine, request: Asked, kind: type[A]) -> A:
    """What *engine* answers, looked at: EngineError if it does nothing of the kind, BadAnswer if the answer does not
    fit the question."""
    check_role(engine.info(), call_of(request).role, engine.name)
    answer = engine.ask(request)
    if not isinstance(answer, kind):
        raise BadAnswer("{name} answered something else than it was asked.", name=engine.name)
    if isinstance(request, ToneRequest) and isinstance(answer, Tones):
        wanted, got = [item.id for item in request.items], [item.id for item in answer.items]
        if sorted(wanted) != sorted(got):
            raise BadAnswer("{name} did not answer each text once.", name=engine.name)
    if isinstance(request, DraftRequest) and isinstance(answer, Draft):
        stranger = next((turn.person for turn in answer.turns if turn.person not in request.people), None)
        if stranger is not None:
            raise BadAnswer(
                "{name} lets {stranger} speak, whom nobody had asked for.", name=engine.name, stranger=stranger
            )
    return answer


def check_single_call(call: Call, name: str) -> None:
    """EngineError for a question that an engine described by a map or a command has no place for."""
    if call.also:
        raise EngineError("{name} has no way to remove a voice that it made. Remove it where it is kept.", name=name)


def check_role(info: EngineInfo, role: Role, name: str) -> None:
    """EngineError if an engine has nothing to offer in this role."""
    if role not in info.roles:
        raise EngineError(
            "{name} cannot {role}; it can {roles}. Choose another engine for this.",
            name=name,
            role=role.value,
            roles=", ".join(info.roles) or "do nothing",
        )
