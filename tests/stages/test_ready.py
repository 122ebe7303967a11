"""What is not good about a version is said before it is handed over; where a person has to look first, it hinders."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest

from demo_project import work_on
from helpers import project_with
from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.protocol import TranslationItem, TranslationRequest, Wording, Wordings
from zweistimme.project.access import find_version
from zweistimme.project.checks import let_be
from zweistimme.project.edits import add_version, set_placements
from zweistimme.project.errors import NotReady, PartlyDone
from zweistimme.project.line_edits import put_line_as, set_line_text
from zweistimme.project.model import Pin, Project
from zweistimme.project.progress import Step
from zweistimme.project.writing import spoken_text
from zweistimme.stages.check.checker import Checker
from zweistimme.stages.check.words import NOT_TRANSLATED
from zweistimme.stages.fit.placements import planned, taken_lines
from zweistimme.stages.handover import MANIFEST, hand_over, open_points, ready_versions
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.voice.directions import unknown_directions
from zweistimme.standin.translator import translate
from zweistimme.store.document import Document

TAG = "de-DE"
ROWS = [(0.5, 2.5, "It turns."), (3.0, 5.0, "Twice a day."), (5.5, 6.5, "Good.")]


def fitted(project: Project | None = None) -> Project:
    project = project or project_with(ROWS, takes=[2.0, 2.0, 1.0])
    return set_placements(project, TAG, planned(project, TAG, taken_lines(project, TAG)))


def codes(project: Project) -> list[str]:
    return [one.code for one in open_points(project, TAG)]


def test_words_that_were_not_translated_are_told_by_their_places() -> None:
    """By the answer of an engine, in the wording until somebody translates them, and never aloud."""
    request = TranslationRequest("en-GB", "de-DE", (TranslationItem("s1", "The zorbel is high."),))
    (item,) = translate(request).items
    wording = item.wordings[0]
    ((start, end),) = wording.untranslated
    assert wording.text[start:end] == "zorbel"
    assert "⟦" not in wording.text
    assert "⟦zorbel⟧" in item.texts[0]
    assert spoken_text(item.texts[0]) == wording.text
    assert Wordings("s1", (Wording("a b c", 0, ((2, 3),)),)).texts == ("a ⟦b⟧ c",)


def test_untranslated_words_are_noticed_and_hinder_until_somebody_lets_them_be() -> None:
    project = fitted(set_line_text(project_with(ROWS, takes=[2.0, 2.0, 1.0]), TAG, "s2", "Zweimal ⟦daily⟧."))
    (noticed,) = [one for one in Checker().line(project, TAG, project.segments[1]) if one.code == NOT_TRANSLATED]
    assert (noticed.start, noticed.end, noticed.finding.figures["words"]) == (8, 15, "daily")
    ready, held = ready_versions(project, [TAG])
    assert ready == []
    assert "words that were not translated, in 1 line: 2 at" in str(held[0])
    looked_at = let_be(project, TAG, "s2", NOT_TRANSLATED)
    assert ready_versions(looked_at, [TAG]) == ([TAG], [])
    assert "lines-untranslated" in codes(looked_at)


def test_each_thing_that_is_not_good_is_said() -> None:
    assert codes(fitted()) == []
    without = project_with(ROWS, takes=[2.0, 2.0, 1.0])
    lines = {**find_version(without, TAG).lines, "s1": replace(find_version(without, TAG).lines["s1"], take_id=None)}
    without = replace(without, versions={TAG: replace(find_version(without, TAG), lines=lines)})
    assert codes(fitted(without)) == ["lines-without-take"]
    assert codes(set_line_text(fitted(), TAG, "s1", "Anders.")) == ["lines-stale"]
    project = project_with(ROWS, takes=[2.0, 2.0, 1.0])
    pinned = put_line_as(project, TAG, "s1", pin=Pin(500_000, 4_000_000))
    assert codes(fitted(pinned)) == ["lines-clash-at"]
    assert project.programme is not None
    late = put_line_as(project, TAG, "s3", pin=Pin(project.programme.sound.duration_us - 200_000))
    assert codes(fitted(late)) == ["lines-behind-end-at"]
    silent = replace(project.segments[2], id="s4", start_us=7_000_000, end_us=8_000_000, text="", words=())
    assert codes(replace(fitted(), segments=(*project.segments, silent))) == ["stretches-unworded"]
    told = fitted(put_line_as(project, TAG, "s2", direction="stern and angry"))
    assert "directions-unheard" in codes(told)
    (said,) = [one for one in open_points(told, TAG) if one.code == "directions-unheard"]
    assert (said.figures["lines"], str(said.figures["places"])[:4]) == (1, "2 at")


def test_a_direction_is_known_by_its_name_wherever_it_stands() -> None:
    voice = VoiceInfo("v", "V", "woman", ("de-DE",), directions=("whispering",))
    line = replace(find_version(project_with(ROWS), TAG).lines["s1"], text="Ja [Whispering] nein [lachend] doch.")
    assert unknown_directions(line, voice) == ["lachend"]
    assert unknown_directions(replace(line, direction="stern"), voice) == ["stern", "lachend"]


def test_what_is_ready_is_handed_over_and_the_rest_named(demo: Document, tmp_path: Path) -> None:
    demo.apply("x", lambda p: add_version(p, "fr-FR"))
    with pytest.raises(PartlyDone, match="2 versions are handed over; not: Nothing of French"):
        run_step(work_on(demo), Step.HANDOVER, "de-DE", tmp_path)
    listed = json.loads((tmp_path / MANIFEST).read_text(encoding="utf-8"))
    assert {entry["language"] for entry in listed["files"]} >= {"de-DE", "es-ES"}
    with pytest.raises(NotReady, match="Nothing of French"):
        hand_over(work_on(demo), ["fr-FR"], tmp_path)


def test_a_version_in_the_language_of_the_original_has_its_words(tmp_path: Path) -> None:
    """To voice a programme anew in its own language is a job of its own; no translator is needed."""
    with Document.create(tmp_path / "p", add_version(project_with(ROWS), "en-US")) as document:
        run_step(work_on(document), Step.TRANSLATION, "en-US")
        lines = document.project.versions["en-US"].lines
        assert [line.text for line in lines.values()] == [text for _, _, text in ROWS]
