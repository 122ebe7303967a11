"""Scripts and sound, without a project: another voice says what the template voice says."""

from functools import cache

import numpy as np
import pytest
import soxr

from zweistimme.sound.script_align import align, align_one
from zweistimme.sound.script_edges import to_the_speech, word_frames
from zweistimme.sound.script_features import Match, first_ear, learned_ear, spectra_at_16k, template_of
from zweistimme.sound.script_path import Found, Heard
from zweistimme.sound.script_sureness import SURE, doubt_of, least_among
from zweistimme.standin.voice import speak, voice_by_id

RATE = 16_000
SAID = (
    "The ferry leaves at seven in the morning.",
    "Nobody asked the clockmaker about it.",
    "We counted every boat in the harbour.",
    "Bring the lantern with you.",
    "It rained for three days and three nights.",
    "Her brother sells bread behind the church.",
    "The tide turns twice a day.",
    "Somebody has moved the bell.",
)
UNSPOKEN = "Thirty letters lay on the kitchen table."


@cache
def spoken(text, voice):
    said = speak(text, "en-GB", voice_by_id(voice))
    sound = soxr.resample(said.samples, 48_000, RATE, "HQ").astype(np.float32)
    first = said.words[0][1]
    return sound[round(first * RATE) : round(said.words[-1][2] * RATE)], [
        (a - first, b - first) for _, a, b in said.words
    ]


def template(text):
    return template_of(*spoken(text, "hale"))


def programme(texts=SAID, voice="edda", noise=1e-4, gap_s=0.5):
    random = np.random.default_rng(5)
    parts, spans, at = [np.zeros(RATE // 2)], [], 0.5
    for text in texts:
        sound = spoken(text, voice)[0]
        spans.append((at, at + len(sound) / RATE))
        parts += [sound, np.zeros(round(gap_s * RATE))]
        at += len(sound) / RATE + gap_s
    whole = np.concatenate(parts)
    return (whole + noise * random.standard_normal(len(whole))).astype(np.float32), spans


def aligned(sound, spans, script):
    def spectra(start, end):
        return spectra_at_16k(sound[round(start * RATE) : round(end * RATE)])

    shares = []
    placed = align(spectra, len(sound) / RATE, spans, [template(text) for text in script], shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    return {script[one.sentence]: one for one in placed}


@pytest.mark.parametrize("noise", [1e-4, 0.006])
def test_another_voice_is_found_and_what_it_does_not_say_is_not(noise):
    sound, spans = programme(noise=noise)
    script = [*SAID[:3], UNSPOKEN, *SAID[3:]]
    found = aligned(sound, spans, script)
    assert UNSPOKEN not in found or found[UNSPOKEN].sureness <= SURE
    for text, (start, end) in zip(SAID, spans, strict=True):
        assert abs(found[text].times_s[0] - start) < 0.12
        assert abs(found[text].times_s[-1] - end) < 0.12
        words = found[text].words_s
        assert len(words) == len(text.split())
        assert (words[:, 1] >= words[:, 0]).all()
        assert (words[1:, 0] >= words[:-1, 1] - 1e-9).all()


def test_speech_that_is_not_written_does_not_move_the_rest():
    sound, spans = programme([*SAID[:4], UNSPOKEN, *SAID[4:]])
    found = aligned(sound, spans, list(SAID))
    for text, (start, _) in zip(SAID, [*spans[:4], *spans[5:]], strict=True):
        assert abs(found[text].times_s[0] - start) < 0.12


def test_of_two_places_that_say_the_same_neither_is_sure():
    sound, spans = programme([*SAID[:4], SAID[3], *SAID[4:]])
    found = aligned(sound, spans, list(SAID))
    assert found[SAID[3]].sureness <= SURE
    assert min(abs(found[SAID[3]].times_s[0] - spans[k][0]) for k in (3, 4)) < 0.12
    others = [one.sureness for text, one in found.items() if text != SAID[3]]
    assert min(others) > SURE


def test_one_sentence_in_its_surroundings():
    sound, spans = programme()
    start, end = spans[3]

    def spectra(a, b):
        return spectra_at_16k(sound[round(a * RATE) : round(b * RATE)])

    others = [template(text) for text in SAID[:3]]
    placed = align_one(spectra, start - 0.4, end + 0.4, template(SAID[3]), others)
    assert placed is not None
    assert abs(placed.times_s[0] - start) < 0.1


def test_an_ear_learns_the_channel_even_where_there_is_noise():
    """What a band is louder by is found again, but for bands that are all noise."""
    sound, spans = programme(noise=0.004)
    spectra = spectra_at_16k(sound)
    brighter = spectra + np.linspace(-1, 1, 32)
    templates = [template(text) for text in SAID]
    matches = [[], []]
    for row, heard in zip(matches, (spectra, brighter), strict=True):
        for one, (start, _) in zip(templates, spans, strict=True):
            part = heard[round(start / 0.02) :][: one.states]
            row.append(Match(part, one, np.arange(len(part))))
    ears = [
        learned_ear(first_ear(x, templates), m, templates) for x, m in zip((spectra, brighter), matches, strict=True)
    ]
    apart = ears[1].room.channel - ears[0].room.channel
    heard = ears[0].room.open
    assert heard.sum() > 5
    np.testing.assert_allclose(apart[heard], np.linspace(-1, 1, 32)[heard], atol=0.35)


def test_few_matches_teach_nothing():
    sound, _ = programme(SAID[:1])
    spectra, one = spectra_at_16k(sound), template(SAID[0])
    ear = first_ear(spectra, [one])
    assert learned_ear(ear, [Match(spectra[: one.states], one, np.arange(one.states))], [one]) is ear


def heard_with_speech(*spans, length=100):
    silence = np.full(length, 0.25, dtype=np.float32)
    for a, b in spans:
        silence[a:b] = 2.0
    return Heard(np.zeros((length, 26), np.float32), silence, silence)


def test_edges_go_to_the_end_of_the_speech_over_the_gap_before_a_burst():
    heard = heard_with_speech((20, 50), (54, 57), (80, 95))
    audible = np.ones(25, dtype=bool)
    moved = to_the_speech(heard, Found(0, np.linspace(23, 48, 26)), (0, 100), audible).frames
    assert (moved[0], moved[-1]) == (20, 57)
    assert (np.diff(moved) >= 0).all()
    beside = to_the_speech(heard, Found(0, np.linspace(23, 48, 26)), (0, 52), audible).frames
    assert beside[-1] == 50  # what follows belongs to the next sentence


def test_what_noise_covers_at_the_edges_is_part_of_a_sentence_and_of_its_words():
    """An s that the voice begins with and nobody hears here; but not into the sentence before."""
    heard = heard_with_speech((30, 60))
    audible = np.ones(30, dtype=bool)
    audible[:6] = audible[27:] = False
    found = Found(0, np.linspace(30, 60, 31))
    moved = to_the_speech(heard, found, (0, 100), audible).frames
    assert (moved[0], moved[-1]) == (24, 63)
    beside = to_the_speech(heard, found, (28, 100), audible).frames
    assert beside[0] == 28
    words = word_frames(
        np.arange(0.0, 41.0), ((0, 18), (18, 40)), heard_with_speech((0, 15), (25, 40)).spoken, covered()
    )
    np.testing.assert_array_equal(words, [[0, 15], [21, 40]])


def covered():
    """Forty states, of which the first four of the second word are not heard."""
    audible = np.ones(40, dtype=bool)
    audible[18:22] = False
    return audible


def test_speech_that_goes_on_beyond_reach_moves_no_edge():
    heard = heard_with_speech((0, 100))
    found = Found(0, np.linspace(40, 60, 21))
    np.testing.assert_array_equal(to_the_speech(heard, found, (0, 100), np.ones(20, dtype=bool)).frames, found.frames)


def test_words_end_before_a_pause():
    heard = heard_with_speech((10, 20), (40, 60))
    frames = np.array([10, 15, 40, 50, 60.0])
    every = np.ones(4, dtype=bool)
    np.testing.assert_array_equal(word_frames(frames, ((0, 2), (2, 4)), heard.spoken, every), [[10, 20], [40, 60]])


def test_sureness_is_harder_to_come_by_among_much_speech_and_beside_sure_ones():
    templates = [template(text) for text in SAID]
    script_s = sum(one.states for one in templates) * 0.02
    assert doubt_of(templates, script_s) == 0.0
    assert doubt_of(templates, 30 * script_s) == pytest.approx(np.log(20))
    assert doubt_of(templates[:2], 1.0) > 0
    assert least_among([]) == 0.0
    assert least_among([0.5, 0.6, 0.7]) < 0.01 < least_among([0.99] * 9) < least_among([0.99999] * 9) <= 0.55
