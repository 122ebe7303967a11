"""An engine that is a local program, described by a TOML file: run once for each request, or resident."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from zweistimme.engines.described import digest_of, info_of, needed_part
from zweistimme.engines.extra_questions import check_single_call
from zweistimme.engines.extra_roles import Answered, Asked, call_of
from zweistimme.engines.offers import EngineInfo, Role, Usage, VoiceInfo
from zweistimme.engines.processes import output_of
from zweistimme.engines.program_answers import (
    clip_from,
    recognition_from,
    terms_file,
    text_of,
    wordings_from,
    words_from_ctm,
)
from zweistimme.engines.program_description import PLACE, SpeakPart, description_from
from zweistimme.engines.protocol import (
    DialogueRequest,
    Hear,
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
from zweistimme.engines.resident import Resident
from zweistimme.engines.sounds import longest_s, written_sound
from zweistimme.engines.translations import checked_translation
from zweistimme.engines.wav import SoundAsItComes
from zweistimme.engines.wire import SpeechAnswer, read, speech_from, written
from zweistimme.formats.ssml import plain_text
from zweistimme.project.errors import BadAnswer
from zweistimme.project.times import RATE


class ProgramEngine:
    """A connection to one local program."""

    def __init__(self, name: str, path: Path) -> None:
        self.name, self.path = name, path
        self._is = description_from(path)
        self._info = info_of(self._is)
        self._folder = path.parent.resolve()
        resident = self._is.resident
        self._resident = (
            Resident(name, self._folder, resident, self._is.environment, self._is.limits.at_once) if resident else None
        )

    @property
    def identity(self) -> str:
        """The program, and what its description says of it: another command or model is somebody else, another price or
        limit is not."""
        return f"program {self.name} {digest_of(self._is)}"

    def info(self, *, anew: bool = False) -> EngineInfo:
        """As described."""
        return self._info

    def usage(self) -> Usage:
        """A program keeps no account."""
        return Usage()

    def close(self) -> None:
        """End a resident program; nothing else stays open between requests."""
        if self._resident is not None:
            self._resident.close()

    # speaking

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """Speak one line."""
        part = self._part(Role.SPEAK)
        voice = self._info.voice(request.voice)
        cost = self._info.price_of_speech(voice.id, request.tier).of(len(request.ssml))
        if self._resident is not None:
            answer = self._resident.ask(Role.SPEAK, request, SpeechAnswer, part.seconds)
            speech = speech_from(answer, voice.sample_rate, longest_s(request.ssml), self.name)
        else:
            speech = self._spoken_once(part, request, voice, hear)
        return Speech(speech.samples, speech.words, cost)

    def _spoken_once(self, part: SpeakPart, request: SpeechRequest, voice: VoiceInfo, hear: Hear | None) -> Speech:
        text = plain_text(request.ssml)
        given = {"text": text, "ssml": request.ssml, "json": written(request).decode(), "nothing": ""}[part.reads]
        values = {
            "text": text.replace("\0", ""), "voice": request.voice, "language": request.language,
            "direction": request.direction, "rate": f"{request.rate:g}", "pitch": f"{request.pitch:g}",
            "volume_db": f"{request.volume_db:g}", "seed": str(request.seed), "tier": request.tier,
            **next(one.values for one in part.voices if one.id == voice.id),
        }  # fmt: skip
        pcm_rate = voice.sample_rate if part.writes == "pcm" else None
        came = SoundAsItComes(hear, pcm_rate).came if hear and part.streams and part.writes != "json" else None
        with _Run(self, part.command, values, part.seconds) as run:
            out = run.output((given + "\n").encode() if given else b"", came=came)
            marks = run.file("marks")
        longest = longest_s(request.ssml)
        if part.writes == "json":
            answer = read(SpeechAnswer, text_of(out, self.name), self.name)
            return speech_from(answer, voice.sample_rate, longest, self.name)
        samples = clip_from(out, part.writes, voice.sample_rate, longest, self.name)
        return Speech(samples, words_from_ctm(text_of(marks, self.name), self.name) if marks else ())

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """A program speaks one line at a time."""
        return tuple(self.speak(turn) for turn in request.turns)

    # translating

    def translate(self, request: TranslationRequest) -> Translation:
        """Translate all texts at once."""
        part = self._part(Role.TRANSLATE)
        cost = self._is.price.of(sum(len(item.text) for item in request.items))
        if self._resident is not None:
            made = self._resident.ask(Role.TRANSLATE, request, Translation, part.seconds)
        else:
            made = self._translated_once(part, request)
        return Translation(checked_translation(request, made, self.name).items, cost)

    def _translated_once(self, part: Any, request: TranslationRequest) -> Translation:
        lines = [" ".join(item.text.split()) for item in request.items]
        given = written(request) if part.reads == "json" else "".join(line + "\n" for line in lines).encode()
        values = {"source": request.source, "target": request.target, "wordings": str(request.wordings)}
        terms = terms_file({term.source: term.target for term in request.terms})
        with _Run(self, part.command, values, part.seconds, {"terms": terms}) as run:
            answer = text_of(run.output(given), self.name)
        if part.writes == "json":
            return read(Translation, answer, self.name)
        got = wordings_from(answer, len(lines), request.wordings, self.name)
        pairs = zip(request.items, got, strict=True)
        return Translation(tuple(Wordings(item.id, tuple(map(Wording, texts))) for item, texts in pairs))

    # recognising

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Recognise the whole sound; stopping the desk's job stops it."""
        part = self._part(Role.RECOGNISE)
        language = question.languages[0]
        with TemporaryDirectory() as place:
            file = Path(place) / f"sound.{part.sound}"
            with file.open("wb") as opened:
                written_sound(sound, opened, part.sound, part.rate, lambda share: report(0.1 * share))
            if self._resident is not None:
                heard = self._resident.ask(
                    Role.RECOGNISE, question, Recognition, part.seconds, {"sound": str(file)},
                    lambda share: report(0.1 + 0.9 * share),
                )  # fmt: skip
            else:
                values = {"sound": str(file), "language": language, "speakers": str(question.speakers or "")}
                hints = {"hints": "".join(f"{' '.join(hint.split())}\n" for hint in question.hints)}
                with _Run(self, part.command, values, part.seconds, hints, lambda: report(0.1)) as run:
                    text = text_of(run.output(b""), self.name)
                heard = recognition_from(text, part.writes, language, self.name)
        cost = self._is.price.of(seconds=sound.length_samples / RATE)
        return Recognition(heard.language, heard.probability, heard.segments, cost)

    # the rest

    def ask(self, request: Asked) -> Answered:
        """One of the other questions, in JSON."""
        call = call_of(request)
        check_single_call(call, self.name)
        part = self._part(call.role)
        if self._resident is not None:
            answer: Answered = self._resident.ask(call.role, request, call.answer, part.seconds)
            return answer
        with _Run(self, part.command, {}, part.seconds) as run:
            answer = read(call.answer, text_of(run.output(written(request)), self.name), self.name)
        return answer

    def _part(self, role: Role) -> Any:
        return needed_part(self._is, role, self.name, self.path)


class _Run:
    """One run of a command, with the places in it filled and a folder for its files, as a context manager."""

    def __init__(
        self,
        engine: ProgramEngine,
        command: tuple[str, ...],
        values: Mapping[str, str],
        seconds: float,
        files: Mapping[str, str] = {},
        look: Callable[[], None] = lambda: None,
    ) -> None:
        self._engine, self._command, self._values = engine, command, values
        self._seconds, self._files, self._look = seconds, files, look
        self._place = TemporaryDirectory()

    def __enter__(self) -> _Run:
        folder = Path(self._place.__enter__())
        for name, text in self._files.items():
            (folder / name).write_text(text, encoding="utf-8")
        return self

    def __exit__(self, *_: object) -> None:
        self._place.cleanup()

    def output(self, given: bytes, came: Callable[[bytes], None] | None = None) -> bytes:
        """What it writes, on its output or into {out}."""
        folder, engine = Path(self._place.name), self._engine
        own = {name: str(folder / name) for name in ("out", "marks", *self._files)}
        filled = {**self._values, **own, "folder": str(engine._folder)}
        words = [PLACE.sub(lambda match: filled[match.group(1)], word) for word in self._command]
        out = folder / "out" if any("{out}" in word for word in self._command) else None
        printed = output_of(
            words, given, who=engine.name, seconds=self._seconds, folder=engine._folder, out=out,
            environment=engine._is.environment, look=self._look, came=came or (lambda _piece: None),
        )  # fmt: skip
        if out is None:
            return printed
        if not out.is_file():
            raise BadAnswer("{name} ended well but wrote no file.", name=engine.name)
        return out.read_bytes()

    def file(self, name: str) -> bytes:
        """What it wrote into one of its files; nothing if it wrote none."""
        path = Path(self._place.name) / name
        return path.read_bytes() if path.is_file() else b""
