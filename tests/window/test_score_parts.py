"""The parts of the Score by themselves: geometry, levels, images, strain, text."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtGui import QColor
from pytestqt.qtbot import QtBot

from helpers import project_with
from zweistimme.project.access import put_version, with_key, without_keys
from zweistimme.project.model import Placement, Segment
from zweistimme.project.row_changes import Rows
from zweistimme.project.transcript import delete_segments, insert_segment
from zweistimme.window.regions import _uncovered
from zweistimme.window.score.geometry import (
    Scale,
    columns_for,
    dub_cards,
    header,
    original_cards,
    tick_seconds,
)
from zweistimme.window.score.gestures import Drag, Grip
from zweistimme.window.score.text import laid_out
from zweistimme.window.score.waves import row_levels, wave_image
from zweistimme.window.strain import Strain, strain_of, trouble_words
from zweistimme.window.theme import DAY, NIGHT
from zweistimme.window.times import PlacedTimes, SegmentTimes

INTERVALS = st.lists(st.tuples(st.integers(0, 5000), st.integers(1, 900)), max_size=40)


def segments(rows: list[tuple[int, int]]) -> list[Segment]:
    made = [Segment(f"s{k}", "p1", a * 1000, (a + d) * 1000, "x") for k, (a, d) in enumerate(rows)]
    return sorted(made, key=lambda s: (s.start_us, s.id))


@given(INTERVALS)
def test_cards_that_overlap_never_share_a_lane(rows: list[tuple[int, int]]) -> None:
    cards = original_cards(segments(rows)).cards
    assert len(cards) == len(rows)
    for k, card in enumerate(cards):
        assert 0 <= card.lane < card.lanes
        for other in cards[k + 1 :]:
            if other.start_us < card.end_us and card.start_us < other.end_us:
                assert other.lane != card.lane
                assert other.lanes == card.lanes


@given(INTERVALS, st.integers(0, 5_000_000), st.integers(1, 2_000_000))
def test_the_index_finds_exactly_what_is_in_sight(rows: list[tuple[int, int]], start: int, length: int) -> None:
    index = original_cards(segments(rows))
    end = start + length
    wanted = [card for card in index.cards if card.start_us < end and card.end_us > start]
    assert list(index.within(start, end)) == wanted


def test_dub_cards_stand_at_their_placements() -> None:
    project = project_with([(1.0, 2.0, "One"), (3.0, 4.0, "Two")], takes=[1.0, 1.0])
    version = project.versions["de-DE"]
    version.placements["s1"] = Placement("s1", "t0", 5_000_000, 900_000, 1.0, (), "")  # type: ignore[index]
    index = dub_cards(project.segments, version)
    cards = {card.segment.id: card for card in index.cards}
    assert index.find("s1") == cards["s1"]
    assert (cards["s1"].start_us, cards["s1"].end_us) == (5_000_000, 5_900_000)
    assert (cards["s2"].start_us, cards["s2"].end_us) == (3_000_000, 4_000_000)
    assert original_cards(()).within(0, 10) == []
    assert original_cards(()).find("s1") is None


@given(st.floats(2, 400), st.floats(0, 1e10), st.floats(header(), 2000))
def test_height_and_time_are_each_others_inverse(zoom: float, top: float, y: float) -> None:
    scale = Scale(zoom, top)
    assert scale.y(scale.time(y)) == pytest.approx(y, abs=1e-3)


@pytest.mark.parametrize("width", [480, 760, 830, 1200, 2400])
def test_columns_fill_the_width_without_overlap(width: int) -> None:
    columns = columns_for(width)
    parts = [columns.original, columns.original_wave, columns.ribbon, columns.dub_wave, columns.dub]
    for (left, size), (following, _) in pairwise(parts):
        assert left + size <= following
    if width >= 760:
        assert columns.dub[0] + columns.dub[1] <= width
        assert columns.dub[1] == columns.original[1]


def test_ticks_stay_readable() -> None:
    for zoom in (2.0, 10.0, 27.0, 100.0, 400.0):
        assert tick_seconds(zoom) * zoom >= 60


def test_levels_follow_the_peaks() -> None:
    peaks = np.zeros((300, 2), dtype=np.int8)
    peaks[100:110] = (-60, 127)
    times = np.arange(0, 3_000_000, 37_000, dtype=float)
    levels = row_levels(peaks, times, 37_000)
    loud = times[levels > 0.5]
    assert loud.min() >= 1_000_000 - 37_000
    assert loud.max() < 1_100_000
    assert row_levels(peaks, np.array([-50_000.0, 9e6]), 10_000).max() == 0
    assert row_levels(peaks[:0], times, 37_000).max() == 0


def test_an_image_has_a_row_for_each_level() -> None:
    image = wave_image(np.array([0.0, 1.0, 0.25]), 54, [(slice(None), QColor("#ff0000"))])
    assert (image.width(), image.height()) == (54, 3)
    filled = [sum(image.pixelColor(x, y).alpha() > 128 for x in range(54)) for y in range(3)]
    assert filled[0] <= 2
    assert filled[1] >= 50
    assert filled[0] < filled[2] < filled[1]


@pytest.mark.parametrize(
    ("tempo", "overflow", "strain"),
    [
        (1.0, 0, Strain.CALM),
        (0.92, 0, Strain.CALM),
        (1.15, 0, Strain.CALM),
        (1.2, 0, Strain.FIRM),
        (0.85, 0, Strain.FIRM),
        (1.31, 0, Strain.HARD),
        (0.7, 0, Strain.HARD),
        (1.0, 300_000, Strain.HARD),
    ],
)
def test_strain_is_told_by_tempo_and_overflow(tempo: float, overflow: int, strain: Strain) -> None:
    placement = Placement("s", "t", 0, 2_000_000, tempo, (), "", overflow_us=overflow)
    assert strain_of(placement) is strain
    words = trouble_words(placement, "Das ist ein langer Satz.")
    assert bool(words) == bool(overflow)
    assert not overflow or words.startswith("0.3 s over: about")


def test_classes_differ_by_more_than_colour() -> None:
    assert len({strain.pattern for strain in Strain}) == 3
    for theme in (DAY, NIGHT):
        assert len({getattr(theme, strain.role) for strain in Strain}) == 3
    assert len(set(DAY.speakers)) == len(DAY.speakers) == len(NIGHT.speakers)


def test_text_is_broken_marked_and_elided(qtbot: QtBot) -> None:
    words = "one two three four five six seven eight nine ten"
    whole = laid_out(words, 90, 20)
    assert " ".join(line.text for line in whole) == words
    short = laid_out(words, 90, 2)
    assert len(short) == 2
    assert short[1].text.endswith("…")
    assert [number for number, _, _ in short[0].words] == list(range(len(short[0].words)))


@given(
    st.sampled_from(list(Grip)),
    st.integers(0, 9_000_000),
    st.integers(100_000, 3_000_000),
    st.integers(-9_000_000, 9_000_000),
)
def test_no_drag_turns_an_interval_around(grip: Grip, start: int, length: int, by: int) -> None:
    drag = Drag(grip, "s", 0.0, start, start + length)
    a, b = drag.moved(by)
    assert b - a >= 100_000 or grip is Grip.TAKE
    if grip is Grip.TAKE:
        assert b - a == length
        assert a >= 0
    elif grip is Grip.START:
        assert b == start + length
    else:
        assert a == start


@given(st.lists(st.integers(0, 6), max_size=7), st.lists(st.integers(0, 6), max_size=7))
def test_times_follow_segments_wherever_they_change(first: list[int], second: list[int]) -> None:
    known = [Segment(f"s{k}", "p", k * 10, k * 10 + 5 + k, "") for k in range(7)]
    times = SegmentTimes()
    for row in (first, second, first):
        wanted = tuple(known[k] for k in row)
        times.follow(wanted)
        assert times.starts.tolist() == [s.start_us for s in wanted]
        assert times.ends.tolist() == [s.end_us for s in wanted]


@given(st.lists(st.tuples(st.integers(0, 60), st.integers(1, 20)), max_size=6))
def test_open_speech_is_what_no_segment_covers(rows: list[tuple[int, int]]) -> None:
    spans = np.array([[0, 2_000_000], [3_000_000, 6_000_000]])
    taken = sorted((a * 100_000, (a + d) * 100_000) for a, d in rows)
    starts, ends = (np.array([pair[k] for pair in taken], dtype=np.int64) for k in (0, 1))
    found = _uncovered(spans, starts, ends)
    covered = np.zeros(80, bool)
    for a, b in taken:
        covered[a // 100_000 : b // 100_000] = True
    speech = np.zeros(80, bool)
    for a, b in spans // 100_000:
        speech[a:b] = True
    runs = np.flatnonzero(np.diff(np.concatenate(([False], speech & ~covered, [False])).astype(int))).reshape(-1, 2)
    assert found.tolist() == [[a * 100_000, b * 100_000] for a, b in runs.tolist() if b - a >= 4]


def test_rows_of_a_waveform_are_the_loudest_of_what_they_cover() -> None:
    random = np.random.default_rng(0)
    peaks = np.sort(random.integers(-127, 128, (5_000, 2)), axis=1).astype(np.int8)
    loud = np.abs(peaks.astype(int)).max(axis=1) / 127
    for top_us, step_us in ((-300_000.0, 25_000.0), (20_000_000.0, 4_000.0), (49_000_000.0, 90_000.0)):
        times = top_us + np.arange(200) * step_us
        first, count = np.floor(times / 10_000).astype(int), max(1, int(np.ceil(step_us / 10_000)))
        wanted = [loud[max(0, a) : max(0, a + count)].max(initial=0.0) for a in first]
        assert row_levels(peaks, times, step_us) == pytest.approx(wanted)
    assert not row_levels(peaks, np.array([60e6, 61e6]), 1e4).any()
    assert not row_levels(peaks[:0], np.array([0.0]), 1e4).any()


def test_where_the_dub_stands_is_followed_through_any_edits() -> None:
    project = project_with([(k, k + 0.8, f"Line {k}") for k in range(12)], takes=[1.0] * 12)
    placed = {f"s{k}": Placement(f"s{k}", "t0", k * 1_100_000, 700_000, 1.0, (), "") for k in range(1, 13, 2)}
    project = put_version(project, replace(project.versions["de-DE"], placements=Rows(placed)))
    times, random = PlacedTimes(), np.random.default_rng(3)
    for step in range(60):
        version, segments = project.versions["de-DE"], project.segments
        here = segments[int(random.integers(len(segments)))]
        there = version.placements.get(here.id)
        match step % 4:
            case 0 if there is not None:
                moved = replace(there, start_us=there.start_us + int(random.integers(-200_000, 200_000)))
                rows = with_key(version.placements, here.id, moved)
                project = put_version(project, replace(version, placements=rows))
            case 1 if len(segments) > 4:
                project = delete_segments(project, [here.id])
            case 2:
                project = insert_segment(project, here.end_us, here.end_us + 300_000, here.speaker_id)
            case _:
                project = put_version(project, replace(version, placements=without_keys(version.placements, [here.id])))
        if step % 3:  # looked at after several edits, too
            continue
        version = project.versions["de-DE"]
        if step % 9 == 0:  # another version, and back
            times.follow(project.segments, {})
            assert len(times.starts) == len(times.ends) == len(project.segments)
        times.follow(project.segments, version.placements)
        assert len(times.starts) == len(times.ends) == len(project.segments)
        for place, segment in enumerate(project.segments):
            there = version.placements.get(segment.id)
            start = there.start_us if there else segment.start_us
            end = there.start_us + there.length_us if there else segment.end_us
            assert (times.starts[place], times.ends[place]) == (start, end)
