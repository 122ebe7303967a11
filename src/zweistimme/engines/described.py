"""What the descriptions of programs and of services of other shapes have in common: a TOML file with a part a role."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Set
from dataclasses import dataclass, field, fields, replace
from hashlib import sha256
from pathlib import Path
from typing import Any, Protocol, TypeVar

import msgspec

from zweistimme.engines.connections import Connection
from zweistimme.engines.offers import FREE, UNLIMITED, EngineInfo, Limits, Price, Role, VoiceInfo
from zweistimme.engines.wire import parsed
from zweistimme.project.errors import EngineError, EngineRefused, FormatError

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class DescribedVoice(VoiceInfo):
    """A voice, and what stands for it where it is asked for: ``values.model = "harbour.bin"`` fills ``{model}``."""

    values: Mapping[str, str] = field(default_factory=dict)

    @property
    def plain(self) -> VoiceInfo:
        """The voice as it is offered."""
        return VoiceInfo(**{one.name: getattr(self, one.name) for one in fields(VoiceInfo)})


class Described(Protocol):
    """A description, with a part for each role called after it, or None."""

    @property
    def name(self) -> str: ...
    @property
    def version(self) -> str: ...
    @property
    def limits(self) -> Limits: ...
    @property
    def price(self) -> Price: ...


def checksum_of(file: Path) -> str:
    """The SHA-256 of a description, by which it is known whether it is still what a person agreed to."""
    try:
        return sha256(file.read_bytes()).hexdigest()
    except OSError as error:
        raise FormatError("{file} cannot be read: {why}.", file=file, why=error) from None


def check_agreed(connection: Connection) -> None:
    """EngineRefused where a description was changed since its service was connected: it says where texts and a token
    go."""
    if connection.agreed and checksum_of(Path(connection.place)) != connection.agreed:
        raise EngineRefused(
            "The description of {name} ({file}) was changed since it was connected. Look at it, and connect it again"
            " if that is what you want; until then nothing is asked.",
            name=connection.name,
            file=connection.place,
        )


def part_of(described: Described, role: Role) -> Any:
    """What a description says of a role; None if nothing."""
    return getattr(described, role.value)


def needed_part(described: Described, role: Role, name: str, path: Path) -> Any:
    """The same; EngineError if it says nothing."""
    part = part_of(described, role)
    if part is None:
        raise EngineError(
            "{name} has no [{part}] part in {path}. Choose another engine for this.",
            name=name,
            part=role.value,
            path=path,
        )
    return part


def parts_of(described: Described, path: Path) -> dict[Role, Any]:
    """All parts; FormatError if there is none."""
    parts = {role: part for role in Role if (part := part_of(described, role)) is not None}
    if not parts:
        raise FormatError("{path} has no [speak], [translate] or [recognise] part, so it can do nothing.", path=path)
    return parts


def info_of(
    described: Described,
    listed: tuple[VoiceInfo, ...] = (),
    *,
    limits: Limits | None = None,
    repeats_free: bool = False,
) -> EngineInfo:
    """What a described engine offers, with the voices it has *listed* itself."""

    def of(role: Role, what: str) -> Any:
        return getattr(part_of(described, role), what, ())

    own = tuple(voice.plain for voice in of(Role.SPEAK, "voices"))
    return EngineInfo(
        described.name,
        described.version,
        recognises=of(Role.RECOGNISE, "languages"),
        pairs=of(Role.TRANSLATE, "pairs"),
        voices=(*own, *listed),
        limits=limits or described.limits,
        price=described.price,
        repeats_free=repeats_free,
        streams=bool(of(Role.SPEAK, "streams")),
        converses=False,
        imitates=of(Role.IMITATE, "languages"),
        describes=of(Role.DESCRIBE, "languages"),
        drafts=of(Role.DRAFT, "languages"),
        senses=of(Role.SENSE, "languages"),
        moods=of(Role.COMPOSE, "moods"),
    )


def toml_in(path: Path) -> dict[str, Any]:
    """What a TOML file holds, or FormatError."""
    try:
        return tomllib.loads(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        raise FormatError("There is no file {path}. Give the TOML file that describes the engine.", path=path) from None
    except (OSError, UnicodeDecodeError) as error:
        raise FormatError("{path} cannot be read: {why}.", path=path, why=error) from None
    except tomllib.TOMLDecodeError as error:
        raise FormatError("{path} is not TOML: {why}.", path=path, why=error) from None


def described_in(path: Path, kind: type[T]) -> T:
    """The description of type *kind* in a TOML file, or FormatError with the place of what is wrong."""
    try:
        return parsed(kind, toml_in(path))
    except ValueError as error:
        raise FormatError("{path} has {why}.", path=path, why=error) from None


def digest_of(described: Any) -> str:
    """What a description says of the engine itself, as a short name: limits and price change no answer."""
    itself = replace(described, limits=UNLIMITED, price=FREE)
    return sha256(msgspec.json.encode(itself)).hexdigest()


def check_places(path: Path, where: str, places: Set[str], known: Set[str], part: Any) -> None:
    """FormatError if one of the *places* in a part stands for nothing; what all voices have values for is known too."""
    voices: tuple[DescribedVoice, ...] = getattr(part, "voices", ())
    if voices:
        known = known | set.intersection(*(set(voice.values) for voice in voices))
    for unknown in sorted(places - known):
        raise FormatError(
            "{path}: {part} has {{{unknown}}}, which stands for nothing. Known: {there}.",
            path=path,
            part=where,
            unknown=unknown,
            there=", ".join(sorted(known)),
        )
