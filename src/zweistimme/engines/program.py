"""An engine that is a local program, described by a TOML file (docs/engine-protocol.md gives its keys)."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Any, Final, Literal

import msgspec
from annotated_types import Gt, MinLen

from zweistimme.engines.offers import FREE, UNLIMITED, EngineInfo, Id, Limits, Price, Tag, Usage, VoiceInfo
from zweistimme.engines.processes import output_of
from zweistimme.engines.protocol import (
    DialogueRequest,
    HeardSegment,
    HeardWord,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
    Wording,
    Wordings,
)
from zweistimme.engines.service import longest_s
from zweistimme.engines.sounds import written_flac
from zweistimme.engines.wire import parsed, read, samples_from
from zweistimme.formats.captions import parse_captions
from zweistimme.formats.ctm import parse_ctm
from zweistimme.formats.ssml import plain_text
from zweistimme.project.errors import BadAnswer, EngineError, FormatError
from zweistimme.project.times import RATE

Command = Annotated[tuple[str, ...], MinLen(1)]
Seconds = Annotated[float, Gt(0)]
_PLACE: Final = re.compile(r"\{([a-z_]+)\}")
_NEW_SEGMENT_US: Final = 700_000
_NAMES: Final = {
    "speak": {"folder", "voice", "language", "direction", "rate", "pitch", "volume_db", "seed", "out"},
    "translate": {"folder", "source", "target"},
    "recognise": {"folder", "language", "sound", "speakers", "out"},
}


@dataclass(frozen=True, slots=True)
class SpeakPart:
    """How the program is made to speak: text or SSML on its input, a WAV or FLAC file on its output or in {out}."""

    command: Command
    voices: Annotated[tuple[VoiceInfo, ...], MinLen(1)]
    reads: Literal["text", "ssml"] = "text"
    seconds: Seconds = 60.0


@dataclass(frozen=True, slots=True)
class TranslatePart:
    """How it is made to translate: a text a line on its input, a line each on its output, wordings between tabs."""

    command: Command
    pairs: Annotated[tuple[tuple[Tag, Tag], ...], MinLen(1)]
    seconds: Seconds = 120.0


@dataclass(frozen=True, slots=True)
class RecognisePart:
    """How it is made to recognise: {sound} is a FLAC file, the answer captions, CTM or the protocol's JSON."""

    command: Command
    languages: Annotated[tuple[Tag, ...], MinLen(1)]
    writes: Literal["srt", "vtt", "ctm", "json"] = "json"
    seconds: Seconds = 3600.0


@dataclass(frozen=True, slots=True)
class Description:
    """The whole file."""

    name: Id
    version: str = "1"
    limits: Limits = UNLIMITED
    price: Price = FREE
    speak: SpeakPart | None = None
    translate: TranslatePart | None = None
    recognise: RecognisePart | None = None


def description_from(path: Path) -> Description:
    """The description in a file, or FormatError with the place of what is wrong."""
    try:
        table = tomllib.loads(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        raise FormatError(
            "There is no file {path}. Give the TOML file that describes the program.", path=path
        ) from None
    except (OSError, UnicodeDecodeError) as error:
        raise FormatError("{path} cannot be read: {why}.", path=path, why=error) from None
    except tomllib.TOMLDecodeError as error:
        raise FormatError("{path} is not TOML: {why}.", path=path, why=error) from None
    try:
        made = parsed(Description, table)
    except ValueError as error:
        raise FormatError("{path} has {why}.", path=path, why=error) from None
    for part, names in _NAMES.items():
        command = getattr(getattr(made, part), "command", ())
        for unknown in {name for word in command for name in _PLACE.findall(word)} - names:
            there = ", ".join(sorted(names))
            raise FormatError(
                "{path}: {part}.command has {{{unknown}}}, which stands for nothing. Known: {there}.",
                path=path,
                part=part,
                unknown=unknown,
                there=there,
            )
    if not (made.speak or made.translate or made.recognise):
        raise FormatError("{path} has no [speak], [translate] or [recognise] part, so it can do nothing.", path=path)
    return made


class ProgramEngine:
    """A connection to one local program. It is run once for each request."""

    def __init__(self, name: str, path: Path) -> None:
        self.name, self.path = name, path
        self._is = description_from(path)

    @property
    def identity(self) -> str:
        """The program, and all that its description says: another command or model is somebody else."""
        return f"program {self.name} {sha256(msgspec.json.encode(self._is)).hexdigest()}"

    def info(self) -> EngineInfo:
        """As described."""
        known = self._is
        return EngineInfo(
            known.name,
            known.version,
            recognises=known.recognise.languages if known.recognise else (),
            pairs=known.translate.pairs if known.translate else (),
            voices=known.speak.voices if known.speak else (),
            limits=known.limits,
            price=known.price,
        )

    def usage(self) -> Usage:
        """A program keeps no account."""
        return Usage()

    def close(self) -> None:
        """Nothing stays open between requests."""

    def speak(self, request: SpeechRequest) -> Speech:
        """Run it for one line."""
        part = self._part("speak", self._is.speak)
        voice = self.info().voice(request.voice)
        text = request.ssml if part.reads == "ssml" else plain_text(request.ssml)
        values = {
            "voice": request.voice, "language": request.language, "direction": request.direction,
            "rate": f"{request.rate:g}", "pitch": f"{request.pitch:g}", "volume_db": f"{request.volume_db:g}",
            "seed": str(request.seed),
        }  # fmt: skip
        sound = self._run(part.command, values, text.encode() + b"\n", part.seconds)
        samples = samples_from(sound, voice.sample_rate, longest_s(request.ssml), self.name)
        return Speech(samples, (), self._is.price.of(len(request.ssml)))

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """A program speaks one line at a time."""
        return tuple(self.speak(turn) for turn in request.turns)

    def translate(self, request: TranslationRequest) -> Translation:
        """Run it once for all texts."""
        part = self._part("translate", self._is.translate)
        lines = [" ".join(item.text.split()) for item in request.items]
        given = "".join(line + "\n" for line in lines).encode()
        answer = self._run(part.command, {"source": request.source, "target": request.target}, given, part.seconds)
        got = self._text(answer).splitlines()
        if len(got) != len(lines):
            raise BadAnswer(
                "{name} wrote {lines} lines for {texts} texts.", name=self.name, lines=len(got), texts=len(lines)
            )
        items = [
            Wordings(item.id, tuple(Wording(text.strip()) for text in line.split("\t")[: request.wordings]))
            for item, line in zip(request.items, got, strict=True)
        ]
        return Translation(tuple(items), self._is.price.of(sum(map(len, lines))))

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Run it for the whole sound; stopping the desk's job stops it."""
        part = self._part("recognise", self._is.recognise)
        with TemporaryDirectory() as place:
            file = Path(place) / "sound.flac"
            with file.open("wb") as opened:
                written_flac(sound, opened, lambda share: report(0.1 * share))
            values = {
                "sound": str(file), "language": question.languages[0], "speakers": str(question.speakers or ""),
            }  # fmt: skip
            answer = self._run(part.command, values, b"", part.seconds, lambda: report(0.1))
        text = self._text(answer)
        if part.writes == "json":
            return read(Recognition, text, self.name)
        try:
            segments = (
                _from_ctm(text, self.name) if part.writes == "ctm" else _from_captions(text, part.writes, self.name)
            )
        except FormatError as error:
            raise BadAnswer(str(error)) from None
        cost = self._is.price.of(seconds=sound.length_samples / RATE)
        return Recognition(question.languages[0], None, tuple(segments), cost)

    def _part(self, name: str, part: Any) -> Any:
        if part is None:
            raise EngineError(
                "{name} has no [{part}] part in {path}. Choose another engine for this.",
                name=self.name,
                part=name,
                path=self.path,
            )
        return part

    def _text(self, answer: bytes) -> str:
        try:
            return answer.decode("utf-8")
        except UnicodeDecodeError:
            raise BadAnswer("{name} wrote text that is not UTF-8.", name=self.name) from None

    def _run(
        self,
        command: tuple[str, ...],
        values: Mapping[str, str],
        given: bytes,
        seconds: float,
        look: Callable[[], None] = lambda: None,
    ) -> bytes:
        """Run the command with its places filled in; the contents of {out} if it names one."""
        folder = self.path.parent.resolve()
        with TemporaryDirectory() as place:
            out = Path(place) / "out"
            filled = {**values, "folder": str(folder), "out": str(out)}
            words = [_PLACE.sub(lambda match: filled[match.group(1)], word) for word in command]
            printed = output_of(words, given, who=self.name, seconds=seconds, folder=folder, look=look)
            if not any("{out}" in word for word in command):
                return printed
            if not out.is_file():
                raise BadAnswer("{name} ended well but wrote no file.", name=self.name)
            return out.read_bytes()


def _from_ctm(text: str, who: str) -> list[HeardSegment]:
    """Words with a pause of 0.7 s between them begin a new segment."""
    groups: list[list[HeardWord]] = []
    for word in parse_ctm(text, who).words:
        heard = HeardWord(word.text, word.start_us, word.end_us, word.confidence)
        if groups and word.start_us - groups[-1][-1].end_us < _NEW_SEGMENT_US:
            groups[-1].append(heard)
        else:
            groups.append([heard])
    return [HeardSegment(group[0].start_us, group[-1].end_us, "A", tuple(group)) for group in groups]


def _from_captions(text: str, kind: str, who: str) -> list[HeardSegment]:
    """Each caption is a segment; its words share its time by their letters."""
    segments = []
    for cue in parse_captions(text, where=who, is_vtt=kind == "vtt").cues:
        parts = cue.text.split()
        letters = [0]
        for part in parts:
            letters.append(letters[-1] + len(part))
        length = cue.end_us - cue.start_us
        edges = [cue.start_us + length * done // letters[-1] for done in letters]
        words = tuple(HeardWord(part, edges[k], edges[k + 1], 0.8) for k, part in enumerate(parts))
        segments.append(HeardSegment(cue.start_us, cue.end_us, cue.speaker or "A", words))
    return segments
