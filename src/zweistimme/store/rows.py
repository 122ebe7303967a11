"""The rows of a project, one by one: a kind, a key, and a small frozen object that is kept as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, Final, get_type_hints

import msgspec

from zweistimme.project.auditions import Audition
from zweistimme.project.brief import Brief
from zweistimme.project.errors import EditError, StoreError
from zweistimme.project.fit_limits import Limits
from zweistimme.project.mix_settings import MixSettings
from zweistimme.project.model import (
    CaptionLimits,
    Delivery,
    Failure,
    Line,
    Manner,
    Placement,
    Preference,
    Segment,
    Speaker,
    Style,
    Take,
)
from zweistimme.project.programme import Programme
from zweistimme.project.sayings import Saying
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.project.terms import Term
from zweistimme.store.bounds import problem_of
from zweistimme.store.repairs import repaired

RowKey = tuple[str, str]


@dataclass(frozen=True, slots=True)
class ProjectHead:
    """The parts of a project that are not collections."""

    title: str
    source_tag: str
    programme: Programme | None = None
    mix: MixSettings = field(default_factory=MixSettings)
    engines: dict[str, str] = field(default_factory=dict)
    substitutes: bool = True
    segments_made: int = 0
    caption_limits: dict[str, CaptionLimits] = field(default_factory=dict)
    follow: bool = False
    brief: Brief = field(default_factory=Brief)
    refused: tuple[str, ...] = ()
    presets: dict[str, SoundPreset] = field(default_factory=dict)
    people_made: int = 0


@dataclass(frozen=True, slots=True)
class VersionHead:
    """The parts of a version that are not collections of their own."""

    tag: str
    style: Style
    preference: Preference
    cast: dict[str, str]
    engines: dict[str, str] = field(default_factory=dict)
    manners: dict[str, Manner] = field(default_factory=dict)
    together: bool = False
    left_out: bool = False
    let_be: dict[str, str] = field(default_factory=dict)
    basis: str = ""
    cast_chosen: tuple[str, ...] = ()
    mix: MixSettings | None = None
    presets: tuple[str, ...] = ()
    limits: Limits | None = None


@dataclass(frozen=True, slots=True)
class Row:
    """One changed row; None stands for a row that is not there."""

    kind: str
    key: str
    before: Any
    after: Any


TYPES: Final[dict[str, type]] = {
    "project": ProjectHead,
    "speaker": Speaker,
    "term": Term,
    "saying": Saying,
    "segment": Segment,
    "version": VersionHead,
    "line": Line,
    "take": Take,
    "placement": Placement,
    "failure": Failure,
    "audition": Audition,
    "delivery": Delivery,
}
_DECODERS: Final[dict[str, msgspec.json.Decoder[Any]]] = {
    kind: msgspec.json.Decoder(type_) for kind, type_ in TYPES.items()
}
_DECODERS_OF_MANY: Final[dict[str, msgspec.json.Decoder[list[Any]]]] = {
    kind: msgspec.json.Decoder(list[type_])  # type: ignore[valid-type]
    for kind, type_ in TYPES.items()
}
_ENCODER: Final = msgspec.json.Encoder()


def encode(value: object) -> bytes | None:
    """A row's object as JSON; None stays None."""
    return None if value is None else _ENCODER.encode(value)


def written(row: Row) -> bytes | None:
    """What is stored of a changed row, read again as opening would: a row that could not be read is never written. An
    EditError says what is wrong with it."""
    try:
        body = encode(row.after)
        decode(row.kind, row.key, body)
    except (StoreError, ValueError, OverflowError) as error:  # text that is no UTF-8, numbers beyond 64 bits
        why = error.finding.figures.get("problem", "") if isinstance(error, StoreError) else ""
        raise EditError(
            "This cannot be kept: {kind} {key} could not be read again ({why}). Nothing was changed.",
            kind=row.kind,
            key=row.key,
            why=why or str(error),
        ) from error
    return body


def decoded_as_far_as_can_be(kind: str, key: str, body: bytes) -> tuple[Any, str]:
    """The object of a row that breaks a rule, with what breaks it left out or put right; None where nothing can be made
    of it. And what was wrong with it."""
    try:
        return decode(kind, key, body), ""
    except StoreError as error:
        figures = error.finding.figures
        why = str(figures.get("problem") or figures.get("why", ""))
    value = repaired(TYPES[kind], _fields_of(TYPES[kind], body))
    return (None if value is None or problem_of(TYPES[kind])(value) else value), why


def _fields_of(type_: type, body: bytes) -> dict[str, Any]:
    """The fields of a row that can be read as what they are to be."""
    try:
        there = msgspec.json.decode(body)
    except ValueError:
        return {}
    hints, found = get_type_hints(type_), dict[str, Any]()
    for name, value in there.items() if isinstance(there, dict) else ():
        with suppress(ValueError, KeyError):
            found[name] = msgspec.convert(value, hints[name])
    return found


def decode(kind: str, key: str, body: bytes | None) -> Any:
    """The object of a row, checked against its type; a damaged row is named with its place."""
    _known(kind)
    if body is None:
        return None
    try:
        value = _DECODERS[kind].decode(body)
    except ValueError as error:  # what msgspec raises, and bytes that are no UTF-8
        raise StoreError(
            "The project is damaged: {kind} {key}: {why}. Restore it from a copy.", kind=kind, key=key, why=error
        ) from error
    _look_at(kind, {key: value})
    return value


def decode_many(kind: str, bodies: Mapping[str, bytes]) -> dict[str, Any]:
    """The objects of many rows of a kind, by their keys: read in one go, which takes a third of the time."""
    _known(kind)
    try:
        values = _DECODERS_OF_MANY[kind].decode(b"[" + b",".join(bodies.values()) + b"]")
    except (ValueError, TypeError):
        values = []
    if len(values) != len(bodies):  # one of them is damaged: which?
        return {key: decode(kind, key, body) for key, body in bodies.items()}
    rows = dict(zip(bodies, values, strict=True))
    _look_at(kind, rows)
    return rows


def _known(kind: str) -> None:
    if kind not in TYPES:
        raise StoreError(
            "The project is damaged: it has a row of the kind “{kind}”. Restore it from a copy.", kind=kind
        )


def _look_at(kind: str, rows: Mapping[str, Any]) -> None:
    """Whether what rows of a kind hold can be."""
    look = problem_of(TYPES[kind])
    for key, value in rows.items():
        if problem := look(value):
            raise StoreError(
                "The project is damaged: {kind} {key}: {problem}. Restore it from a copy.",
                kind=kind,
                key=key,
                problem=problem,
            )
