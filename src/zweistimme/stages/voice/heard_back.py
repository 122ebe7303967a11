"""Takes heard back: is every word of a line in its take, once and clearly?

Two ears listen. A recogniser that writes what it hears is compared with the wording, word by word; and the take is laid
over the same words spoken by a voice of the desk (``sound/word_check.py``), which finds what was swallowed even where a
recogniser guesses well, and says nothing of voices unlike its own. The bundled recogniser knows whole phrases only, and
is not asked.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from pathlib import Path
from typing import Final

import msgspec
import numpy as np

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import Cost, EngineInfo, Role
from zweistimme.engines.protocol import Engine, HeardWord, RecognitionQuestion, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.media.atomic import written_text
from zweistimme.project.access import find_version
from zweistimme.project.errors import EditError, EngineError, StoreError
from zweistimme.project.facts import chosen_take, fingerprint, spoken_segments, take_is_stale
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_of, spoken_tag
from zweistimme.project.model import Line, Project, Take, Version
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.terms import rendering_in
from zweistimme.project.times import RATE, samples_to_us, seconds_to_us
from zweistimme.project.writing import spoken_text, words_in
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Mono
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.word_check import WordState, check_words
from zweistimme.stages.answers import LineToSpeak, spoken_line
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.recognitions import Piece, recognised
from zweistimme.stages.reference_voice import voice_of_language
from zweistimme.stages.work import Work

_WEIGHTY: Final = 3.0
"""A name or a number that is wrong is worse than any other word."""
_METHOD: Final = 2
"""Counted up when takes are judged otherwise than before."""


@dataclass(frozen=True, slots=True)
class WordHeard:
    """A word of a line and how it is in the take, ``[start_us, end_us)`` in take time; *heard* is what was heard in its
    place, where that is known."""

    text: str
    start_us: int
    end_us: int
    state: WordState = WordState.CLEAR
    heard: str = ""


@dataclass(frozen=True, slots=True)
class TakeHeard:
    """A take heard back: *score* is how much of the line is there, 0 to 100, names and numbers counted more."""

    segment_id: str
    take_id: str
    number: int
    text: str
    score: float
    words: tuple[WordHeard, ...]

    @property
    def faults(self) -> tuple[WordHeard, ...]:
        """The words that are not clear."""
        return tuple(word for word in self.words if word.state is not WordState.CLEAR)


Took = Callable[[TakeHeard], None]


def takes_to_hear(
    project: Project, tag: str, segment_ids: Iterable[str] | None = None, *, every: bool = False
) -> list[tuple[int, Line, Take]]:
    """Lines with the chosen take (or, with *every*, each take) that says what they say now, with their numbers; stale
    ones are made anew before anybody listens."""
    version = find_version(project, tag)
    wanted = None if segment_ids is None else set(segment_ids)
    found = []
    for number, segment in enumerate(spoken_segments(project), 1):
        line = version.lines.get(segment.id)
        if line is None or (wanted is not None and segment.id not in wanted):
            continue
        takes = _takes(version, line, every=every)
        found += [(number, line, take) for take in takes if not take_is_stale(project, version, segment, line, take)]
    return found


def _takes(version: Version, line: Line, *, every: bool) -> list[Take]:
    chosen = chosen_take(version, line)
    if not every:
        return [chosen] if chosen else []
    return takes_of(version, (line.segment_id,))


def hear_back(
    work: Work,
    tag: str,
    segment_ids: Iterable[str] | None = None,
    took: Took = lambda _heard: None,
    *,
    every: bool = False,
) -> list[TakeHeard]:
    """Takes of a version heard back, each given to *took* as it is there; all of them, the worst first. What was heard
    before is not heard again; a take that cannot be heard is said and stops no other. EditError where nobody can hear
    this language."""
    todo = takes_to_hear(work.project, tag, segment_ids, every=every)
    ears = _Ears(work, tag)
    found, strange = [], 0
    for done, (number, line, take) in enumerate(todo):
        try:
            heard = ears.heard(number, line, take)
        except (EngineError, StoreError) as error:
            work.say(Finding("take-not-heard", {"line": number, "why": str(error)}))
        else:
            if heard is None:
                strange += 1
            else:
                found.append(heard)
                took(heard)
        work.report((done + 1) / len(todo))
    if strange:
        work.say(Finding("takes-not-comparable", {"takes": strange, "language": tag}))
    return sorted(found, key=lambda one: one.score)


def cost_of_hearing(project: Project, tag: str, segment_ids: Iterable[str] | None, info: EngineInfo) -> Cost:
    """What a recogniser will charge at most for the takes of lines."""
    takes = [take for _, _, take in takes_to_hear(project, tag, segment_ids)]
    return info.price.of(seconds=sum(take.speech_end_samples - take.speech_start_samples for take in takes) / RATE)


class _Ears:
    """Who listens to a version."""

    def __init__(self, work: Work, tag: str) -> None:
        self._work, self._tag = work, tag
        name = engine_for(work.project, Role.RECOGNISE, tag)
        known = engine(name).info().recognises if name != BUNDLED else ()
        able = language_of(tag) in {language_of(one) for one in known}
        self._recogniser: Engine | None = engine(name) if able else None
        voice = voice_of_language(work.project, tag)
        self._reference = voice if voice and voice[0].info().price.of(1).amount == 0 else None
        if self._recogniser is None and self._reference is None:
            raise EditError(
                "Nobody here can hear {tag}: no recogniser for it is chosen, and no free voice speaks it to compare "
                "with. Choose an engine that recognises it.",
                tag=tag,
            )
        self._weighty = _weighty_words(work.project, tag)

    def heard(self, number: int, line: Line, take: Take) -> TakeHeard | None:
        """One take, as it was heard before if it was; None where no ear can say anything of it."""
        text = spoken_text(line.text).strip()
        file = self._file(text, take)
        words = _kept(file)
        if words is None:
            words = self._listen(text, take)
            file.parent.mkdir(exist_ok=True)
            written_text(file, msgspec.json.encode(words).decode())
        return TakeHeard(line.segment_id, take.id, number, text, self._score(words), words) if words else None

    def _file(self, text: str, take: Take) -> Path:
        asked = self._recogniser.identity if self._recogniser else ""
        speaks = self._reference[0].info().version if self._reference else ""
        return self._work.cache / "heard" / f"{fingerprint('heard', _METHOD, take.clip, text, asked, speaks)}.json"

    def _listen(self, text: str, take: Take) -> tuple[WordHeard, ...]:
        samples = self._work.clips.get(take.clip)[take.speech_start_samples : take.speech_end_samples]
        words = self._compared(text, samples) if self._reference is not None else ()
        if self._recogniser is not None:
            written = words or tuple(WordHeard(word, 0, 0) for word in words_in(text, self._tag))
            words = self._recognised(written, samples, take)
        shift = samples_to_us(take.speech_start_samples)
        return tuple(replace(one, start_us=one.start_us + shift, end_us=one.end_us + shift) for one in words)

    def _compared(self, text: str, samples: Mono) -> tuple[WordHeard, ...]:
        assert self._reference is not None
        asked, voice = self._reference
        language = next(one for one in voice.languages if language_of(one) == language_of(self._tag))
        said = pronunciations_of(self._work.project, self._tag)
        speech = spoken_line(self._work, asked, LineToSpeak(text, voice.id, language, said=said))
        edges = clip_speech(speech.samples, RATE)
        reference = speech.samples[edges.start : edges.end]
        start_s = edges.start / RATE
        marks = [(max(0.0, w.start_us / 1e6 - start_s), w.end_us / 1e6 - start_s) for w in speech.words]
        checked = check_words(_low(samples), _low(reference), marks)
        # a word that is said like another is shown as it is written, where both count their words alike
        written, spoken = words_in(text, self._tag), [word.text for word in speech.words]
        texts = written if len(written) == len(spoken) else spoken
        pairs = zip(texts, checked, strict=True) if checked else ()
        return tuple(
            WordHeard(word, seconds_to_us(one.start_s), seconds_to_us(one.end_s), one.state) for word, one in pairs
        )

    def _recognised(self, words: Sequence[WordHeard], samples: Mono, take: Take) -> tuple[WordHeard, ...]:
        assert self._recogniser is not None
        source = SoundSource(lambda start, count: samples[start : start + count], len(samples))
        piece = Piece(source, f"{take.clip}:{take.speech_start_samples}:{take.speech_end_samples}")
        question = RecognitionQuestion((spoken_tag(self._tag),), speakers=1)
        (answer,) = recognised(replace(self._work, report=lambda _share: None), self._recogniser, [piece], question)
        return against_recognised(words, [word for one in answer.segments for word in one.words if not word.filler])

    def _score(self, words: Sequence[WordHeard]) -> float:
        weights = [_WEIGHTY if self._is_weighty(word.text) else 1.0 for word in words]
        clear = sum(w for w, word in zip(weights, words, strict=True) if word.state is WordState.CLEAR)
        return round(100 * clear / sum(weights), 1) if words else 100.0

    def _is_weighty(self, word: str) -> bool:
        return any(letter.isdigit() for letter in word) or plain_word(word) in self._weighty


def against_recognised(words: Sequence[WordHeard], heard: Sequence[HeardWord]) -> tuple[WordHeard, ...]:
    """The words of a line beside those that a recogniser wrote: what it did not hear is missing, what it heard for
    another word is mumbled, and what it heard besides is doubled or added. A word that is written in two is one."""
    ours, theirs = [plain_word(word.text) for word in words], [plain_word(word.text) for word in heard]
    found: list[WordHeard] = []
    for kind, a, b, c, d in SequenceMatcher(None, ours, theirs, autojunk=False).get_opcodes():
        same = kind == "equal" or "".join(ours[a:b]) == "".join(theirs[c:d])
        said = heard[c:d]
        if same and b - a == d - c:
            timed = zip(words[a:b], said, strict=True)
            found += [_at(word, other) if not word.end_us else word for word, other in timed]
        elif same:
            found += words[a:b]
        elif kind == "delete":
            found += [replace(word, state=WordState.MISSING) for word in words[a:b]]
        elif kind == "replace":
            as_heard = " ".join(word.text for word in said)
            found += [_worse(word, WordState.MUMBLED, as_heard) for word in words[a:b]]
        else:
            for word in said:
                again = plain_word(word.text) in (ours[a - 1 : a] + ours[a : a + 1])
                state = WordState.DOUBLED if again else WordState.ADDED
                found.append(WordHeard(word.text, word.start_us, word.end_us, state, word.text))
    return tuple(found)


def _at(word: WordHeard, heard: HeardWord) -> WordHeard:
    return replace(word, start_us=heard.start_us, end_us=heard.end_us)


def _worse(word: WordHeard, state: WordState, heard: str) -> WordHeard:
    return replace(word, state=state if word.state is WordState.CLEAR else word.state, heard=heard)


def plain_word(word: str) -> str:
    """A word as two people who write it differently would agree on: without case, marks and punctuation.

    >>> plain_word("«Fährmann,»"), plain_word("12")
    ('fahrmann', '12')
    """
    parts = unicodedata.normalize("NFKD", word.casefold())
    return "".join(letter for letter in parts if letter.isalnum())


def _weighty_words(project: Project, tag: str) -> frozenset[str]:
    """The words of names and terms."""
    renderings = (rendering_in(term, tag).text for term in project.terms.values())
    return frozenset(plain_word(word) for text in renderings for word in words_in(text, tag)) - {""}


def _kept(file: Path) -> tuple[WordHeard, ...] | None:
    try:
        return msgspec.json.decode(file.read_bytes(), type=tuple[WordHeard, ...])
    except (OSError, msgspec.MsgspecError):
        return None


def _low(samples: Mono) -> Mono:
    import soxr

    return np.asarray(soxr.resample(samples, RATE, LOW_RATE, "HQ"), dtype=np.float32)
