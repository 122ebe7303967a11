"""Fitting phrase by phrase, beside line by line and one tempo for all, on generated programmes whose truth is known."""

from __future__ import annotations

from dataclasses import replace
from typing import Final, NamedTuple

import numpy as np

from benchmarks.timing import Row, Rows, figure, once
from zweistimme.formats.ssml import Span
from zweistimme.project.edits import add_version
from zweistimme.project.model import Line, Preference, Project, Segment, Speaker, Style, Take, TakeKind, Word
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.sound.activity import clip_speech
from zweistimme.stages.fit.chains import solve
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.placements import plan_input, planned, taken_lines
from zweistimme.standin.voice import speak_spans, voice_by_id

_TAG: Final = "de-DE"
_NEAR_S: Final = 0.15
_NOISES: Final = (0.2, 0.35)
SENTENCES: Final = (
    ("Every evening, when the tide goes out, the boats lie on the mud.",
     "Jeden Abend, wenn das Wasser geht, liegen die Boote im Schlick."),
    ("She counted the steps, she wound the clock, and then she waited.",
     "Sie z\u00e4hlte die Stufen, sie zog die Uhr auf, und dann wartete sie."),
    ("If the bell rings twice, the ferry is late.",
     "Wenn die Glocke zweimal l\u00e4utet, kommt die F\u00e4hre zu sp\u00e4t."),
    ("My grandfather, who never hurried, built this wheel in one winter.",
     "Mein Gro\u00dfvater, der es nie eilig hatte, baute dieses Rad in einem Winter."),
    ("Take the lantern, hold it high, and do not look down.",
     "Nimm die Laterne, halte sie hoch, und sieh nicht hinunter."),
    ("The harbour was quiet; nobody spoke; even the gulls were still.",
     "Der Hafen war still; niemand sprach; selbst die M\u00f6wen schwiegen."),
    ("You may come in, but leave your boots outside.", "Du darfst hereinkommen, aber lass die Stiefel drau\u00dfen."),
    ("When the storm had passed, we found the hands of the clock, bent but whole.",
     "Als der Sturm vorbei war, fanden wir die Zeiger der Uhr, verbogen und doch ganz."),
)  # fmt: skip


class _Truth(NamedTuple):
    """Of one line: where its phrases are in the original, and where in the take, seconds."""

    original: np.ndarray
    spoken: np.ndarray


def phrases() -> Rows:
    """Starts of phrases, tempo, its jumps within a line, and how much of the speech lies on speech (IoU, as Virkar et
    al. 2021 measure isochrony)."""
    for noise in _NOISES:
        project, truth = _programme(1_000, noise)
        lines = taken_lines(project, _TAG)
        took = once(lambda lines=lines, project=project: planned(project, _TAG, lines))  # type: ignore[misc]
        placed = planned(project, _TAG, lines)
        by_phrase = [_heard(one.phrases, item) for one, item in zip(placed, truth, strict=True)]
        by_phrase = [
            heard if one.phrases else _linear(item, one.start_us / SECOND_US, one.length_us / SECOND_US)
            for heard, one, item in zip(by_phrase, placed, truth, strict=True)
        ]
        given = plan_input(project, lines)
        plan = solve(given, limits_for(Style.PHRASE_SYNC, Preference.BALANCED))
        by_line = [_linear(item, float(plan.start[k]), float(plan.length[k])) for k, item in enumerate(truth)]
        slots = zip(truth, given.start, given.end, strict=True)
        uniform = [_linear(item, float(start), float(end - start)) for item, start, end in slots]
        for name, heard in (
            ("one tempo in each slot", uniform),
            ("line by line", by_line),
            ("phrase by phrase", by_phrase),
        ):
            yield from _rows(f"{name}, lengths +-{noise:.0%}", heard, truth)
        yield figure(
            "1,000 lines planned phrase by phrase", 1000 * took, "ms", f"line by line: {_solved_ms(given):.0f} ms"
        )


def real_takes() -> Rows:
    """The same on takes of the bundled voices: sentences of two to four clauses, said in English by one, in German by
    another; a clause of the take belongs to the same clause of the original."""
    project, truth = _spoken_programme()
    lines = taken_lines(project, _TAG)
    placed = planned(project, _TAG, lines)
    heard = [
        _heard(one.phrases, item) if one.phrases else _linear(item, one.start_us / SECOND_US, one.length_us / SECOND_US)
        for one, item in zip(placed, truth, strict=True)
    ]
    given = plan_input(project, lines)
    plan = solve(given, limits_for(Style.PHRASE_SYNC, Preference.BALANCED))
    by_line = [_linear(item, float(plan.start[k]), float(plan.length[k])) for k, item in enumerate(truth)]
    slots = zip(truth, given.start, given.end, strict=True)
    uniform = [_linear(item, float(start), float(end - start)) for item, start, end in slots]
    for name, some in (("one tempo in each slot", uniform), ("line by line", by_line), ("phrase by phrase", heard)):
        yield from _rows(f"bundled voices, {name}", some, truth)
    cut = sum(len(one.phrases) > 1 for one in placed)
    yield Row(
        "bundled voices: lines placed phrase by phrase", f"{cut} of {len(placed)}", "wanted: phrases within 0.15 s 75%"
    )


def _spoken_programme() -> tuple[Project, list[_Truth]]:
    """Every pair of sentences said by every pair of voices, one after another."""
    segments, lines, takes, truth, at = [], {}, {}, [], 1.0
    pairs = [(one, other) for one in ("alva", "brandt") for other in ("cosma", "brandt")]
    for number, ((english, german), (one, other)) in enumerate((said, pair) for said in SENTENCES for pair in pairs):
        original, spoken = (
            _said(text, tag, who) for text, tag, who in ((english, "en-GB", one), (german, _TAG, other))
        )
        key, shift = f"s{number}", round(at * SECOND_US)
        words = tuple(replace(w, start_us=w.start_us + shift, end_us=w.end_us + shift) for w in original.words)
        segments.append(Segment(key, "p0", words[0].start_us, words[-1].end_us, english, words))
        first, end = spoken.speech
        takes[key] = Take(
            key,
            key,
            TakeKind.SYNTHESIZED,
            "take 1",
            "0" * 64,
            spoken.length,
            first,
            end,
            "x",
            spoken.pauses,
            spoken.words,
        )
        lines[key] = Line(key, german, "", take_id=key)
        truth.append(_Truth(_clauses(words), _clauses(spoken.words)))
        at = words[-1].end_us / SECOND_US + 1.2
    project = add_version(Project("Phrases", "en-GB"), _TAG)
    version = replace(project.versions[_TAG], lines=lines, takes=takes)
    people = {"p0": Speaker("p0", "P0")}
    return replace(project, speakers=people, segments=tuple(segments), versions={_TAG: version}), truth


class _Said(NamedTuple):
    """A sentence said by a bundled voice: its words, its speech and pauses in samples, and how long it is."""

    words: tuple[Word, ...]
    speech: tuple[int, int]
    pauses: tuple[tuple[int, int], ...]
    length: int


def _said(text: str, tag: str, who: str) -> _Said:
    voice = voice_by_id(who)
    assert voice is not None
    spoken = speak_spans([Span(text)], tag, voice)
    speech = clip_speech(spoken.samples, RATE)
    words = tuple(Word(word, round(a * SECOND_US), round(b * SECOND_US)) for word, a, b in spoken.words)
    return _Said(words, (speech.start, speech.end), speech.pauses, len(spoken.samples))


def _clauses(words: tuple[Word, ...]) -> np.ndarray:
    """Where clauses are: each ends with a mark."""
    found, first = [], 0
    for place, word in enumerate(words):
        if word.text[-1] in ",;:.!?":
            found.append((words[first].start_us / SECOND_US, word.end_us / SECOND_US))
            first = place + 1
    return np.array(found)


def _solved_ms(given: object) -> float:
    limits = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)
    return 1000 * once(lambda: solve(given, limits))  # type: ignore[arg-type]


def _rows(name: str, heard: list[np.ndarray], truth: list[_Truth]) -> Rows:
    near = np.concatenate(
        [np.abs(one[:, 0] - item.original[:, 0]) <= _NEAR_S for one, item in zip(heard, truth, strict=True)]
    )
    tempos = [_tempos(one, item) for one, item in zip(heard, truth, strict=True)]
    comfort = np.mean(np.concatenate([(one >= 0.9199) & (one <= 1.1501) for one in tempos]))
    jumps = [np.abs(np.diff(one)) > 0.1 for one in tempos if len(one) > 1]
    jumping = np.mean(np.concatenate(jumps)) if jumps else 0.0
    shared = np.mean([_overlap(one, item.original) for one, item in zip(heard, truth, strict=True)])
    beside = f"comfort {comfort:.0%}, jumps over 0.1 {jumping:.1%}, speech on speech {shared:.2f}"
    yield Row(f"{name}: phrases within {_NEAR_S} s", f"{near.mean():.0%}", beside)


def _tempos(heard: np.ndarray, item: _Truth) -> np.ndarray:
    return np.diff(item.spoken, axis=1)[:, 0] / np.maximum(np.diff(heard, axis=1)[:, 0], 1e-3)


def _overlap(one: np.ndarray, other: np.ndarray) -> float:
    low, high = min(one[0, 0], other[0, 0]), max(one[-1, 1], other[-1, 1])
    at = np.arange(low, high, 0.01)
    a, b = (np.any((at[:, None] >= some[:, 0]) & (at[:, None] < some[:, 1]), axis=1) for some in (one, other))
    return float((a & b).sum() / max(1, (a | b).sum()))


def _linear(item: _Truth, start: float, length: float) -> np.ndarray:
    """Phrases of a take that is stretched as a whole."""
    first, last = item.spoken[0, 0], item.spoken[-1, 1]
    return start + (item.spoken - first) * length / (last - first)


def _heard(placed: tuple, item: _Truth) -> np.ndarray:
    """Each true phrase where what holds it was placed."""
    found = item.spoken.copy()
    for one in placed:
        a, b = one.take_start_samples / RATE, one.take_end_samples / RATE
        scale = one.length_us / SECOND_US / (b - a)
        inside = (item.spoken[:, 0] >= a - 1e-6) & (item.spoken[:, 1] <= b + 1e-6)
        found[inside] = one.start_us / SECOND_US + (item.spoken[inside] - a) * scale
    return found


def _programme(count: int, noise: float) -> tuple[Project, list[_Truth]]:
    """Lines of one to four phrases on screen; the takes are 12 % longer, each phrase by its own share."""
    random = np.random.default_rng(17)
    segments, lines, takes, truth, at = [], {}, {}, [], 1.0
    for k in range(count):
        parts = int(random.integers(1, 5))
        lengths = np.clip(random.gamma(4, 0.3, parts), 0.4, 4)
        pauses = random.uniform(0.2, 0.7, parts)
        spoken = lengths * 1.12 * np.clip(random.normal(1, noise, parts), 0.5, 1.8)
        breaths = random.uniform(0.12, 0.45, parts)
        original = _laid(at, lengths, pauses)
        told = _laid(0.0, spoken, breaths)
        key = f"s{k}"
        words = tuple(
            Word("boats." if n == parts - 1 else "boats,", round(a * SECOND_US), round(b * SECOND_US))
            for n, (a, b) in enumerate(original)
        )
        segments.append(Segment(key, f"p{k % 3}", words[0].start_us, words[-1].end_us, "boats", words))
        samples = np.round(told * RATE).astype(int)
        breaks = tuple((int(samples[n, 1]), int(samples[n + 1, 0])) for n in range(parts - 1))
        takes[key] = Take(
            key, key, TakeKind.SYNTHESIZED, "take 1", "0" * 64, int(samples[-1, 1]), 0, int(samples[-1, 1]), "x", breaks
        )
        lines[key] = Line(key, "Boote", "", take_id=key)
        truth.append(_Truth(original, samples / RATE))
        at = original[-1, 1] + float(random.exponential(0.7) + 0.1)
    project = add_version(Project("Phrases", "en-GB"), _TAG)
    people = {f"p{n}": Speaker(f"p{n}", f"P{n}") for n in range(3)}
    version = replace(project.versions[_TAG], lines=lines, takes=takes)
    return replace(project, speakers=people, segments=tuple(segments), versions={_TAG: version}), truth


def _laid(start: float, lengths: np.ndarray, pauses: np.ndarray) -> np.ndarray:
    begins = start + np.concatenate(([0.0], np.cumsum(lengths[:-1] + pauses[:-1])))
    return np.column_stack((begins, begins + lengths))
