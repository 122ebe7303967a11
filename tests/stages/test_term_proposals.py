"""Terms proposed from what is said, in several languages and scripts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import project_with
from zweistimme.project.model import Project
from zweistimme.project.term_edits import set_terms_said
from zweistimme.project.terms import PartOfSpeech
from zweistimme.stages.translate.term_proposals import proposals

GERMAN = [
    "Der Leuchtturm von Varnholm steht seit 1870.", "Die Glocke läutet jede Stunde.", "Frau Tesslin wartet am Kai.",
    "Ich habe die Glocke gehört.", "Am Leuchtturm war Frau Tesslin schon gestern.", "Das Rettungsboot liegt im Hafen.",
    "Das Rettungsboot von Varnholm ist alt.", "Wer hat das Rettungsboot repariert?", "Ida lacht.", "Wo ist Ida?",
    "Heute fährt Ida nach Varnholm.",
]  # fmt: skip
RUSSIAN = [
    "Маяк Варнхольма стоит давно.", "Спасательный катер в гавани.", "Кто чинил спасательный катер?",
    "Сегодня Ида едет в Варнхольм.", "На маяке нет спасательного катера.",
]  # fmt: skip
JAPANESE = ["灯台の鐘が鳴る。", "ヴァルンホルムの灯台は古い。", "ヴァルンホルムへ行く。"]
CHINESE = ["我们的救生艇停在港口里面。", "那艘救生艇已经很旧很旧了。", "谁修好了老港口的救生艇呢？"]


def said(tag: str, lines: list[str]) -> Project:
    return replace(project_with([(2.0 * k, 2.0 * k + 1.5, text) for k, text in enumerate(lines)]), source_tag=tag)


@pytest.mark.parametrize(("tag", "lines", "names", "nouns"), [
    ("de-DE", GERMAN, {"Varnholm", "Ida", "Frau Tesslin"}, {"Rettungsboot"}),
    ("ru-RU", RUSSIAN, {"Варнхольм"}, {"спасательный катер"}),
    ("ja-JP", JAPANESE, {"ヴァルンホルム"}, {"灯台"}),
    ("zh-CN", CHINESE, set(), {"救生艇"}),
    ("hi-IN", ["जीवन नौका बंदरगाह में है।", "जीवन नौका किसने ठीक की?"], set(), {"जीवन नौका"}),
])  # fmt: skip
def test_names_and_what_is_said_again_are_proposed(
    tag: str, lines: list[str], names: set[str], nouns: set[str]
) -> None:
    found = proposals(said(tag, lines))
    by_part = {part: {one.text for one in found if one.part is part} for part in PartOfSpeech}
    assert names <= by_part[PartOfSpeech.NAME]
    assert nouns <= by_part[PartOfSpeech.NOUN]
    assert len(found) <= 8, "what is proposed is worth looking at"


def test_what_is_a_term_already_is_not_proposed_again_and_two_hours_take_no_time() -> None:
    project = set_terms_said(said("de-DE", GERMAN), ["Varnholm", "Rettungsboot"])
    assert {"Varnholm", "Rettungsboot"}.isdisjoint(one.text for one in proposals(project))
    many = said("de-DE", [f"{line[:-1]} Nummer {k}." for k in range(200) for line in GERMAN])
    assert len(proposals(many, 20)) <= 20
