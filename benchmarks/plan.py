"""The plan: whole programmes, and an edit by hand."""

from __future__ import annotations

from dataclasses import replace
from itertools import islice, pairwise

import numpy as np

from benchmarks.long import long_project
from benchmarks.timing import Row, Rows, figure, once, seconds
from zweistimme.project.edits import put_placements
from zweistimme.project.model import Pin, Preference, Project, Style
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.stages.fit.by_hand import pin_and_plan
from zweistimme.stages.fit.chains import chain_edges, solve
from zweistimme.stages.fit.limits import limits_for
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.fit.plan_input import Plan, PlanInput, whole_lines

_TAG = "de-DE"


def lines(count: int, seed: int = 0) -> PlanInput:
    """Random lines: takes 1.12 +- 22 % as long as their segments, some cross-talk, some pauses."""
    random = np.random.default_rng(seed)
    length = random.gamma(4, 0.7, count) + 0.5
    gap = np.where(random.random(count) < 0.05, -random.random(count) * 0.5, random.exponential(0.6, count))
    gap[random.random(count) < 0.08] += 3
    start = np.maximum.accumulate(1 + np.cumsum(np.append(0.0, (length + gap)[:-1])))
    speech = length * np.clip(random.normal(1.12, 0.22, count), 0.5, 2)
    free = np.full(count, np.nan)
    spare = speech * random.random(count) * 0.12
    seen = random.random(count) < 0.6
    speakers = random.integers(0, 4, count)
    return whole_lines(start, start + length, speech, spare, seen, speakers, free, free.copy(), float(start[-1] + 10))


def plan() -> Rows:
    """The linear programme; against what the same lines last."""
    limits = limits_for(Style.PHRASE_SYNC, Preference.BALANCED)
    for count, wanted in ((100, ""), (1000, "; wanted: 100 ms"), (10_000, "; wanted: 1,500 ms")):
        given = lines(count)
        taken = seconds(lambda given=given: solve(given, limits))  # type: ignore[misc]
        yield figure(
            f"{count:,} lines", taken * 1000, "ms", f"a programme of {given.programme_end / 60:.0f} min{wanted}"
        )
    many = lines(1000)
    apart = abs(solve(many, limits).cost - solve(many, limits, least_lines=10_000).cost)
    yield Row("its cost beside that of the whole as one programme", f"{apart:.1e} apart", "of 860; wanted: 1e-6")
    yield from _chains(limits_for(Style.PHRASE_SYNC, Preference.BALANCED))
    yield from _edits(2_000)
    given = lines(10_000)
    found = solve(given, limits)
    tempo = found.tempo
    slots = given.speech / (given.end - given.start)
    comfort, plain = (f"{((one < 1.1501) & (one > 0.9199)).mean():.0%}" for one in (tempo, slots))
    yield Row(
        "10,000 lines: tempo in comfort", comfort, f"{plain} with every take made as long as its slot; wanted: 90%"
    )
    soft = ((tempo < 1.3001) & (tempo > 0.7999)).mean()
    yield Row("10,000 lines: tempo in the soft limits", f"{soft:.1%}", "wanted: 99%")
    near = (np.abs(found.start - given.start) <= 0.2).mean()
    yield Row("10,000 lines: starts within 0.2 s", f"{near:.0%}", "wanted: 88%")
    yield Row("10,000 lines: overlap beyond the source's", f"{_beyond(given, found):.3f} s", "in all; wanted: none")


def _beyond(given: PlanInput, found: Plan) -> float:
    """By how many seconds takes overlap more than their segments do, in all."""
    ends = found.start + found.length
    own = np.maximum(given.end[:-1] - given.start[1:], 0.0)
    return float(np.maximum(ends[:-1] - found.start[1:] - own - 1e-6, 0.0).sum())


def _chains(limits: object) -> Rows:
    """Solving one chain, as an edit does."""
    given = lines(10_000)
    edges = [*chain_edges(given.start, given.end), len(given.start)]
    times = []
    for first, last in islice(pairwise(edges), 60):
        arrays = {
            name: getattr(given, name)[first:last] for name in PlanInput.__dataclass_fields__ if name != "programme_end"
        }
        part = PlanInput(**arrays, programme_end=given.programme_end)
        times.append(1000 * min(once(lambda part=part: solve(part, limits)) for _ in range(2)))  # type: ignore[misc, arg-type]
    yield figure("one chain solved, in the median", float(np.median(times)), "ms", "wanted: 4 ms")
    yield figure("one chain solved, at 95 %", float(np.percentile(times, 95)), "ms", "wanted: 10 ms")


def _edits(count: int) -> Rows:
    """A pin set by hand, with all that follows from it."""
    project = _planned(count)
    segments, placements = project.segments, project.versions[_TAG].placements
    times = []
    for k in np.random.default_rng(1).integers(0, count, 40).tolist():
        pin = Pin(placements[segments[k].id].start_us + 150_000)
        times.append(1000 * once(lambda k=k, pin=pin: pin_and_plan(project, _TAG, segments[k].id, pin)))  # type: ignore[misc]
    yield figure(
        f"a pin among {count:,} lines, in the median", float(np.median(times)), "ms", "with reasons and placements"
    )
    yield figure(
        f"a pin among {count:,} lines, at 95 %", float(np.percentile(times, 95)), "ms", "with reasons and placements"
    )


def _planned(count: int) -> Project:
    """A project whose lines are those of the plan's benchmark."""
    project, given = long_project(count), lines(count)
    version = project.versions[_TAG]
    times = zip(project.segments, given.start, given.end, strict=True)
    segments = tuple(replace(s, start_us=seconds_to_us(a), end_us=seconds_to_us(b), words=()) for s, a, b in times)
    takes = {
        key: replace(take, speech_end_samples=round(speech * RATE), length_samples=round(speech * RATE))
        for (key, take), speech in zip(version.takes.items(), given.speech, strict=True)
    }
    assert project.programme is not None
    sound = replace(project.programme.sound, duration_us=seconds_to_us(given.programme_end))
    project = replace(project, programme=replace(project.programme, sound=sound))
    project = replace(project, segments=segments, versions={_TAG: replace(version, takes=takes, placements={})})
    return put_placements(project, _TAG, planned(project, _TAG, taken_lines(project, _TAG)))
