"""The pace of a voice: learned from few takes, never thrown off by one, honest about how far it may be off."""

from __future__ import annotations

import numpy as np
import pytest

from helpers import project_with
from zweistimme.project import cast_edits, edits, line_edits
from zweistimme.project.facts import take_fingerprint
from zweistimme.project.model import Project, Take, TakeKind
from zweistimme.project.writing import syllables
from zweistimme.stages.fit.pace import Pace, learned_pace, usual_pace
from zweistimme.stages.fit.slot import measured_length, voice_pace

TEXTS = [
    "Die Fähre wartet heute.", "Niemand kennt die Flut, sagt man, bevor sie steigt.", "Ein Licht brennt.",
    "Der Mann am Kai ist älter als wir alle zusammen.", "Und doch?", "Deine Laterne ist seit Jahren verloren.",
]  # fmt: skip


def takes(rate: float, noise: float, count: int, seed: int = 3) -> list[tuple[str, float]]:
    dice = np.random.default_rng(seed)
    texts = [TEXTS[k % len(TEXTS)] for k in range(count)]
    return [(text, syllables(text, "de-DE") / rate * float(dice.lognormal(0, noise)) + 0.1) for text in texts]


def share(pace: Pace) -> float:
    """How far off a text may be, as a share of its length."""
    spoken, spread = pace.spoken_and_spread_us(TEXTS[3])
    return spread / spoken


def test_more_takes_say_more_and_the_spread_shrinks_with_them() -> None:
    slow = [learned_pace("de-DE", takes(3.5, 0.05, count)) for count in (0, 5, 20, 100)]
    truth = syllables(TEXTS[3], "de-DE") / 3.5 + 0.1
    off = [abs(pace.spoken_us(TEXTS[3]) / 1e6 - truth) / truth for pace in slow]
    assert off[0] > 0.15
    assert max(off[1:]) < 0.08
    assert share(slow[0]) > share(slow[1]) > share(slow[3])
    assert [pace.takes for pace in slow] == [0, 5, 20, 100]


def test_one_odd_take_among_twenty_changes_little() -> None:
    plain = takes(5.0, 0.05, 20)
    odd = [*plain[:-1], (plain[-1][0], 9 * plain[-1][1])]
    first, second = (learned_pace("de-DE", some).spoken_us(TEXTS[3]) for some in (plain, odd))
    assert second == pytest.approx(first, rel=0.04)


def test_two_of_three_takes_are_within_the_spread_that_is_said() -> None:
    pace = learned_pace("de-DE", takes(4.5, 0.15, 200))
    heard = takes(4.5, 0.15, 300, seed=8)
    said = [pace.spoken_and_spread_us(text) for text, _ in heard]
    pairs = zip(said, heard, strict=True)
    inside = np.mean([abs(mean / 1e6 - seconds) <= spread / 1e6 for (mean, spread), (_, seconds) in pairs])
    assert 0.5 < inside < 0.85


@pytest.mark.parametrize(("tag", "text"), [
    ("ja-JP", "灯台の鐘が鳴る。"), ("th-TH", "ระฆังของประภาคารดัง"), ("ar-EG", "دق جرس المنارة."),
    ("ko-KR", "종이 울린다."), ("en-GB", "It rang in 1884."), ("hi-IN", "घंटी बजी।"), ("de-DE", ""),
])  # fmt: skip
def test_every_script_has_a_length_and_nothing_has_none(tag: str, text: str) -> None:
    spoken, spread = usual_pace(tag).spoken_and_spread_us(text)
    assert (0.3e6 < spoken < 4e6 and 0.05e6 < spread < spoken) if text else (spoken, spread) == (0, 0)
    assert usual_pace(tag).room(2.0, text) >= 1


def voiced(rate: float, *, stale: bool = False) -> Project:
    """Six lines whose takes say them at a rate, or something older."""
    rows = [(3.0 * k, 3.0 * k + 2.5, "So it is.") for k in range(len(TEXTS))]
    project = edits.add_version(project_with(rows), "nl-NL")
    project = cast_edits.cast_voice(project, "nl-NL", "p1", "alva")
    for segment, text in zip(project.segments, TEXTS, strict=True):
        project = line_edits.set_line_text(project, "nl-NL", segment.id, text)
        line = project.versions["nl-NL"].lines[segment.id]
        length = round(48_000 * syllables(text, "nl-NL") / rate)
        made_from = "older" if stale else take_fingerprint(line, "alva")
        take = Take(segment.id, segment.id, TakeKind.SYNTHESIZED, "take 1", "0" * 64, length, 0, length, made_from)
        project = edits.add_take(project, "nl-NL", take)
    return project


def test_only_takes_that_say_what_their_lines_say_tell_how_fast_a_voice_is() -> None:
    slow, older = voiced(3.0), voiced(3.0, stale=True)
    paces = [voice_pace(project, project.versions["nl-NL"], project.segments[0]) for project in (slow, older)]
    assert [pace.takes for pace in paces] == [6, 0]
    assert paces[0].spoken_us(TEXTS[3]) > 1.3 * paces[1].spoken_us(TEXTS[3])
    length = measured_length(slow, slow.versions["nl-NL"], slow.segments[3], TEXTS[3])
    assert length.share > 1
    assert length.room < length.syllables
    assert length.takes == 6
