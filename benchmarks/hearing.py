"""How well the bundled recogniser hears: the demo, the demo with its sound changed, and speech outside its book."""

from __future__ import annotations

import difflib
import json
from dataclasses import dataclass

import numpy as np

from benchmarks.timing import Row, Rows
from zweistimme.demo.script import BED, LINES, MEDIA, SOURCE, TRUTH, VOICE_OF, data_file
from zweistimme.engines.protocol import Recognition, RecognitionQuestion, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.formats.ssml import Span
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.times import RATE
from zweistimme.standin.voice import VOICES, Manner, speak, speak_spans, voice_by_id

Words = list[tuple[str, float, float]]
FOREIGN = (
    "The weather turned before anybody had packed the tents.",
    "She paints small animals on the lids of wooden boxes.",
    "Forty people signed the letter and nobody answered it.",
    "A carpenter from the valley built this staircase alone.",
    "They will not sell the field as long as grandmother lives.",
    "Most of the apples were gone when the cart came back.",
    "He whistles the same four notes whenever he is nervous.",
    "Our neighbours keep geese, and the geese keep watch.",
    "If the lamp goes out, knock twice and wait for me.",
    "The library closes early on days when the market is open.",
)


@dataclass(frozen=True, slots=True)
class Score:
    """Word error as a share of the true words; boundary errors in ms; speakers mistaken for others."""

    word_error: float
    median_ms: float
    late_ms: float
    confused: int

    def __str__(self) -> str:
        return (
            f"{self.word_error:.1%} words wrong, edges {self.median_ms:.0f} ms (95 %: {self.late_ms:.0f} ms), "
            f"{self.confused} speakers"
        )


def heard(sound: np.ndarray) -> Recognition:
    """What the bundled recogniser hears."""
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    return engine().recognise(source, RecognitionQuestion((SOURCE,)), lambda _share: None)


def scored(sound: np.ndarray, truth: Words, speakers: list[str]) -> Score:
    """Against the true words, and who speaks each line."""
    answer = heard(sound)
    words = [(w.text, w.start_us / 1e6, w.end_us / 1e6) for s in answer.segments for w in s.words if not w.filler]
    matcher = difflib.SequenceMatcher(a=[w for w, _, _ in truth], b=[w for w, _, _ in words], autojunk=False)
    pairs = [(truth[m.a + k], words[m.b + k]) for m in matcher.get_matching_blocks() for k in range(m.size)]
    edges = np.array([abs(t[side] - h[side]) for t, h in pairs for side in (1, 2)]) * 1000
    wrong = len(truth) - len(pairs) + max(0, len(words) - len(pairs))
    names: dict[str, str] = {}
    with_words = [segment for segment in answer.segments if segment.words]
    confused = sum(names.setdefault(s.speaker, n) != n for s, n in zip(with_words, speakers, strict=False))
    return Score(wrong / len(truth), float(np.median(edges)), float(np.percentile(edges, 95)), confused)


def demo_sound() -> np.ndarray:
    """The demo as it ships, one channel."""
    return np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1).mean(axis=0)


def spoken_again(cast: dict[str, str], pace: float = 1.0) -> tuple[np.ndarray, Words]:
    """The demo's dialogue over its bed, by other voices or at another pace; and its true words."""
    bed = np.concatenate(list(decoded_blocks(data_file(BED), DecodeNotes())), axis=1).mean(axis=0)
    sound = np.concatenate((bed, np.zeros(20 * RATE, np.float32)))
    truth: Words = []
    end = 0.0
    for line in LINES:
        voice = voice_by_id(cast[line.speaker])
        assert voice is not None
        spoken = speak_spans([Span(line.text)], SOURCE, voice, direction=line.direction, manner=Manner(pace=pace))
        first, last = spoken.words[0][1], spoken.words[-1][2]
        start = end + line.gap_s
        truth += [(w, a + start - first, b + start - first) for w, a, b in spoken.words]
        end = start + last - first
        place = round((start - first) * RATE)
        sound[place : place + len(spoken.samples)] += 0.35 * spoken.samples
    return sound[: round((end + 2) * RATE)], truth


def hearing() -> Rows:
    """Word error, timing and speaker errors."""
    sound = demo_sound()
    truth = [(w, a, b) for line in json.loads(data_file(TRUTH).read_text())["lines"] for w, a, b in line["words"]]
    speakers = [line.speaker for line in LINES]
    yield Row("the demo with its bed", str(scored(sound, truth, speakers)), "wanted: 3 %, 60 ms, 150 ms, 1")
    level = np.sqrt((sound**2).mean())
    for noise_db in (20, 10, 5):
        noise = level * 10 ** (-noise_db / 20) * np.random.default_rng(1).standard_normal(len(sound))
        yield Row(
            f"noise at {noise_db} dB", str(scored((sound + noise).astype(np.float32), truth, speakers)), "the demo"
        )
    for pace in (0.9, 1.1):
        again, words = spoken_again(VOICE_OF, pace)
        yield Row(f"pace {pace}", str(scored(again, words, speakers)), "the demo")
    for voice in VOICES:
        again, words = spoken_again(dict.fromkeys(VOICE_OF, voice.id))
        yield Row(f"all by {voice.name}", str(scored(again, words, ["one"] * len(LINES))), "the demo")
    yield Row("speech outside the book", foreign(), "wanted: at most 1 a minute")


def foreign() -> str:
    """False words a minute in English that is not in the book, by every voice."""
    pause = np.zeros(RATE, np.float32)
    parts = [part for k, text in enumerate(FOREIGN * 2)
             for part in (speak(text, SOURCE, VOICES[k % len(VOICES)]).samples, pause)]  # fmt: skip
    sound = 0.4 * np.concatenate(parts)
    noise = 0.002 * np.random.default_rng(0).standard_normal(len(sound))
    false = sum(not w.filler for s in heard((sound + noise).astype(np.float32)).segments for w in s.words)
    minutes = len(sound) / RATE / 60
    return f"{false / minutes:.1f} false words a minute in {minutes:.1f} min"
