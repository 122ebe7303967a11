"""When each sound is spoken and at what pitch: phones laid out in time, with stress, phrasing and intonation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from zweistimme.formats.ssml import Span
from zweistimme.sound.arrays import Floats
from zweistimme.standin.ipa import from_ipa
from zweistimme.standin.letters import transcribed
from zweistimme.standin.phones import PHONES, Manner, Sounded, expanded
from zweistimme.standin.text import SpokenWord, language_of, said_as, spoken_words

_WEAK: Final = {
    "en": "a an the of to in on at and or but it its is was be as he she we you i his her that this do has for with by",
    "de": "der die das den dem des ein eine einen einem und oder in im am an auf zu zum es er sie wir ist hat mit vor",
    "es": "el la los las un una y o de del a al en que se lo le me mi su con por es no antes",
}
_BURST_S, _BREATH_S = 0.014, 0.032
_ACCENT_SEMITONES: Final = 3.2
_KNOWN: Final = ("en", "de", "es")


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch with constant targets, in seconds. Levels are in dB, None for silence; *pitch* is a factor."""

    start: float
    end: float
    sound: Sounded
    voice_db: float | None
    noise_db: float | None
    breath_db: float | None
    pitch: float = 1.0
    gain_db: float = 0.0


@dataclass(frozen=True, slots=True)
class Accent:
    """A pitch movement: semitones at a time, over a width in seconds."""

    time: float
    semitones: float
    width: float


@dataclass(frozen=True, slots=True)
class Utterance:
    """Everything the synthesizer needs. *words* are (written, start, end) in seconds."""

    pieces: tuple[Piece, ...]
    words: tuple[tuple[str, float, float], ...]
    accents: tuple[Accent, ...]
    phrases: tuple[tuple[float, float, str], ...]
    duration: float
    marks: tuple[tuple[str, float], ...] = ()


class _Layout:
    """Puts sounds one behind the other, in the manner of the span they belong to."""

    def __init__(self, pace: float, range_: float) -> None:
        self.range = range_
        self.time = 0.05
        self.pieces: list[Piece] = []
        self.words: list[tuple[str, float, float]] = []
        self.accents: list[Accent] = []
        self.phrases: list[tuple[float, float, str]] = []
        self.marks: list[tuple[str, float]] = []
        self._pace, self._manner = pace, Span()
        self._phrase_start = self.time

    @property
    def pace(self) -> float:
        return self._pace * self._manner.rate

    def change(self, manner: Span) -> None:
        """Speak what follows in another manner."""
        self._manner = manner

    def silence(self, seconds: float) -> None:
        sound = Sounded("_", PHONES["_"], 0, -1)
        self._add(seconds, sound, None, None, None)

    def pause(self, seconds: float) -> None:
        """A pause that was asked for; the phrase before it ends there, and a shorter pause of its mark counts in."""
        if self.pieces and self.pieces[-1].sound.word == -1:
            before = self.pieces.pop()
            seconds, self.time = max(seconds, before.end - before.start), before.start
        elif self.words and self.time > self._phrase_start:
            self.phrases.append((self._phrase_start, self.time, ","))
        self.silence(seconds)
        self._phrase_start = self.time

    def _add(
        self, seconds: float, sound: Sounded, voice: float | None, noise: float | None, breath: float | None
    ) -> None:
        manner = self._manner
        piece = Piece(self.time, self.time + seconds, sound, voice, noise, breath, manner.pitch, manner.volume_db)
        self.pieces.append(piece)
        self.time += seconds

    def say(self, word: SpokenWord, sounds: list[Sounded], *, weak: bool, last: bool) -> None:
        start, emphasis = self.time, self._manner.emphasis
        weak = (weak or emphasis < 0) and emphasis <= 0
        vowels = [place for place, s in enumerate(sounds) if s.phone.manner is Manner.VOWEL]
        for place, sound in enumerate(sounds):
            stretch = _length_factor(sound, weak=weak, final=last and bool(vowels) and place >= vowels[-1])
            seconds = sound.phone.duration_ms / 1000 * stretch / self.pace * (1 + 0.12 * emphasis)
            if sound.stress and not weak and sound.phone.manner is Manner.VOWEL:
                semitones = _ACCENT_SEMITONES * (1 + 0.45 * emphasis)
                self.accents.append(Accent(self.time + 0.4 * seconds, semitones, 0.09))
            self._sound(seconds, sound)
        self.words.append((word.written, start, self.time))
        if word.pause_ms:
            self.phrases.append((self._phrase_start, self.time, word.ends))
            self.silence(word.pause_ms / 1000 / self.pace)
            self._phrase_start = self.time

    def _sound(self, seconds: float, sound: Sounded) -> None:
        phone = sound.phone
        if phone.manner is not Manner.STOP or phone.burst_db is None:
            self._add(seconds, sound, phone.voice_db, phone.noise_db, phone.breath_db)
            return
        self._add(seconds, sound, phone.voice_db, None, None)
        self._add(_BURST_S, sound, phone.voice_db, phone.burst_db, None)
        if phone.breath_db is not None:
            self._add(_BREATH_S / self.pace, sound, None, phone.burst_db - 14, phone.breath_db)

    def finished(self) -> Utterance:
        if self.words and (not self.phrases or self.phrases[-1][1] < self.words[-1][2]):
            self.phrases.append((self._phrase_start, self.words[-1][2], "."))
        self.silence(0.08)
        return Utterance(
            tuple(self.pieces),
            tuple(self.words),
            tuple(self.accents),
            tuple(self.phrases),
            self.time,
            tuple(self.marks),
        )


def _length_factor(sound: Sounded, *, weak: bool, final: bool) -> float:
    factor = 1.3 if final else 1.0
    if sound.phone.manner is Manner.VOWEL:
        factor *= 1.12 if sound.stress and not weak else 0.78
    return factor * (0.88 if weak else 1.0)


def laid_out(spans: Sequence[Span], language: str, *, pace: float, range_: float) -> Utterance:
    """*spans* as an utterance; *pace* multiplies the tempo, *range_* the pitch movements."""
    layout = _Layout(pace, range_)
    for number, span in enumerate(spans):
        if span.mark:
            layout.marks.append((span.mark, layout.time))
        elif span.break_ms is not None:
            if number < len(spans) - 1:
                layout.pause(span.break_ms / 1000)
        else:
            layout.change(span)
            spoken = language_of(span.language) if span.language else language
            _say(layout, span, spoken if spoken in _KNOWN else language)
    layout.change(Span())
    if layout.phrases and layout.words:
        _drop_last_pause(layout)
    return layout.finished()


def _say(layout: _Layout, span: Span, language: str) -> None:
    if span.phonemes:
        said = span.text or span.phonemes
        sounds = expanded(from_ipa(span.phonemes), len(layout.words), aspirated=language != "es")
        layout.say(SpokenWord(" ".join(said.split()), (said,)), sounds, weak=False, last=False)
        return
    words = said_as(span.text, span.say_as, language) if span.say_as else spoken_words(span.text, language)
    weak_words = set(_WEAK.get(language, "").split())
    for place, word in enumerate(words):
        sounds = []
        for said in word.said:
            sounds += expanded(transcribed(said, language), place, aspirated=language != "es")
        weak = word.said[-1] in weak_words
        last = bool(word.pause_ms) or place == len(words) - 1
        layout.say(word, sounds, weak=weak and not last, last=last)


def _drop_last_pause(layout: _Layout) -> None:
    """The mark at the very end makes an intonation, not a silence."""
    if layout.pieces and layout.pieces[-1].sound.word == -1:
        last = layout.pieces.pop()
        layout.time = last.start


def pitch_curve(utterance: Utterance, times: Floats, *, base_hz: float, range_: float) -> Floats:
    """Pitch in Hz at *times*: each phrase declines, accents rise, the end falls, rises or hangs by its mark."""
    semitones = np.zeros_like(times)
    for start, end, mark in utterance.phrases:
        inside = (times >= start - 0.02) & (times <= end + 0.05)
        share = np.clip((times - start) / max(end - start, 0.2), 0, 1)
        semitones = np.where(inside, 2.0 - 4.0 * share, semitones)
        tail = np.clip((times - (end - 0.28)) / 0.28, 0, 1) * inside
        semitones += tail * {"?": 7.0, ",": 2.5, "!": -2.0}.get(mark, -4.0)
    for accent in utterance.accents:
        near = np.exp(-0.5 * ((times - accent.time) / accent.width) ** 2)
        semitones += accent.semitones * near
    ends = [piece.end for piece in utterance.pieces]
    index = np.clip(np.searchsorted(ends, times, side="right"), 0, len(ends) - 1)
    manner = np.array([piece.pitch for piece in utterance.pieces])[index]
    return np.asarray(manner * base_hz * 2 ** (range_ * semitones / 12))
