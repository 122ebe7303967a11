"""The bundled engines: what they can do, and what they must not do."""

from __future__ import annotations

import difflib
import json

import numpy as np
import pytest
from scipy.signal import lfilter

from helpers import speech
from zweistimme.demo.script import LINES, MEDIA, SOURCE, TARGETS, TRUTH, VOICE_OF, data_file
from zweistimme.engines.protocol import (
    Recognition,
    RecognitionQuestion,
    SoundSource,
    TranslationItem,
    TranslationRequest,
)
from zweistimme.engines.registry import engine, find_voice
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.errors import EngineError
from zweistimme.project.times import RATE
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.standin.recogniser import recognise
from zweistimme.standin.text import spoken_words
from zweistimme.standin.voice import VOICES, speak, voice_by_id

TAGS = (SOURCE, *TARGETS)


@pytest.mark.parametrize("voice", VOICES, ids=lambda voice: voice.id)
@pytest.mark.parametrize("tag", TAGS)
def test_every_voice_speaks_every_language(voice, tag: str) -> None:  # type: ignore[no-untyped-def]
    text = {"en-GB": "Good morning, 36 times.", "de-DE": "Guten Morgen, 36 Mal.", "es-ES": "Buenos días, 36 veces."}[
        tag
    ]
    spoken = speak(text, tag, voice)
    assert [word for word, _, _ in spoken.words] == text.split()
    edges = [edge for _, a, b in spoken.words for edge in (a, b)]
    assert edges == sorted(edges)
    assert edges[-1] <= len(spoken.samples) / RATE
    assert 0.3 < np.abs(spoken.samples).max() < 1.0
    pitch = median_pitch_hz(spoken.samples, RATE)
    assert pitch is not None
    assert abs(np.log2(pitch / voice.larynx.pitch_hz)) < 0.35


def test_the_same_request_gives_the_same_samples() -> None:
    voice = VOICES[0]
    first, again = (speak("Lift it now.", "en-GB", voice).samples for _ in range(2))
    assert np.array_equal(first, again)
    assert not np.array_equal(first, speak("Lift it now.", "en-GB", voice, seed=1).samples)


def test_a_whisper_has_no_pitch() -> None:
    spoken = speak("Listen, it is still ticking.", "en-GB", VOICES[2], direction="whispering")
    assert median_pitch_hz(spoken.samples, RATE) is None


def test_directions_are_not_spoken() -> None:
    plain = speak("Und wenn nicht?", "de-DE", VOICES[0])
    directed = speak("(laughing) Und wenn nicht?", "de-DE", VOICES[0])
    assert directed.words == plain.words


def test_vowels_have_their_formants() -> None:
    """First formants of a held vowel, by linear prediction, near those of the table for a man."""
    spoken = speak("Aah.", "es-ES", voice_by_id("dario"))  # type: ignore[arg-type]
    middle = spoken.samples[len(spoken.samples) // 2 :][: RATE // 20][::4].astype(np.float64)
    signal = lfilter([1, -0.9], [1], middle) * np.hamming(len(middle))
    correlation = np.correlate(signal, signal, "full")[len(signal) - 1 :][:15]
    matrix = correlation[np.abs(np.subtract.outer(np.arange(14), np.arange(14)))]
    weights = np.linalg.solve(matrix + 1e-9 * np.eye(14), correlation[1:])
    roots = np.roots(np.concatenate(([1], -weights)))
    formants = sorted(np.angle(r) * 12_000 / 2 / np.pi for r in roots if r.imag > 0 and abs(r) > 0.85)
    assert any(abs(f - 720) < 140 for f in formants)
    assert any(abs(f - 1320) < 220 for f in formants)


@pytest.mark.parametrize(
    ("text", "language", "said"),
    [
        ("1884", "en", "eighteen eighty four"),
        ("1884", "de", "achtzehnhundertvierundachtzig"),
        ("36", "es", "treinta y seis"),
        ("3.5", "en", "three point five"),
        ("1,200", "en", "one thousand two hundred"),
        ("Dr. Brandt", "de", "doktor brandt"),
    ],
)
def test_numbers_and_abbreviations_are_spelled_out(text: str, language: str, said: str) -> None:
    words = " ".join(part for word in spoken_words(text, language) for part in word.said)
    assert words.replace(" and ", " ") == said.replace(" and ", " ")


def test_requests_that_cannot_be_met() -> None:
    bundled = engine()
    with pytest.raises(EngineError, match="no voice nobody"):
        bundled.speak(speech("Hi", "en-GB", "nobody"))
    with pytest.raises(EngineError, match="do not speak ja-JP"):
        bundled.speak(speech("Hi", "ja-JP", "alva"))
    with pytest.raises(EngineError, match="does not know en-GB to ja-JP"):
        bundled.translate(TranslationRequest("en-GB", "ja-JP", ()))
    with pytest.raises(EngineError, match="no engine called other"):
        engine("other")
    with pytest.raises(EngineError, match="no voice nobody"):
        find_voice("nobody")


def heard_words(sound: np.ndarray) -> list[tuple[str, float, float]]:
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    heard = recognise(source, RecognitionQuestion((SOURCE,)), lambda _share: None).segments
    return [(w.text, w.start_us / 1e6, w.end_us / 1e6) for segment in heard for w in segment.words]


def truth_words() -> list[tuple[str, float, float]]:
    truth = json.loads(data_file(TRUTH).read_text())
    return [tuple(word) for line in truth["lines"] for word in line["words"]]


def matched(heard: list[tuple[str, float, float]]) -> tuple[float, np.ndarray]:
    """Share of the true words that were heard, and how far their edges are off."""
    truth = truth_words()
    matcher = difflib.SequenceMatcher(a=[w for w, _, _ in truth], b=[w for w, _, _ in heard], autojunk=False)
    pairs = [(truth[b.a + k], heard[b.b + k]) for b in matcher.get_matching_blocks() for k in range(b.size)]
    errors = np.array([abs(t[side] - h[side]) for t, h in pairs for side in (1, 2)])
    return len(pairs) / len(truth), errors


@pytest.fixture(scope="module")
def demo_sound() -> np.ndarray:
    return np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1).mean(axis=0)


def test_the_demo_is_recognised_with_its_bed(demo_sound: np.ndarray) -> None:
    share, errors = matched(heard_words(demo_sound))
    assert share > 0.97
    assert np.median(errors) < 0.06
    assert np.percentile(errors, 95) < 0.15


def test_it_hears_rather_than_knows(demo_sound: np.ndarray) -> None:
    """Cut the first ten seconds away, add noise: words are found at their new places."""
    random = np.random.default_rng(0)
    changed = demo_sound[10 * RATE : 40 * RATE] + 0.002 * random.standard_normal(30 * RATE).astype(np.float32)
    heard = heard_words(changed.astype(np.float32))
    clockmaker = [start for word, start, _ in heard if word == "clockmaker."]
    true = next(start for word, start, _ in truth_words() if word == "clockmaker.")
    assert clockmaker == [pytest.approx(true - 10, abs=0.1)]
    assert not [word for word, _, _ in heard if word == "Varnholm"]


def test_speech_outside_the_book_gets_no_words() -> None:
    texts = (
        "Der alte Mann ging langsam über die Brücke und sah den Booten zu.",
        "Niemand wusste, warum das Licht im Turm brannte.",
        "Heute gibt es frisches Brot, Butter und Honig zum Frühstück.",
        "Wir haben den ganzen Winter auf den ersten Schnee gewartet.",
    )
    parts = [np.append(speak(t, "de-DE", VOICES[k]).samples, np.zeros(RATE, np.float32)) for k, t in enumerate(texts)]
    noise = np.random.default_rng(0).standard_normal(sum(map(len, parts))).astype(np.float32)
    sound = 0.3 * np.concatenate(parts) + 0.002 * noise
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    heard = recognise(source, RecognitionQuestion((SOURCE,)), lambda _share: None).segments
    assert len(heard) >= 4
    assert sum(len(segment.words) for segment in heard) == 0


def heard_in(sound: np.ndarray, *languages: str, **more: object) -> Recognition:
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    return recognise(source, RecognitionQuestion(languages or (SOURCE,), **more), lambda _share: None)  # type: ignore[arg-type]


def spoken_row(*texts: str, voice: str = "dario", tag: str = SOURCE) -> np.ndarray:
    """Sentences one after the other over a little noise."""
    found = voice_by_id(voice)
    assert found is not None
    pause = np.zeros(RATE // 2, np.float32)
    parts = [part for text in texts for part in (speak(text, tag, found).samples, pause)]
    sound = 0.4 * np.concatenate(parts)
    return (sound + 0.002 * np.random.default_rng(1).standard_normal(len(sound))).astype(np.float32)


def test_the_language_is_told_among_candidates() -> None:
    german = spoken_row("Guten Morgen.", "Wie spät ist es?", "Das ist eine gute Frage.", voice="alva", tag="de-DE")
    for tag, sound in (("de-DE", german), ("en-GB", spoken_row("Good morning.", "What time is it?"))):
        heard = heard_in(sound, "es-ES", "en-GB", "de-DE")
        assert heard.language == tag
        assert heard.probability > 0.5


def test_hesitations_are_marked_and_no_words() -> None:
    sound = spoken_row("Um,", "Good morning.", "Uh,", "Careful, the steps are wet.", "Hm,")
    words = [word for segment in heard_in(sound).segments for word in segment.words]
    assert [word.text for word in words if word.filler] == ["Um", "Uh", "Hm"]
    assert " ".join(w.text for w in words if not w.filler) == "Good morning. Careful, the steps are wet."


def test_hints_can_be_recognised_and_speakers_be_given() -> None:
    text = "The cooper of Varnholm mends seven barrels."
    sound = spoken_row(text, "Good morning.")
    assert not any(w.text == "cooper" for s in heard_in(sound).segments for w in s.words)
    heard = heard_in(sound, hints=(text, "Ada"), speakers=1)
    assert " ".join(w.text for w in heard.segments[0].words) == text
    assert {segment.speaker for segment in heard.segments} == {"A"}


@pytest.mark.parametrize("noise_db", [20, 10, 5])
def test_noise_costs_few_words(demo_sound: np.ndarray, noise_db: float) -> None:
    level = np.sqrt((demo_sound**2).mean()) * 10 ** (-noise_db / 20)
    noise = level * np.random.default_rng(2).standard_normal(30 * RATE).astype(np.float32)
    words = heard_words(demo_sound[: 30 * RATE] + noise)
    wanted = [word for word, _, end in truth_words() if end < 29.5]
    same = difflib.SequenceMatcher(a=wanted, b=[w for w, _, _ in words], autojunk=False).ratio()
    assert same > 0.9


def test_silence_has_nobody() -> None:
    assert heard_words(np.zeros(5 * RATE, np.float32)) == []


def test_speakers_are_told_apart(demo_sound: np.ndarray) -> None:
    source = SoundSource(lambda start, count: demo_sound[start : start + count], len(demo_sound))
    heard = recognise(source, RecognitionQuestion((SOURCE,)), lambda _share: None).segments
    assert len(heard) == len(LINES)
    names: dict[str, str] = {}
    wrong = sum(names.setdefault(h.speaker, line.speaker) != line.speaker for h, line in zip(heard, LINES, strict=True))
    assert set(names.values()) == set(VOICE_OF)
    assert wrong <= 1


def translations(texts: list[str], target: str) -> list[tuple[str, ...]]:
    items = [TranslationItem(str(k), text) for k, text in enumerate(texts)]
    return [answer.texts for answer in engine().translate(TranslationRequest(SOURCE, target, tuple(items))).items]


def test_demo_lines_are_translated_with_shorter_wordings() -> None:
    for tag in TARGETS:
        answers = translations([line.text for line in LINES], tag)
        assert all(answers)
        assert all("⟦" not in text for texts in answers for text in texts)
        assert sum(len(texts) > 1 for texts in answers) >= 5
        assert all(len(texts[-1]) < len(texts[0]) for texts in answers if len(texts) > 1)
        name = answers[[line.text for line in LINES].index("In Varnholm nobody asks what time it is.")]
        assert "Varnholm" in name[0]


def test_unknown_words_are_marked_numbers_and_names_kept() -> None:
    ((text, *_),) = translations(["The old clock in Varnholm has 36 gizmos."], "de-DE")
    assert text == "Die alte Uhr in Varnholm hat 36 ⟦gizmos⟧."
