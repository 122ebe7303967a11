"""What became slower is told, and only that."""

from __future__ import annotations

from pathlib import Path

import pytest
from benchmarks import results
from benchmarks.results import Results
from benchmarks.timing import Row, figure


@pytest.fixture(autouse=True)
def own_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(results, "FOLDER", tmp_path / "results")
    return tmp_path / "results"


def run(*rows: Row, speed: float = 1.0) -> list[str]:
    taken = Results("a machine")
    for row in rows:
        taken.add("group", row, speed)
    return taken.finished("group")


def test_a_figure_that_is_worse_than_the_last_is_named() -> None:
    assert run(figure("plan", 40.0, "ms"), figure("mix", 90.0, "x real time")) == []
    told = run(figure("plan", 60.0, "ms"), figure("mix", 60.0, "x real time"))
    assert [sentence.split(":")[0] for sentence in told] == ["plan", "mix"]
    assert "it was 40.0 ms" in told[0]


def test_better_figures_and_small_differences_are_no_news() -> None:
    run(figure("plan", 40.0, "ms"), figure("mix", 90.0, "x real time"), Row("words", "0.0 %", "wanted: 5 %"))
    assert (
        run(figure("plan", 43.0, "ms"), figure("mix", 200.0, "x real time"), Row("words", "9.0 %", "wanted: 5 %")) == []
    )


def test_a_slower_machine_is_no_slower_code() -> None:
    run(figure("plan", 40.0, "ms"), figure("memory", 300.0, "MB"))
    assert run(figure("plan", 76.0, "ms"), figure("memory", 305.0, "MB"), speed=0.5) == []
    assert run(figure("plan", 76.0, "ms"), figure("memory", 400.0, "MB"), speed=1.0)[0].startswith("memory")
    assert run(figure("plan", 100.0, "ms"), figure("memory", 400.0, "MB"), speed=1.0)[0].startswith("plan")


def test_a_better_figure_on_a_much_quicker_machine_is_no_news() -> None:
    run(figure("plan", 40.0, "ms"), speed=0.4)
    assert run(figure("plan", 30.0, "ms"), speed=1.2) == []


def test_a_spoilt_file_of_results_is_as_none(own_folder: Path) -> None:
    run(figure("plan", 40.0, "ms"))
    (own_folder / "group.json").write_text("[1, 2")
    assert run(figure("plan", 400.0, "ms")) == []
