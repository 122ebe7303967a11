"""Cuts of the picture are found once, gone on with where that was cut short, and make stale what they concern."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from demo_project import work_on
from helpers import project_with
from moving_pictures import CUTS_US, film, shots
from zweistimme.media import picture_cuts as cuts_file
from zweistimme.project.edits import set_cuts, set_placements
from zweistimme.project.errors import Cancelled
from zweistimme.project.facts import cuts_of, placement_is_stale
from zweistimme.project.model import Project, Segment
from zweistimme.project.picks import sound_key
from zweistimme.project.programme import Picture
from zweistimme.project.shots import cuts_near
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.cuts import cuts_wanted, find_cuts
from zweistimme.stages.fit import fit
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.intake import Intake
from zweistimme.store.document import Document

TAG = "de-DE"


@pytest.fixture
def filmed(tmp_path: Path) -> Iterator[Document]:
    """A project with a film of seven shots."""
    file = film(tmp_path / "film.mkv", shots(), 40, sound=True)
    with Document.create(tmp_path / "p", Project("Film", "en-GB")) as document:
        bring_in(work_on(document), Intake(file))
        yield document


def test_they_are_found_once_and_kept_with_the_programme(filmed: Document, monkeypatch: pytest.MonkeyPatch) -> None:
    assert cuts_wanted(filmed.project.programme)
    find_cuts(work_on(filmed))
    assert cuts_of(filmed.project) == pytest.approx(CUTS_US, abs=1_000)
    monkeypatch.setattr(cuts_file, "opened", lambda *_: pytest.fail("they are known"))
    find_cuts(work_on(filmed))
    known = cuts_of(filmed.project)
    filmed.apply("Unknown", _forget_cuts)
    find_cuts(work_on(filmed))
    assert cuts_of(filmed.project) == known, "as after taking something back"


def test_who_stops_loses_nothing(filmed: Document, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(cuts_file, "_KEPT_EVERY_S", 2.0)
    monkeypatch.setattr(cuts_file, "_MOST_STRETCH_S", 3.0)
    told: list[float] = []

    def stop(share: float) -> None:
        told.append(share)
        if share > 0.7:
            raise Cancelled

    with pytest.raises(Cancelled):
        find_cuts(replace(work_on(filmed), report=stop))
    assert cuts_wanted(filmed.project.programme)
    again: list[float] = []
    find_cuts(replace(work_on(filmed), report=again.append))
    assert again[0] > 0.3, "it goes on where it was"
    assert cuts_of(filmed.project) == pytest.approx(CUTS_US, abs=1_000)


@pytest.mark.parametrize("damage", [b"", b"no array", b"\x93NUMPY\x01\x00"])
def test_a_damaged_beginning_is_begun_again(filmed: Document, damage: bytes) -> None:
    assert filmed.project.programme is not None
    (filmed.cache / f"cuts-{sound_key(filmed.project.programme.sound)}.npy").write_bytes(damage)
    find_cuts(work_on(filmed))
    assert len(cuts_of(filmed.project)) == len(CUTS_US)


def test_without_its_file_that_is_said_and_nothing_is_known(filmed: Document) -> None:
    assert filmed.project.programme is not None
    Path(filmed.project.programme.sound.path).unlink()
    said: list[str] = []
    find_cuts(work_on(filmed, said))
    assert "Cuts of the picture are not known" in said[0]
    assert cuts_wanted(filmed.project.programme)


def test_those_of_another_programme_are_not_put_down(filmed: Document) -> None:
    programme = filmed.project.programme
    assert programme is not None
    other = replace(filmed.project, programme=replace(programme, sound=replace(programme.sound, checksum="1" * 32)))
    assert set_cuts(other, programme.sound, (1, 2)) is other
    assert cuts_of(set_cuts(filmed.project, programme.sound, (1, 2))) == (1, 2)


@pytest.mark.parametrize(
    ("cuts_us", "near"),
    [
        ((), (None, None)),
        ((1_000_000,), (None, None)),
        ((4_000_000, 4_500_000), (4_500_000, None)),
        ((6_000_000,), (None, None)),
        ((5_050_000, 6_950_000), (5_050_000, 6_950_000)),
        ((9_900_000, 11_000_000), (None, 9_900_000)),
        ((10_100_000,), (None, None)),
    ],
)
def test_cuts_near_a_line_are_those_it_might_run_over(cuts_us: tuple[int, ...], near: tuple[int | None, ...]) -> None:
    assert cuts_near(Segment("s1", "p1", 5_000_000, 7_000_000, "Ja."), cuts_us) == near


def test_lines_near_a_cut_are_stale_once_it_is_known_and_others_are_not() -> None:
    rows = [(1.0, 3.0, "One two three."), (20.0, 22.0, "Far away.")]
    project = project_with(rows, takes=[2.4, 2.0])
    assert project.programme is not None
    picture = Picture(640, 360, 25, 1)
    project = replace(project, programme=replace(project.programme, picture=picture))
    project = set_placements(project, TAG, planned(project, TAG, taken_lines(project, TAG)))
    assert project.programme is not None
    known = set_cuts(project, project.programme.sound, (3_300_000, 12_000_000))
    stale = [placement_is_stale(known, known.versions[TAG], one) for one in known.segments]
    assert stale == [True, False]
    again = set_placements(known, TAG, planned(known, TAG, taken_lines(known, TAG)))
    assert not placement_is_stale(again, again.versions[TAG], again.segments[0])


def test_a_fit_does_not_wait_for_them_but_says_so(demo: Document) -> None:
    said: list[str] = []
    fit(work_on(demo, said), TAG)
    assert not any("cuts" in one for one in said)
    programme = demo.project.programme
    assert programme is not None
    demo.apply("Unknown", _forget_cuts)
    fit(work_on(demo, said), TAG)
    assert any("cuts of the picture are not known yet" in one for one in said)


def _forget_cuts(project: Project) -> Project:
    assert project.programme is not None
    return replace(project, programme=replace(project.programme, cuts_us=None))
