"""The bundled voice, grown up: SSML, controls, directions, takes that vary, formants, durations, pitch contours."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.signal import lfilter

from helpers import speech
from zweistimme.engines.protocol import SpeechRequest
from zweistimme.engines.registry import engine
from zweistimme.project.times import RATE
from zweistimme.sound.pitch import median_pitch_hz, pitch_track
from zweistimme.standin.ipa import from_ipa
from zweistimme.standin.phones import PHONES
from zweistimme.standin.text import said_as, spoken_words
from zweistimme.standin.voice import DIRECTIONS, VOICES, Manner, Spoken, speak, speak_ssml, voice_by_id


def said(body: str, voice: str = "dario", tag: str = "en-GB", **more: object) -> Spoken:
    found = voice_by_id(voice)
    assert found is not None
    return speak_ssml(f"<speak>{body}</speak>", tag, found, **more)  # type: ignore[arg-type]


def length(spoken: Spoken) -> float:
    return spoken.words[-1][2] - spoken.words[0][1]


def level_db(samples: np.ndarray) -> float:
    return float(20 * np.log10(np.sqrt((samples.astype(np.float64) ** 2).mean())))


def test_eight_voices_that_differ() -> None:
    assert len(VOICES) == 8
    assert {voice.kind for voice in VOICES} == {"woman", "man", "child"}
    pitches = sorted(median_pitch_hz(speak("The sea came.", "en-GB", v).samples, RATE) or 0 for v in VOICES)
    assert pitches[0] < 110
    assert pitches[-1] > 250
    assert all(b / a > 1.03 for a, b in pairwise(pitches))


def test_rate_pitch_and_volume() -> None:
    plain = said("The harbour sleeps tonight.")
    fast = said("The harbour sleeps tonight.", manner=Manner(pace=1.5))
    assert length(plain) / length(fast) == pytest.approx(1.5, rel=0.05)
    slow = said('<prosody rate="50%">The harbour sleeps tonight.</prosody>')
    assert length(slow) / length(plain) == pytest.approx(2, rel=0.05)
    high = said('<prosody pitch="+4st">The harbour sleeps tonight.</prosody>')
    ratio = (median_pitch_hz(high.samples, RATE) or 0) / (median_pitch_hz(plain.samples, RATE) or 1)
    assert ratio == pytest.approx(2 ** (4 / 12), rel=0.03)
    quiet = said("The harbour sleeps tonight.", manner=Manner(volume_db=-12))
    assert level_db(plain.samples) - level_db(quiet.samples) == pytest.approx(12, abs=0.1)
    soft = said('Now <prosody volume="-12dB">softly softly softly</prosody> now.')
    at = [slice(round(a * RATE), round(b * RATE)) for _, a, b in soft.words]
    assert level_db(soft.samples[at[0]]) - level_db(soft.samples[at[2]]) > 6


def test_pauses_marks_and_emphasis_are_where_they_were_asked_for() -> None:
    spoken = said('One <break time="700ms"/>two <mark name="here"/>three.')
    (_, _, first_end), (_, second_start, second_end), _ = spoken.words
    assert second_start - first_end == pytest.approx(0.7, abs=0.01)
    assert spoken.marks == (("here", second_end),)
    plain, strong = (said(f"It <emphasis level='{level}'>never</emphasis> came.") for level in ("none", "strong"))
    assert strong.words[1][2] - strong.words[1][1] > 1.15 * (plain.words[1][2] - plain.words[1][1])


def test_how_things_are_said_can_be_given() -> None:
    assert said_as("BBC", "characters", "en")[0].said == ("bee", "bee", "see")
    assert said_as("2024", "digits", "de")[0].said == ("zwei", "null", "zwei", "vier")
    assert said_as("12", "ordinal", "en")[0].said == ("twelfth",)
    assert [w for w, _, _ in said('<sub alias="saint mary">St. M.</sub> Quay').words] == ["saint", "mary", "Quay"]
    assert from_ipa("ˈtʃɜːtʃ") == "tS 31 tS"
    spoken = said('<phoneme ph="taɪd">tide</phoneme> mill')
    assert [w for w, _, _ in spoken.words] == ["tide", "mill"]
    mixed = said('Hello <voice name="fenn">yes</voice> <lang xml:lang="de-DE">Uhr</lang>')
    assert [w for w, _, _ in mixed.words] == ["Hello", "yes", "Uhr"]


@pytest.mark.parametrize(
    ("text", "language", "words"),
    [
        ("At 18:04 it cost $5.50.", "en", "at eighteen oh four it cost five dollars fifty"),
        ("12% of 1,200 km", "en", "twelve percent of one thousand two hundred kilometres"),
        ("the 3rd", "en", "the third"),
        ("e.g. here", "en", "for example here"),
        ("Um 6:30 Uhr, z.B. 5,5 kg", "de", "um sechs uhr dreißig zum beispiel fünf komma fünf kilogramm"),
        ("30% de 1.000 €", "es", "treinta por ciento de mil euros"),
    ],
)
def test_numbers_times_units_and_abbreviations(text: str, language: str, words: str) -> None:
    heard = " ".join(part for word in spoken_words(text, language) for part in word.said)
    assert heard.replace(" and ", " ") == words


def test_takes_vary_with_their_seed_and_are_the_same_with_the_same() -> None:
    voice = VOICES[0]
    takes = [speak("And the sea came.", "en-GB", voice, seed=seed) for seed in (0, 1, 2, 1)]
    assert np.array_equal(takes[1].samples, takes[3].samples)
    assert len({len(take.samples) for take in takes[:3]}) == 3
    assert all(0.8 < length(take) / length(takes[0]) < 1.25 for take in takes)


def test_directions_change_the_voice() -> None:
    plain = said("I heard it go.", "alva")
    sounds = {direction: said("I heard it go.", "alva", direction=direction) for direction in DIRECTIONS}
    assert length(sounds["sad"]) > length(plain) > length(sounds["lively"])
    assert median_pitch_hz(sounds["whispering"].samples, RATE) is None
    high, low = (median_pitch_hz(sounds[d].samples, RATE) or 0 for d in ("laughing", "sad"))
    assert high > 1.1 * low


def formants_of(samples: np.ndarray) -> list[float]:
    """Formants in Hz by linear prediction at 12 kHz (Markel and Gray 1976)."""
    signal = lfilter([1, -0.9], [1], samples[::4].astype(np.float64)) * np.hamming(len(samples[::4]))
    correlation = np.correlate(signal, signal, "full")[len(signal) - 1 :][:15]
    matrix = correlation[np.abs(np.subtract.outer(np.arange(14), np.arange(14)))]
    weights = np.linalg.solve(matrix + 1e-9 * np.eye(14), correlation[1:])
    roots = np.roots(np.concatenate(([1], -weights)))
    return sorted(float(np.angle(r) * 12_000 / 2 / np.pi) for r in roots if r.imag > 0 and abs(r) > 0.8)


@pytest.mark.parametrize(
    ("ipa", "f1", "f2"), [("iː", 280, 2250), ("ɛ", 540, 1840), ("ɑː", 700, 1090), ("uː", 300, 900)]
)
def test_formant_tracks_reach_the_published_vowels(ipa: str, f1: float, f2: float) -> None:
    """Held vowels of a man against Peterson and Barney (1952), in their middle."""
    spoken = said(f'<prosody rate="0.4"><phoneme ph="ˈm{ipa}m">x</phoneme></prosody>')
    _, start, end = spoken.words[0]
    middle = round((start + end) / 2 * RATE)
    found = formants_of(spoken.samples[middle - 1500 : middle + 1500])
    assert min(abs(f - f1) for f in found) < max(0.2 * f1, 70)
    assert min(abs(f - f2) for f in found) < 0.16 * f2


def test_scale_moves_the_formants_of_a_child_up() -> None:
    body = '<prosody rate="0.4"><phoneme ph="ˈmɛm">x</phoneme></prosody>'
    tops = {}
    for name in ("dario", "fenn"):
        spoken = said(body, name)
        middle = round(sum(spoken.words[0][1:]) / 2 * RATE)
        tops[name] = np.mean([f for f in formants_of(spoken.samples[middle - 1500 : middle + 1500]) if 1400 < f < 2800])
    assert tops["fenn"] > 1.1 * tops["dario"]


def test_stressed_vowels_last_longer_and_sentences_end_as_their_marks_say() -> None:
    stressed = PHONES["i"].duration_ms * 1.12
    assert stressed > PHONES["i"].duration_ms * 0.78
    ends = {}
    for mark in ".?":
        track = pitch_track(said(f"And you{mark}").samples, RATE)
        voiced = track[np.isfinite(track)]
        ends[mark] = np.median(voiced[-6:]) / np.median(voiced)
    assert ends["."] < 0.95
    assert ends["?"] > 1.1


def test_word_marks_lie_where_the_words_sound() -> None:
    spoken = said('One <break time="400ms"/>two <break time="400ms"/>three')
    envelope = np.abs(spoken.samples)
    for _, start, end in spoken.words:
        inside = envelope[round(start * RATE) : round(end * RATE)].mean()
        assert inside > 0.02
    gap = envelope[round((spoken.words[0][2] + 0.05) * RATE) : round((spoken.words[1][1] - 0.05) * RATE)]
    assert gap.max() < 0.02


def test_a_request_says_the_same_as_the_voice_itself() -> None:
    spoken = engine().speak(SpeechRequest(speech("Hi there.", "en-GB", "hale").ssml, "en-GB", "hale", rate=1.2, seed=3))
    assert len(spoken.words) == 2
    assert spoken.words[-1].end_us <= len(spoken.samples) * 1_000_000 // RATE
