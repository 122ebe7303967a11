"""The protocol's types as JSON, and the few that exist only between two machines.

Unknown fields are tolerated; a missing or wrong one is named by its path.
"""

from __future__ import annotations

import base64
import binascii
import io
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, Final, TypeVar

import numpy as np
from annotated_types import Ge, Le

from zweistimme.engines.jobs import JobState
from zweistimme.engines.offers import NOTHING_USED, Cost, Id, Share
from zweistimme.engines.protocol import HeardWord, Mono, Recognition, Speech
from zweistimme.engines.wav import with_its_length
from zweistimme.messages import tr
from zweistimme.project.errors import BadAnswer
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import steps_24

if TYPE_CHECKING:
    from pydantic import TypeAdapter

T = TypeVar("T")
LATER: Final = frozenset({"tier", "situation", "about", "forbidden", "note"})
"""Fields of questions that came with version 2, or after its beginning: an engine of version 1 is not told of them, and
where they say nothing a question is the one it was before them."""
TOLD_LATER: Final[Mapping[str, Any]] = {
    "tier": True,
    "about": True,
    "items": {"__all__": {"situation"}},
    "terms": {"__all__": {"forbidden", "note"}},
}
"""Where they stand, as pydantic takes what is left out."""
STREAM_TYPE: Final = "application/x-ndjson"
"""Speech in pieces: speech answers, one a line, whose sounds are parts of one file; the last has words and cost."""
PROBLEM_TYPE: Final = "urn:zweistimme:problem:"
LONGEST_CLIP_S: Final = 1_200.0


@dataclass(frozen=True, slots=True)
class Problem:
    """What went wrong, as problem details (RFC 9457)."""

    title: str
    status: Annotated[int, Ge(400), Le(599)]
    detail: str = ""
    type: str = "about:blank"


@dataclass(frozen=True, slots=True)
class RecognitionJob:
    """A recognition under way; *result* is there once it is done, *problem* once it failed. An engine that cannot tell
    its *progress* (None) may count *heartbeats* instead, so that it is known to be at work."""

    id: Id
    state: JobState
    progress: Share | None = None
    heartbeats: Annotated[int, Ge(0)] | None = None
    result: Recognition | None = None
    problem: Problem | None = None


@dataclass(frozen=True, slots=True)
class SpeechAnswer:
    """A clip: a FLAC or WAV file in base64, its words in clip time, what it cost, and its place in a dialogue."""

    sound: str
    words: tuple[HeardWord, ...] = ()
    cost: Cost = NOTHING_USED
    start_us: Annotated[int, Ge(0)] = 0


@dataclass(frozen=True, slots=True)
class DialogueAnswer:
    """The clips of a dialogue, one for each turn, in order."""

    turns: tuple[SpeechAnswer, ...]


_adapters: Final[dict[type[Any], Any]] = {}


def _adapter(kind: type[T]) -> TypeAdapter[T]:
    """Made once for each type; making one takes longer than using it."""
    from pydantic import TypeAdapter

    made: TypeAdapter[T] = _adapters.get(kind) or _adapters.setdefault(kind, TypeAdapter(kind))
    return made


def written(value: object, without: Mapping[str, Any] | None = None) -> bytes:
    """A protocol object as JSON, *without* some of its fields, as pydantic names them."""
    return _adapter(type(value)).dump_json(value, exclude=dict(without) if without else None)


def lines_of(pieces: Iterable[bytes]) -> Iterator[bytes]:
    """Lines of what comes in pieces, empty ones too."""
    parts: list[bytes] = []
    for piece in pieces:
        first, *more = piece.split(b"\n")
        parts.append(first)
        for part in more:
            yield b"".join(parts)
            parts = [part]
    yield b"".join(parts)


def parsed(kind: type[T], body: bytes | str | Mapping[str, Any]) -> T:
    """A protocol object from JSON (or from what JSON would be read as); ValueError says what is wrong, and where."""
    from pydantic import ValidationError

    try:
        if isinstance(body, Mapping):
            return _adapter(kind).validate_python(body)
        return _adapter(kind).validate_json(body)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        if first["type"] == "json_invalid":
            raise ValueError("something that is not JSON") from None
        raise ValueError(f"a wrong field: {first['msg']} @ {path_of(first['loc'])}") from None


def read(kind: type[T], body: bytes | str, who: str) -> T:
    """What an engine answered, or BadAnswer."""
    try:
        return parsed(kind, body)
    except ValueError as error:
        raise BadAnswer("{who} answered with {why}.", who=who, why=error) from None


def path_of(place: tuple[int | str, ...]) -> str:
    """A place in JSON as people write it.

    >>> path_of(("voices", 3, "name"))
    'voices[3].name'
    """
    text = ""
    for part in place:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text or tr("the whole answer")


def speech_answer(speech: Speech) -> SpeechAnswer:
    """A clip for the wire, without loss against the 24 bits in which clips are kept."""
    return SpeechAnswer(flac_base64(speech.samples), speech.words, speech.cost, speech.start_us)


def flac_base64(samples: Mono) -> str:
    """A clip at 48 kHz as a FLAC file of 24 bits in base64."""
    import soundfile

    buffer = io.BytesIO()
    soundfile.write(buffer, steps_24(samples) << 8, RATE, subtype="PCM_24", format="FLAC")
    return base64.b64encode(buffer.getvalue()).decode()


def speech_from(answer: SpeechAnswer, sample_rate: int, longest_s: float, who: str) -> Speech:
    """A clip from the wire: decoded, checked, and brought from the voice's announced rate to 48 kHz."""
    try:
        data = base64.b64decode(answer.sound, validate=True)
    except (binascii.Error, ValueError):
        raise BadAnswer("{who} answered with sound that is not base64.", who=who) from None
    return Speech(samples_from(data, sample_rate, longest_s, who), answer.words, answer.cost, answer.start_us)


def samples_from(data: bytes, sample_rate: int | None, longest_s: float, who: str) -> Mono:
    """The samples of a WAV or FLAC file at 48 kHz. BadAnswer for what is no sound, of another rate than announced
    (None: any), far too long, silent, or not finite."""
    import soundfile

    try:
        with soundfile.SoundFile(io.BytesIO(with_its_length(data))) as file:
            rate, channels = file.samplerate, file.channels
            if sample_rate is not None and rate != sample_rate:
                raise BadAnswer(
                    "{who} answered with sound at {rate} Hz although this voice promises {sample_rate}.",
                    who=who,
                    rate=rate,
                    sample_rate=sample_rate,
                )
            longest = min(longest_s, LONGEST_CLIP_S)
            if file.frames > longest * rate:
                seconds = file.frames / rate
                raise BadAnswer(
                    "{who} answered with {seconds:.0f} s of sound where at most {longest:.0f} s make sense.",
                    who=who,
                    seconds=seconds,
                    longest=longest,
                )
            samples = np.asarray(file.read(dtype="float32", always_2d=True))
    except soundfile.LibsndfileError:
        raise BadAnswer("{who} answered with sound that is neither WAV nor FLAC.", who=who) from None
    if channels != 1:
        raise BadAnswer("{who} answered with {channels} channels; a voice has one.", who=who, channels=channels)
    mono = np.ascontiguousarray(samples[:, 0])
    if not len(mono) or not np.isfinite(mono).all() or float(np.abs(mono).max()) < 1e-4:
        raise BadAnswer("{who} answered with a clip that is silent.", who=who)
    if rate != RATE:
        import soxr

        mono = np.asarray(soxr.resample(mono, rate, RATE, "HQ"), dtype=np.float32)
    return mono
