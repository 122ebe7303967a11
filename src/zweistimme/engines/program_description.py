"""How a local program is run: the TOML file that describes it (keys in docs/engine-protocol.md), and its checks."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any, Final, Literal

from annotated_types import Ge, Gt, Le

from zweistimme.engines.described import DescribedVoice, check_places, described_in, parts_of
from zweistimme.engines.offers import FREE, UNLIMITED, Id, Limits, Price, Role, Tag
from zweistimme.project.errors import FormatError

Command = tuple[str, ...]
Seconds = Annotated[float, Gt(0)]
PLACE: Final = re.compile(r"\{([a-z_]+)\}")
_NAMES: Final = {
    Role.SPEAK: {
        "text",
        "voice",
        "language",
        "direction",
        "rate",
        "pitch",
        "volume_db",
        "seed",
        "tier",
        "out",
        "marks",
    },
    Role.TRANSLATE: {"source", "target", "wordings", "terms"},
    Role.RECOGNISE: {"language", "sound", "speakers", "hints", "out"},
}
_ALWAYS: Final = {"folder"}


@dataclass(frozen=True, slots=True)
class SpeakPart:
    """How it is made to speak.

    *reads*: what stands on its input (nothing: the command has ``{text}``). *writes*: what comes back on its output or
    in ``{out}``: a sound file (WAV, also one without its length, or FLAC), 16-bit samples at the voice's rate, or the
    protocol's JSON. Into ``{marks}`` it may write its words as CTM. *streams*: what it writes is heard as it comes.
    """

    voices: tuple[DescribedVoice, ...]
    command: Command = ()
    reads: Literal["text", "ssml", "json", "nothing"] = "text"
    writes: Literal["sound", "pcm", "json"] = "sound"
    streams: bool = False
    seconds: Seconds = 60.0


@dataclass(frozen=True, slots=True)
class TranslatePart:
    """How it is made to translate: a text a line on its input and a line each on its output, wordings between tabs; or
    the protocol's JSON. ``{terms}`` is a file with a term and what it becomes in each line, a tab between."""

    pairs: tuple[tuple[Tag, Tag], ...]
    command: Command = ()
    reads: Literal["lines", "json"] = "lines"
    writes: Literal["lines", "json"] = "lines"
    seconds: Seconds = 120.0


@dataclass(frozen=True, slots=True)
class RecognisePart:
    """How it is made to recognise: ``{sound}`` is a file of one channel, of a *sound* kind and *rate*; the answer is
    captions, CTM or the protocol's JSON. ``{hints}`` is a file with a name or term in each line."""

    languages: tuple[Tag, ...]
    command: Command = ()
    sound: Literal["flac", "wav", "pcm"] = "flac"
    rate: Annotated[int, Ge(8_000), Le(48_000)] = 48_000
    writes: Literal["srt", "vtt", "ctm", "json"] = "json"
    seconds: Seconds = 3_600.0


@dataclass(frozen=True, slots=True)
class OtherPart:
    """How it is made to do one of the other things: the protocol's JSON in and out. *moods* for what it composes."""

    command: Command = ()
    languages: tuple[Tag, ...] = ()
    moods: tuple[str, ...] = ()
    seconds: Seconds = 300.0


@dataclass(frozen=True, slots=True)
class ResidentPart:
    """A program that is started once: one JSON object a line in and out, for every role it is described with. It may
    take *start_seconds* until it says it is ready, and is ended after *idle_seconds* without a question."""

    command: Command
    start_seconds: Seconds = 120.0
    idle_seconds: Seconds = 600.0


@dataclass(frozen=True, slots=True)
class Description:
    """The whole file. *environment* names variables the program is given besides the usual ones."""

    name: Id
    version: str = "1"
    environment: tuple[str, ...] = ()
    limits: Limits = UNLIMITED
    price: Price = FREE
    resident: ResidentPart | None = None
    speak: SpeakPart | None = None
    translate: TranslatePart | None = None
    recognise: RecognisePart | None = None
    imitate: OtherPart | None = None
    describe: OtherPart | None = None
    draft: OtherPart | None = None
    compose: OtherPart | None = None
    sense: OtherPart | None = None


def description_from(path: Path) -> Description:
    """The description in a file, or FormatError with the place of what is wrong."""
    made = described_in(path, Description)
    parts = parts_of(made, path)
    if made.resident is not None and not made.resident.command:
        raise FormatError("{path}: resident.command is empty. Say how the program is started.", path=path)
    for role, part in parts.items():
        _check_part(path, role, part, resident=made.resident is not None)
    return made


def _check_part(path: Path, role: Role, part: Any, *, resident: bool) -> None:
    if isinstance(part, SpeakPart) and not part.voices:
        raise FormatError("{path}: speak.voices is empty. Name at least one voice.", path=path)
    if not part.command and not resident:
        raise FormatError(
            "{path}: {part}.command is empty. Say how the program is run, or give it a [resident] part.",
            path=path,
            part=role.value,
        )
    places = {name for word in part.command for name in PLACE.findall(word)}
    check_places(path, f"{role.value}.command", places, _NAMES.get(role, set()) | _ALWAYS, part)
