"""Looking intervals and names up, and cutting long speech anew: what must not take longer and longer."""

from hypothesis import given
from hypothesis import strategies as st

from zweistimme.project.intervals import Intervals
from zweistimme.project.model import Line, Project, Segment, Speaker, Version
from zweistimme.project.reshape import recut
from zweistimme.project.segmentation import CutLimits
from zweistimme.project.words import Spellings, spread, text_of

intervals = st.lists(st.tuples(st.integers(0, 60), st.integers(1, 30)).map(lambda one: (one[0], one[0] + one[1])))


@given(intervals, st.integers(0, 80), st.integers(1, 40))
def test_all_that_share_time_are_among_those_named(spans, start, length):
    spans.sort()
    among = set(Intervals(spans).among(start, start + length))
    assert {k for k, (a, b) in enumerate(spans) if a < start + length and start < b} <= among


@given(intervals, st.integers(0, 80), st.integers(1, 40))
def test_hardly_others_are(spans, start, length):
    """None that begins behind the stretch, and none of those first that are all over."""
    spans.sort()
    among = Intervals(spans).among(start, start + length)
    assert all(spans[k][0] < start + length for k in among)
    assert not among or spans[among[0]][1] > start


def monologue(count):
    """One speaker who never pauses, in segments of three seconds."""
    segments = []
    for k in range(count):
        words = spread(
            ["word", "and", "then", "some", "more", "that", "is", f"it{k}"], 3_000_000 * k, 3_000_000 * (k + 1)
        )
        segments.append(Segment(f"s{k + 1:04d}", "p1", 3_000_000 * k, 3_000_000 * (k + 1), text_of(words), words))
    lines = {one.id: Line(one.id, "Und dann noch mehr", made_from="") for one in segments}
    return Project(
        "x",
        "en-GB",
        speakers={"p1": Speaker("p1", "A")},
        segments=tuple(segments),
        versions={"de": Version("de", lines=lines)},
    )


def test_a_monologue_is_cut_anew_without_losing_a_word():
    before = monologue(300)
    after = recut(before, [one.id for one in before.segments], CutLimits())
    assert [w for one in after.segments for w in one.text.split()] == [
        w for one in before.segments for w in one.text.split()
    ]
    assert len({one.id for one in after.segments}) == len(after.segments) < 300
    assert all(one.end_us <= other.start_us for one, other in zip(after.segments, after.segments[1:], strict=False))
    assert " ".join(after.versions["de"].lines[one.id].text for one in after.segments).split() == (
        ["Und", "dann", "noch", "mehr"] * 300
    )


def test_names_are_found_among_many():
    names = [f"Place {k}" for k in range(5_000)] + ["Alder Quay", "ALDER"]
    words = Spellings(names).applied(spread(["at", "alder", "quay,", "place", "77"], 0, 50))
    assert text_of(words) == "at ALDER Quay, Place 77"
