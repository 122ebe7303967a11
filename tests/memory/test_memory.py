"""The translation memory: what is found, what is not, and that a generation of the index finds what looking through
everything finds."""

from __future__ import annotations

import shutil
import sqlite3
import threading
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from zweistimme.memory.exchanged import exchanged
from zweistimme.memory.likeness import likeness, normal, percent_of
from zweistimme.memory.memory import Memory
from zweistimme.memory.unit_store import family_of
from zweistimme.project.errors import StoreError
from zweistimme.project.units import Unit

WORDS = (
    "the ferry leaves bridge harbour tide clock two three heavy ropes lantern keeper tells nobody forgot morning",
    "water stands high again winter wheel cracked before we know listen still ticking",
)


def unit(source: str, target: str, **more: str) -> Unit:
    return replace(Unit("en-GB", "de-DE", source, target, origin="Harbour Notices"), **more)


@pytest.fixture
def memory(tmp_path: Path) -> Iterator[Memory]:
    with Memory(tmp_path / "memory.sqlite") as made:
        yield made


def sentences(count: int, seed: int = 5) -> list[str]:
    dice = np.random.default_rng(seed)
    return [
        " ".join(dice.choice(" ".join(WORDS).split(), int(dice.integers(2, 14)))).capitalize() + "."
        for _ in range(count)
    ]


def test_the_same_comes_first_that_of_the_same_context_before_it(memory: Memory) -> None:
    memory.put([
        unit("Hand me the lantern.", "Gib mir die Laterne.", made="2026-01-01"),
        unit("Hand me the lantern.", "Reich mir die Laterne.", context="c1", project="p", segment="s1"),
        unit("Hand me that lantern.", "Gib mir jene Laterne."),
        unit("The tide is out.", "Es ist Ebbe."),
    ])  # fmt: skip
    found = memory.matches("Hand me the lantern.", "en-GB", "de-DE", context="c1")
    assert [(match.target, match.percent, match.in_context) for match in found] == [
        ("Reich mir die Laterne.", 100, True),
        ("Gib mir die Laterne.", 100, False),
        ("Gib mir jene Laterne.", 90, False),
    ]  # fmt: skip
    best = memory.exact("Hand me the lantern.", "en-GB", "de-DE", context="c1")
    assert best is not None
    assert best.target == "Reich mir die Laterne."
    assert memory.exact("Hand me the lantern", "en-GB", "de-DE") is None, "letter by letter"
    assert memory.matches("Hand me the lantern.", "en-GB", "es-ES") == []
    assert memory.matches("  ", "en-GB", "de-DE") == []


def test_regions_are_one_language_and_scripts_are_not(memory: Memory) -> None:
    memory.put(
        [unit("Yes, of course.", "Jo, natürlich.", target_tag="de-AT"), unit("Yes.", "好。", target_tag="zh-TW")]
    )
    assert [match.target for match in memory.matches("Yes, of course.", "en-US", "de-DE-x-kids")] == ["Jo, natürlich."]
    assert memory.exact("Yes, of course.", "en-US", "de-DE") is None, "another region's is offered, not taken"
    assert memory.matches("Yes.", "en-GB", "zh-CN") == []
    assert family_of("en", "no such tag at all") == "en-Latn>no such tag at all"


def test_a_generation_finds_what_looking_through_everything_finds(tmp_path: Path) -> None:
    said = sentences(600)
    with Memory(tmp_path / "a.sqlite", late=10_000) as through, Memory(tmp_path / "b.sqlite", late=10) as folded:
        for one in (through, folded):
            one.put(unit(text, f"{k}. {text}") for k, text in enumerate(said))
        assert folded._index is not None
        assert through._index is None
        dice = np.random.default_rng(8)
        missed = 0
        for text in dice.choice(said, 60):
            words = str(text).split()
            asked = " ".join([*words[:-1], "gone."]) if len(words) > 3 else str(text)
            wanted = {k for k, one in enumerate(said) if likeness(normal(one), normal(asked)) >= 0.7}
            for one in (through, folded):
                got = one.matches(asked, "en-GB", "de-DE", most=1_000)
                assert all(match.percent >= 70 for match in got)
                missed += len(wanted - {int(match.target.partition(".")[0]) for match in got})
        assert missed == 0
        folded.put([unit("Quite another sentence.", "Etwas anderes.")])
        assert folded.matches("Quite another sentence!", "en-GB", "de-DE")[0].target == "Etwas anderes."


@pytest.mark.parametrize(("source", "asked", "tag"), [
    ("潮が来る前に時計は知っていなければならない。", "潮が来る前に船は知っていなければならない。", "ja-JP"),
    ("ฉันได้ยินเสียงมันแตกในคืนนั้น", "ฉันได้ยินเสียงมันแตกในวันนั้น", "th-TH"),
    ("Часы должны знать это раньше нас.", "Часы должны знать это раньше вас.", "ru-RU"),
    ("يجب أن تعرف الساعة ذلك قبلنا", "يجب أن تعرف الساعة ذلك قبلكم", "ar-EG"),
])  # fmt: skip
def test_every_writing_system_is_looked_up(tmp_path: Path, source: str, asked: str, tag: str) -> None:
    for late in (10_000, 0):
        with Memory(tmp_path / f"{late}.sqlite", late=late) as memory:
            memory.put([unit(source, "Was immer es heißt.", source_tag=tag), unit("x", "y", source_tag=tag)])
            assert (memory._index is None) == bool(late)
            (match,) = memory.matches(asked, tag, "de-DE")
            assert 70 <= match.percent < 100


def test_likeness_is_what_a_person_would_say() -> None:
    assert percent_of("It is cold.", "It is cold.") == 100
    assert percent_of("It is cold.", "it is cold.") == 99, "a letter is another"
    assert percent_of("The keeper tells nobody.", "The keeper told nobody.") in range(75, 100)
    assert percent_of("The keeper tells nobody.", "Two heavy ropes.") < 50


@pytest.mark.parametrize(("source", "target", "text", "wanted"), [
    ("It has 36 teeth.", "Es hat 36 Zähne.", "It has 24 teeth.", "Es hat 24 Zähne."),
    ("From 10:30 to 11:45.", "Von 10:30 bis 11:45.", "From 11:45 to 10:30.", "Von 11:45 bis 10:30."),
    ("Ask Juna about Tobin.", "Frag Juna nach Tobin.", "Ask Juna about Mira.", "Frag Juna nach Mira."),
    ("Juna is here.", "Juna ist da.", "Mira is here.", "Mira ist da."),
    ("It costs 1 000.", "Es kostet tausend.", "It costs 1 500.", None),
    ("Bring two ropes.", "Bring zwei Seile.", "Bring six ropes.", None),
    ("2 and 2.", "2 und zwei.", "3 and 3.", None),
    ("2 and 2.", "2 und 2.", "3 and 4.", None),
    ("Ask Juna.", "Frag sie.", "Ask Mira.", None),
])  # fmt: skip
def test_numbers_and_names_alone_are_exchanged(source: str, target: str, text: str, wanted: str | None) -> None:
    assert exchanged(source, target, text, names=("Juna", "Mira")) == wanted


def test_what_a_project_settled_changes_with_it_and_a_file_brings_a_pair_once(memory: Memory) -> None:
    own = {"project": "p1", "segment": "s1"}
    assert memory.put([unit("Yes.", "Ja.", **own), unit("Yes.", "Jawohl."), unit("Yes.", "Jawohl.")]) == 2
    memory.put([unit("Yes.", "Doch.", **own)])
    assert {one.target for one in memory.all_of()} == {"Doch.", "Jawohl."}
    assert memory.of_project("p1")["de-DE", "s1"].target == "Doch."
    assert memory.counts() == [("en-GB", "de-DE", 2)]


def test_entries_are_changed_muted_and_taken_away(memory: Memory) -> None:
    memory.put([unit("Yes.", "Ja."), unit("Yes, yes.", "Ja, ja.")])
    first = memory.holding("yes.")[-1]
    memory.set_target(first.id, " Jawohl,  ja. ")
    assert memory.exact("Yes.", "en-GB", "de-DE").target == "Jawohl, ja."  # type: ignore[union-attr]
    memory.mute([first.id], "p1")
    assert memory.matches("Yes.", "en-GB", "de-DE", project="p1") == []
    assert len(memory.matches("Yes.", "en-GB", "de-DE", project="p2")) == 1
    memory.mute([first.id], "p1", muted=False)
    assert len(memory.matches("Yes.", "en-GB", "de-DE", project="p1")) == 1
    memory.remove([first.id])
    for attempt in (lambda: memory.remove([first.id]), lambda: memory.set_target(first.id, "x")):
        with pytest.raises(StoreError, match=f"no unit {first.id}"):
            attempt()
    with pytest.raises(StoreError, match="needs words"):
        memory.set_target(first.id + 1, " ")


def test_any_stretch_is_found_in_either_language_without_regard_to_case(memory: Memory) -> None:
    memory.put(
        [unit("100% sure_ly.", "Ganz ÄHNLICH."), unit("Sure enough.", "Gewiss."), unit("潮が来る。", "Die Flut.")]
    )
    assert [one.source for one in memory.holding("SURE")] == ["Sure enough.", "100% sure_ly."]
    assert [one.source for one in memory.holding("% sure_")] == ["100% sure_ly."]
    assert [one.source for one in memory.holding("ähn")] == ["100% sure_ly."]
    assert [one.target for one in memory.holding("来")] == ["Die Flut."]
    assert memory.holding("sure", source_tag="fr-FR", target_tag="de-DE") == []
    assert memory.holding("  ") == []


def test_what_another_process_keeps_is_found_and_an_emptied_folder_is_made_anew(tmp_path: Path) -> None:
    file = tmp_path / "memory.sqlite"
    with Memory(file, late=20) as one, Memory(file, late=20) as other:
        one.put(unit(text, text) for text in sentences(100))
        assert len(other.matches("The ferry leaves.", "en-GB", "de-DE", most=1_000)) == len(
            one.matches("The ferry leaves.", "en-GB", "de-DE", most=1_000)
        )
        other.put([unit("Only here.", "Nur hier.")])
        assert one.matches("Only here.", "en-GB", "de-DE")[0].percent == 100
    shutil.rmtree(tmp_path / "memory-index")
    with Memory(file, late=20) as again:
        assert again.matches("Only here!", "en-GB", "de-DE")[0].percent == 99
        again.put([unit("And more.", "Und mehr.")])
        assert again._index is not None


def test_many_threads_ask_at_once(memory: Memory) -> None:
    memory.put(unit(text, text) for text in sentences(300))
    failed: list[BaseException] = []

    def ask(seed: int) -> None:
        try:
            for text in sentences(40, seed):
                memory.matches(text, "en-GB", "de-DE")
                memory.put([unit(text, str(seed))])
        except BaseException as error:
            failed.append(error)

    threads = [threading.Thread(target=ask, args=(seed,)) for seed in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failed == []


def test_a_file_that_is_no_memory_is_named(tmp_path: Path) -> None:
    file = tmp_path / "memory.sqlite"
    file.write_bytes(b"this is no database, and long enough to be sure of that" * 20)
    with pytest.raises(StoreError, match="cannot be used"):
        Memory(file)
    other = tmp_path / "other.sqlite"
    with Memory(other) as memory:
        memory.put([unit("Yes.", "Ja.")])
        with sqlite3.connect(other) as connection:
            connection.execute("DROP TABLE unit")
        connection.close()
        with pytest.raises(StoreError, match="cannot be used"):
            memory.matches("Yes.", "en-GB", "de-DE")
