"""Recordings of people, where they can be had: a script that a person says is laid out."""

import numpy as np
import pytest
from benchmarks.human import align_mixture, labelled_mixture
from benchmarks.recordings import ALL_LABELLED, labelled

from zweistimme.sound.script_sureness import SURE


@pytest.mark.parametrize("condition", ["clean", "telephone", "room"])
def test_what_a_person_says_is_found_to_the_word(condition):
    recordings = labelled()
    if len(recordings) < ALL_LABELLED:
        pytest.skip("no recordings can be had here")
    mixed = labelled_mixture(recordings, condition, 7)
    placed = {mixed.script[one.sentence]: one for one in align_mixture(mixed, "en-GB")}
    sure = {text for text, one in placed.items() if one.sureness > SURE}
    assert set(mixed.words) <= set(placed)
    assert sure <= set(mixed.words)
    off = [abs(placed[text].times_s[0] - words[0][0]) for text, words in mixed.words.items()]
    assert np.median(off) < 0.05
    assert max(off) < 0.3
