"""How a service of another shape is asked: the TOML file that maps our roles to its calls, and its checks (keys in
docs/engine-protocol.md).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields, is_dataclass, replace
from pathlib import Path
from typing import Annotated, Any, Final, Literal
from urllib.parse import urljoin, urlsplit

from annotated_types import Ge, Gt, Le

from zweistimme.engines.body_templates import places_in
from zweistimme.engines.described import DescribedVoice, check_places, described_in, info_of, parts_of
from zweistimme.engines.json_paths import JsonPath
from zweistimme.engines.offers import FREE, UNLIMITED, EngineInfo, Id, Limits, Price, Role, Tag, VoiceInfo
from zweistimme.engines.origin import origin_of
from zweistimme.project.errors import EngineError, FormatError

Template = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class CallPart:
    """One HTTP call: where, how, and with what. Texts in it have places such as ``{text}``."""

    path: str
    method: Literal["GET", "POST", "PUT"] = "POST"
    query: Mapping[str, str] = field(default_factory=dict)
    headers: Mapping[str, str] = field(default_factory=dict)
    json: Template | None = None
    form: Mapping[str, str] | None = None
    multipart: Mapping[str, str] | None = None
    body: str | None = None


@dataclass(frozen=True, slots=True)
class PollPart:
    """Looking after a job: its state, and what of it means done or failed; how far it is, of *progress_of*."""

    path: str
    state: str
    done: tuple[str, ...]
    failed: tuple[str, ...] = ()
    error: str = ""
    progress: str = ""
    progress_of: Annotated[float, Gt(0)] = 1.0
    result: str = ""
    """Where the result is once it is done; empty: in the answer to the last look."""
    stop: str = ""
    """Where DELETE stops it; empty: nowhere."""


@dataclass(frozen=True, slots=True)
class ListPart:
    """Where the service lists its voices: *voices* gives objects as in ``GET /v1/engine``, *next* what stands for
    ``{page}`` in the call for the next page, if there is one."""

    path: str
    voices: str
    next: str = ""
    query: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Asked:
    """What every role has: the call, the job if the answer is not there at once, and what of the answer is ours."""

    call: CallPart
    job: str = ""
    poll: PollPart | None = None
    answer: str = ""
    """The protocol's own answer, put together from what the service says."""


@dataclass(frozen=True, slots=True)
class SpeakPart(Asked):
    """*sound* is where the sound is: ``body``, or a path in the answer, as base64 or a link to it."""

    voices: tuple[DescribedVoice, ...] = ()
    list: ListPart | None = None
    sound: str = "body"
    sound_as: Literal["base64", "link"] = "base64"
    sound_form: Literal["file", "pcm"] = "file"
    words: str = ""
    streams: bool = False


@dataclass(frozen=True, slots=True)
class TranslatePart(Asked):
    """*texts* gives one text (or a list of wordings) for each that was asked, in their order."""

    pairs: tuple[tuple[Tag, Tag], ...] = ()
    texts: str = ""


@dataclass(frozen=True, slots=True)
class RecognisePart(Asked):
    """*segments* or *words* gives what was heard; a word may name its speaker."""

    languages: tuple[Tag, ...] = ()
    segments: str = ""
    words: str = ""
    language: str = ""
    sound: Literal["flac", "wav", "pcm"] = "flac"
    rate: Annotated[int, Ge(8_000), Le(48_000)] = 48_000


@dataclass(frozen=True, slots=True)
class OtherPart(Asked):
    """One of the other roles, whose *answer* is put together as the protocol has it."""

    languages: tuple[Tag, ...] = ()
    moods: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class TokenPart:
    """How the token is shown."""

    header: str = "Authorization"
    form: str = "Bearer {token}"


@dataclass(frozen=True, slots=True)
class ErrorPart:
    """Where a refusal says why, and what a status means that others use otherwise."""

    message: str = ""
    status: Mapping[str, Literal["token", "quota", "wait", "again", "line"]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class ServiceMap:
    """The whole file. *codes* says how the service calls a language; *seconds* is the longest an answer may take."""

    name: Id
    address: str
    version: str = "1"
    token: TokenPart = field(default_factory=TokenPart)
    headers: Mapping[str, str] = field(default_factory=dict)
    codes: Mapping[str, str] = field(default_factory=dict)
    errors: ErrorPart = field(default_factory=ErrorPart)
    limits: Limits = UNLIMITED
    price: Price = FREE
    repeats_free: bool = False
    seconds: Annotated[float, Gt(0)] = 120.0
    speak: SpeakPart | None = None
    translate: TranslatePart | None = None
    recognise: RecognisePart | None = None
    imitate: OtherPart | None = None
    describe: OtherPart | None = None
    draft: OtherPart | None = None
    compose: OtherPart | None = None
    sense: OtherPart | None = None

    @property
    def takes_one_text(self) -> bool:
        """Whether a translation is asked for one text at a time."""
        return self.translate is not None and "text" in places_in(self.translate.call)

    def info(self, listed: tuple[VoiceInfo, ...] = ()) -> EngineInfo:
        """What the service offers, with the voices it has *listed*."""
        limits = replace(self.limits, items=1) if self.takes_one_text else self.limits
        told = self.translate is not None and bool(_TOLD & places_in(self.translate.call))
        made = info_of(self, listed, limits=limits, repeats_free=self.repeats_free)
        return replace(made, situations=told)


_TOLD: Final = frozenset(["about", "situation"])
"""Who asks with these makes use of situations."""
_PLACES: Final = {
    Role.SPEAK: {"text", "ssml", "voice", "language", "direction", "rate", "pitch", "volume_db", "seed", "tier"},
    Role.TRANSLATE: {
        "text",
        "texts",
        "ids",
        "items",
        "terms",
        "source",
        "target",
        "wordings",
        "longest_s",
        "context",
        "about",
        "situation",
    },
    Role.RECOGNISE: {"sound", "sound_base64", "language", "languages", "hints", "speakers"},
}
_JSON_PATHS: Final = {
    "job", "answer", "sound", "words", "texts", "segments", "language", "state", "error", "progress", "voices", "next",
    "message",
}  # fmt: skip


def service_map_from(path: Path) -> ServiceMap:
    """The map in a file, or FormatError with the place of what is wrong."""
    made = described_in(path, ServiceMap)
    try:
        origin_of(made.address)
    except EngineError as error:
        raise FormatError("{path}: {why}", path=path, why=error) from None
    for role, part in parts_of(made, path).items():
        if role in _PLACES:  # in the others: the fields of the question, whatever they are
            check_places(path, f"{role.value}.call", places_in(part.call), _PLACES[role], part)
        if (part.job == "") != (part.poll is None):
            raise FormatError(
                "{path}: {part} needs both job and poll, or neither: where the answer names its job, and how it is"
                " looked after.",
                path=path,
                part=role.value,
            )
    for place, text in _paths(made, ""):
        check_path(path, place, text, made.address)
    for place, text in _texts(made, ""):
        try:
            JsonPath(text)
        except ValueError as error:
            raise FormatError("{path}: {place} is no JMESPath: {why}.", path=path, place=place, why=error) from None
    return made


def _texts(value: Any, place: str) -> Iterator[tuple[str, str]]:
    """Every JMESPath of the map, with its place."""
    for one in fields(value):
        inner, where = getattr(value, one.name), f"{place}.{one.name}".lstrip(".")
        if is_dataclass(inner):
            yield from _texts(inner, where)
        elif one.name in _JSON_PATHS and isinstance(inner, str) and inner not in ("", "body", *_SOUNDS):
            yield where, inner


def _paths(value: Any, place: str) -> Iterator[tuple[str, str]]:
    """Every path that is asked for, with its place."""
    for one in fields(value):
        inner, where = getattr(value, one.name), f"{place}.{one.name}".lstrip(".")
        if is_dataclass(inner):
            yield from _paths(inner, where)
        elif one.name in ("path", "result", "stop") and isinstance(inner, str):
            yield where, inner


def check_path(file: Path, place: str, text: str, address: str) -> None:
    """A FormatError where a path leads away from the service whose address and token a person agrees to."""
    own = origin_of(address)
    try:
        elsewhere = bool(urlsplit(text).scheme or text.startswith("//")) and origin_of(urljoin(address, text)) != own
    except (EngineError, ValueError):
        elsewhere = True
    if elsewhere:
        raise FormatError(
            "{path}: {place} leads to another place than the service itself ({own}). Give a path, as in “/v1/speech”.",
            path=file,
            place=place,
            own=own,
        )


_SOUNDS: Final = ("flac", "wav", "pcm")
