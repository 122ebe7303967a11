"""An engine that is a service of another shape, mapped to our roles by a TOML file."""

from __future__ import annotations

import base64
import binascii
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Final
from urllib.parse import urljoin, urlsplit

import msgspec

from zweistimme.engines.body_templates import places_in
from zweistimme.engines.described import digest_of, needed_part
from zweistimme.engines.extra_questions import check_single_call
from zweistimme.engines.extra_roles import Answered, call_of
from zweistimme.engines.extra_roles import Asked as ExtraRequest
from zweistimme.engines.http_calls import HttpCaller, Waits
from zweistimme.engines.json_paths import JsonPath, in_microseconds
from zweistimme.engines.mapped_calls import MappedCalls
from zweistimme.engines.mapped_description import (
    Asked,
    ErrorPart,
    RecognisePart,
    SpeakPart,
    TranslatePart,
    service_map_from,
)
from zweistimme.engines.offers import EngineInfo, Role, Usage, VoiceInfo
from zweistimme.engines.origin import is_local, origin_of
from zweistimme.engines.program_answers import clip_from, segments_of
from zweistimme.engines.protocol import (
    DialogueRequest,
    Hear,
    HeardSegment,
    HeardWord,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationItem,
    TranslationRequest,
    Wording,
    Wordings,
)
from zweistimme.engines.sounds import longest_s, written_sound
from zweistimme.engines.translations import checked_translation
from zweistimme.engines.wav import SoundAsItComes
from zweistimme.engines.wire import parsed, written
from zweistimme.formats.ssml import plain_text
from zweistimme.project.errors import BadAnswer
from zweistimme.project.languages import language_of
from zweistimme.project.times import RATE

_MOST_PAGES: Final = 200


class MappedEngine:
    """A connection to one service, asked as its map says."""

    def __init__(self, name: str, path: Path, token: str | None = None, waits: Waits | None = None) -> None:
        self.name, self.path = name, path
        self._map = service_map_from(path)
        self._waits = waits or Waits(answer=self._map.seconds)
        self._calls = MappedCalls(name, self._map, token, self._waits)
        self._known: EngineInfo | None = None

    @property
    def identity(self) -> str:
        """The service, and all of its map by which another answer may come: not how long it is waited for, or what it
        costs, or answers would be paid for once more."""
        return f"mapped {self.name} {digest_of(replace(self._map, errors=ErrorPart(), seconds=1.0))}"

    def info(self, *, anew: bool = False) -> EngineInfo:
        """As mapped, with the voices the service lists; they are asked for once, or *anew*."""
        if self._known is None or anew:
            self._known = self._map.info(self._listed())
        return self._known

    def usage(self) -> Usage:
        """No account is mapped."""
        return Usage()

    def close(self) -> None:
        """Let the connections go."""
        self._calls.close()

    def _listed(self) -> tuple[VoiceInfo, ...]:
        part = self._map.speak.list if self._map.speak else None
        if part is None:
            return ()
        found: list[VoiceInfo] = []
        page: Any = None
        for _ in range(_MOST_PAGES):
            data = self._calls.got(part.path, part.query, {"page": page})
            for one in JsonPath(part.voices).of(data) or ():
                found.append(self._read(VoiceInfo, one))
            page = JsonPath(part.next).of(data) if part.next else None
            if not page:
                break
        return tuple(found)

    # speaking

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """Speak one line; it is heard as it comes where the body is the sound and the map says that it streams."""
        part: SpeakPart = self._part(Role.SPEAK)
        voice = self.info().voice(request.voice)
        values = self._speech_values(part, request)
        cost = self.info().price_of_speech(voice.id, request.tier).of(len(request.ssml))
        words: tuple[HeardWord, ...] = ()
        if part.sound != "body":
            data = self._calls.json(part, values)
            sound = self._sound_in(part, data)
            words = self._read(tuple[HeardWord, ...], JsonPath(part.words).of(data) or []) if part.words else ()
        elif hear is not None and part.streams:
            came = SoundAsItComes(hear, voice.sample_rate if part.sound_form == "pcm" else None)
            whole = bytearray()
            with self._calls.pieces(part, values) as pieces:
                for piece in pieces:
                    whole += piece
                    came.came(piece)
            sound = bytes(whole)
        else:
            sound = self._calls.body(part, values)
        samples = clip_from(sound, part.sound_form, voice.sample_rate, longest_s(request.ssml), self.name)
        return Speech(samples, words, cost)

    def _speech_values(self, part: SpeakPart, request: SpeechRequest) -> dict[str, Any]:
        own = next((one.values for one in part.voices if one.id == request.voice), {})
        return {
            "text": plain_text(request.ssml), "ssml": request.ssml, "voice": request.voice,
            "language": self._code(request.language), "direction": request.direction or None,
            "rate": request.rate, "pitch": request.pitch, "volume_db": request.volume_db, "seed": request.seed,
            "tier": request.tier or None, "attempt": request.attempt, **own,
        }  # fmt: skip

    def _sound_in(self, part: SpeakPart, data: Any) -> bytes:
        found = JsonPath(part.sound).of(data)
        if not isinstance(found, str) or not found:
            raise self._calls.lacks("sound", part.sound)
        if part.sound_as == "link":
            return self._linked(found)
        try:
            return base64.b64decode(found.partition(",")[2] if found.startswith("data:") else found, validate=True)
        except (binascii.Error, ValueError):
            raise BadAnswer("{who} answered with sound that is not base64.", who=self.name) from None

    def _linked(self, link: str) -> bytes:
        """What lies at a link. The token is shown at the service's own origin alone."""
        address = urljoin(self._map.address.rstrip("/") + "/", link)
        parts = urlsplit(address)
        path = parts.path + (f"?{parts.query}" if parts.query else "")
        if origin_of(address) == origin_of(self._map.address):
            return self._calls.http.ask("GET", f"{parts.scheme}://{parts.netloc}{path}").body
        if not origin_of(address).is_private:
            raise BadAnswer("{name} has its sound fetched without encryption; it was not fetched.", name=self.name)
        if is_local(origin_of(address).host) and not is_local(origin_of(self._map.address).host):
            raise BadAnswer("{name} has its sound fetched from this machine or its network.", name=self.name)
        elsewhere = HttpCaller(self.name, f"{parts.scheme}://{parts.netloc}", {}, self._waits, secret=False)
        try:
            return elsewhere.ask("GET", path).body
        finally:
            elsewhere.close()

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """It speaks one line at a time."""
        return tuple(self.speak(turn) for turn in request.turns)

    # translating

    def translate(self, request: TranslationRequest) -> Translation:
        """Translate all texts in one call, or each in its own where the map names one text."""
        part: TranslatePart = self._part(Role.TRANSLATE)
        asked = [(item,) for item in request.items] if self._map.takes_one_text else [request.items]
        items: list[Wordings] = []
        for texts in asked:
            values = self._translation_values(request, texts)
            items += self._wordings(part, self._calls.json(part, values), request, texts)
        cost = self.info().price.of(sum(len(item.text) for item in request.items))
        return Translation(checked_translation(request, Translation(tuple(items)), self.name).items, cost)

    def _translation_values(self, request: TranslationRequest, items: Any) -> dict[str, Any]:
        longest = items[0].longest_us
        return {
            "text": items[0].text, "texts": [item.text for item in items], "ids": [item.id for item in items],
            "items": [{"id": item.id, "text": item.text} for item in items],
            "terms": {term.source: term.target for term in request.terms},
            "source": self._code(request.source), "target": self._code(request.target),
            "wordings": request.wordings, "longest_s": longest / 1e6 if longest else None,
            "context": "\n".join(filter(None, (items[0].before, items[-1].after))) or None,
            "attempt": request.attempt, "about": _about(request), "situation": _situation(items[0]),
        }  # fmt: skip

    def _wordings(self, part: TranslatePart, data: Any, request: TranslationRequest, items: Any) -> list[Wordings]:
        if part.answer:
            return list(self._read(Translation, JsonPath(part.answer).of(data)).items)
        texts = JsonPath(part.texts).of(data)
        if isinstance(texts, str):
            texts = [texts]
        if not isinstance(texts, list) or len(texts) != len(items):
            count = len(texts) if isinstance(texts, list) else 0
            raise BadAnswer(
                "{name} wrote {lines} lines for {texts} texts.", name=self.name, lines=count, texts=len(items)
            )
        made = []
        for item, text in zip(items, texts, strict=True):
            said = [one for one in (text if isinstance(text, list) else [text]) if isinstance(one, str)]
            made.append(Wordings(item.id, tuple(map(Wording, said[: request.wordings])) or (Wording(""),)))
        return made

    # recognising

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Send the sound, wait for the job if it makes one, and read what was heard."""
        part: RecognisePart = self._part(Role.RECOGNISE)
        with TemporaryDirectory() as place:
            file = Path(place) / f"sound.{part.sound}"
            with file.open("wb") as opened:
                written_sound(sound, opened, part.sound, part.rate, lambda share: report(0.1 * share))
            inside = base64.b64encode(file.read_bytes()).decode() if "sound_base64" in places_in(part.call) else None
            values = {
                "sound": None, "sound_base64": inside, "language": self._code(question.languages[0]),
                "languages": [self._code(tag) for tag in question.languages], "hints": list(question.hints),
                "speakers": question.speakers, "attempt": question.attempt,
            }  # fmt: skip
            data = self._calls.json(
                part, values, lambda share: report(0.1 + 0.9 * share), file=file,
                sound_s=sound.length_samples / RATE,
            )  # fmt: skip
        cost = self.info().price.of(seconds=sound.length_samples / RATE)
        if part.answer:
            heard = self._read(Recognition, JsonPath(part.answer).of(data))
            return Recognition(heard.language, heard.probability, heard.segments, cost)
        said = JsonPath(part.language).of(data) if part.language else None
        language = self._tag(said, question.languages)
        return Recognition(language, None, self._segments(part, data), cost)

    def _segments(self, part: RecognisePart, data: Any) -> tuple[HeardSegment, ...]:
        if part.words:
            words = in_microseconds(JsonPath(part.words).of(data))  # a wrong path is no silence
            if not isinstance(words, list) or not all(isinstance(word, dict) for word in words):
                raise self._calls.lacks("words", part.words)
            heard = self._read(tuple[HeardWord, ...], words)
            return tuple(segments_of(heard, [str(word.get("speaker", "A")) for word in words]))
        found = in_microseconds(JsonPath(part.segments).of(data) if part.segments else None)
        if not isinstance(found, list):
            raise self._calls.lacks("segments", part.segments)
        return self._read(tuple[HeardSegment, ...], [{"speaker": "A", "words": [], **one} for one in found])

    # the rest

    def ask(self, request: ExtraRequest) -> Answered:
        """One of the other questions: its fields fill the call, the answer is put together by the map."""
        call = call_of(request)
        check_single_call(call, self.name)
        part: Asked = self._part(call.role)
        values = msgspec.json.decode(written(request))
        data = self._calls.json(part, values)
        answer: Answered = self._read(call.answer, JsonPath(part.answer).of(data) if part.answer else data)
        return answer

    def _part(self, role: Role) -> Any:
        return needed_part(self._map, role, self.name, self.path)

    def _read(self, kind: Any, data: Any) -> Any:
        try:
            return parsed(kind, msgspec.json.encode(in_microseconds(data)))
        except (ValueError, TypeError) as error:
            raise BadAnswer("{who} answered with {why}.", who=self.name, why=error) from None

    def _code(self, tag: str) -> str:
        """What the service calls a language."""
        codes = self._map.codes
        return codes.get(tag) or codes.get(language_of(tag)) or tag

    def _tag(self, said: Any, asked: tuple[str, ...]) -> str:
        """Our tag for what the service calls a language: that of the candidates which it is, else the first."""
        return next((tag for tag in asked if said in (self._code(tag), tag, language_of(tag))), asked[0])


def _about(request: TranslationRequest) -> str | None:
    """The notes on the programme, a line each."""
    about = request.about
    return "\n".join(filter(None, (about.subject, about.audience, about.notes))) or None if about else None


def _situation(item: TranslationItem) -> str | None:
    """Who says an item to whom and how, in a few words that are the same in every language of the desk."""
    one = item.situation
    if one is None:
        return None
    people = " to ".join(filter(None, (one.speaker, one.listener)))
    return ", ".join(filter(None, (people, one.address, one.direction, "" if one.on_screen else "off screen"))) or None
