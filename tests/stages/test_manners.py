"""How voices speak: pace, pitch, level and quality for a person or a line; further takes; lines played together."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import partial
from pathlib import Path

import pytest

from cli.test_cli import run
from demo_project import work_on
from helpers import project_with, with_pitches
from zweistimme.engines.ledger import Period
from zweistimme.engines.offers import Control, Cost, EngineInfo, Price, Tier, Usage, VoiceInfo
from zweistimme.engines.protocol import Hear, Speech, SpeechRequest
from zweistimme.engines.registry import engine
from zweistimme.project import cast_edits, edits, manner_edits, speaker_edits
from zweistimme.project.errors import EditError, EngineError, MissingVoices
from zweistimme.project.facts import chosen_take
from zweistimme.project.model import Maker, Manner, Project, Speaker, Take, TakeKind
from zweistimme.project.progress import Step, progress
from zweistimme.project.reshape import merge_segments
from zweistimme.sentences import sentence_of
from zweistimme.sound.pitch import median_pitch_hz
from zweistimme.stages.answers import LineToSpeak, played_together
from zweistimme.stages.cast import check_cast
from zweistimme.stages.estimate import Estimate, spent_on
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.voice import manner_for, open_takes, voice
from zweistimme.stages.voice.exchanges import exchanges
from zweistimme.standin.engine import BundledEngine
from zweistimme.store.document import Document
from zweistimme.store.settings import ORDER, read_settings, write_settings

ROWS = [(1.0, 3.0, "Good morning."), (3.2, 5.0, "Where are we going?"), (9.0, 11.0, "See you tomorrow.")]
TAG = "de-DE"


def two_people() -> Project:
    """The second of three lines is said by somebody else, at once."""
    given = project_with(ROWS)
    people = {**given.speakers, "p2": Speaker("p2", "Tobin")}
    first, second, third = given.segments
    given = replace(given, speakers=people, segments=(first, replace(second, speaker_id="p2"), third))
    given = with_pitches(given, {"p1": 200.0, "p2": 120.0})
    return cast_edits.cast_voice(cast_edits.cast_voice(given, TAG, "p1", "alva"), TAG, "p2", "dario")


def voiced(document: Document) -> dict[str, Take]:
    """The chosen take of every line."""
    run_step(work_on(document), Step.TRANSLATION, TAG)
    run_step(work_on(document), Step.TAKES, TAG)
    version = document.project.versions[TAG]
    return {key: take for key, line in version.lines.items() if (take := chosen_take(version, line)) is not None}


def test_a_person_and_a_line_have_manners(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        usual = voiced(document)
        document.apply("Slower", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner(0.8, 1.2)))
        assert {item.segment.id for item in open_takes(document.project, TAG)} == {"s1", "s3"}, "his are stale alone"
        person = voiced(document)
        assert person["s1"].length_samples > 1.15 * usual["s1"].length_samples
        assert person["s2"].id == usual["s2"].id
        pitches = [median_pitch_hz(document.clips.get(take["s1"].clip), 48_000) or 0.0 for take in (usual, person)]
        assert pitches[1] == pytest.approx(1.2 * pitches[0], rel=0.08)
        document.apply(
            "Softer", partial(manner_edits.set_line_manner, tag=TAG, segment_id="s3", manner=Manner(volume_db=-9))
        )
        line = voiced(document)
        assert line["s1"].id == person["s1"].id
        assert line["s3"].id != person["s3"].id
        document.apply("As usual", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner()))
        assert voiced(document)["s1"].id == usual["s1"].id, "a take made before is used again"
        document.undo()
        document.undo()
        assert document.project.versions[TAG].manners == {"p1": Manner(0.8, 1.2)}
    with Document.open(tmp_path / "p") as document:
        assert document.project.versions[TAG].manners == {"p1": Manner(0.8, 1.2)}
        assert document.project.versions[TAG].lines["s3"].manner == Manner(volume_db=-9)


def test_who_made_it_and_for_how_much_is_known_afterwards(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        takes = voiced(document)
        maker = takes["s1"].maker
        assert maker is not None
        assert (maker.engine, maker.voice, maker.amount) == ("bundled", "Alva", 0.0)
        document.apply("Spanish", lambda p: edits.add_version(p, "es-ES"))
        run_step(work_on(document), Step.TRANSLATION, "es-ES")
        worded = document.project.versions["es-ES"].lines["s1"].maker
        assert worded is not None
        assert worded.engine == "bundled"


def test_another_take_is_another(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        first = voiced(document)["s1"]
        for number in (2, 3):
            run_step(work_on(document), Step.TAKES, TAG, segment_ids=["s1"])
            takes = [t for t in document.project.versions[TAG].takes.values() if t.segment_id == "s1"]
            assert len({take.clip for take in takes}) == number
            assert takes[-1].made_from == first.made_from


def test_what_a_voice_cannot_do_is_said(tmp_path: Path) -> None:
    said: list[str] = []
    with Document.create(tmp_path / "p", two_people()) as document:
        document.apply("Far", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner(4.0, 2.0)))
        run_step(work_on(document), Step.TRANSLATION, TAG)
        work = replace(work_on(document), say=lambda finding: said.append(sentence_of(finding)))
        run_step(work, Step.TAKES, TAG)
        assert sorted(said) == [
            f"The voice Alva goes not so far in {control}; it is spoken as near to what is wanted as it can."
            for control in ("pitch", "rate")
        ]
        with pytest.raises(EditError, match=r"between 0\.25 and 4"):
            document.apply("No", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner(9.0)))
        document.apply("Fine", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner(tier="fine")))
        with pytest.raises(EngineError, match=r"Alva is not to be had as “fine”; there is one quality alone"):
            run_step(work_on(document), Step.TAKES, TAG)


def test_a_tier_has_its_price() -> None:
    tiers = (Tier("plain"), Tier("fine", a_character=0.01))
    voice = VoiceInfo("v", "V", "man", ("de-DE",), controls=(Control("rate", 0.9, 1.1),), tiers=tiers)
    info = replace(engine().info(), voices=(voice,), price=Price(0.001, 0.0, "EUR"))
    assert info.price_of_speech("v", "fine").of(10).amount == 0.1
    assert info.price_of_speech("v", "").of(10).amount == 0.01
    assert manner_for(voice, Manner(1.05, tier="fine")) == (Manner(1.05, tier="fine"), ())
    assert manner_for(voice, Manner(2.0, pitch=1.1)) == (Manner(1.1), ("rate", "pitch"))


def test_lines_that_answer_each_other_are_asked_for_together(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[int] = []
    converse = BundledEngine.converse

    def counted(self: BundledEngine, request: object) -> object:
        asked.append(len(request.turns))  # type: ignore[attr-defined]
        return converse(self, request)  # type: ignore[arg-type]

    monkeypatch.setattr(BundledEngine, "converse", counted)
    with Document.create(tmp_path / "p", two_people()) as document:
        document.apply("Together", partial(manner_edits.play_together, tag=TAG, together=True))
        groups = exchanges(open_takes(document.project, TAG), TAG, None)
        assert [[item.segment.id for item in group] for group in groups] == [["s1", "s2"], ["s3"]]
        assert len(exchanges(open_takes(document.project, TAG), TAG, 150)) == 3
        takes = voiced(document)
        assert asked == [2]
        assert len(takes) == 3
        assert progress(document.project, document.project.versions[TAG])[Step.TAKES].complete
        assert voiced(document)["s1"].clip == takes["s1"].clip
        assert asked == [2], "what was answered is not asked for again"


def test_manners_on_the_command_line(tmp_path: Path) -> None:
    folder = tmp_path / "p"
    Document.create(folder, two_people()).close()
    said = run("cast", str(folder), "--rate", "Ada=1.1", "--volume", "Tobin=-3", "--together")
    assert said.returncode == 0, said.stderr
    assert "Ada: alva (rate 1.1)" in said.stdout
    assert "Tobin: dario (volume -3 dB)" in said.stdout
    assert run("line", str(folder), "1", "--to", TAG, "--pitch", "1.2", "--tier", "fine").returncode == 0
    row = json.loads(run("lines", str(folder), "--json").stdout)[TAG][0]
    assert row["manner"] == {"rate": 1.0, "pitch": 1.2, "volume_db": 0.0, "tier": "fine", "seed": 0}
    for arguments, sentence in (
        (["--rate", "1.1"], "names no speaker"),
        (["--rate", "Nobody=1.1"], "no speaker “Nobody”"),
        (["--pitch", "Ada=high"], "“high” is no number"),
    ):
        refused = run("cast", str(folder), *arguments)
        assert refused.returncode == 2
        assert sentence in refused.stderr
    assert run("line", str(folder), "1", "--to", TAG, "--rate", "9").returncode == 1


def test_manners_go_with_merged_people_and_lines() -> None:
    """Who gets a voice gets how it speaks; a line made of two keeps the manner that one of them had."""
    given = manner_edits.set_manner(two_people(), TAG, "p2", Manner(1.2))
    kept = speaker_edits.merge_speakers(given, "p2", "p1").versions[TAG]
    assert (kept.cast, kept.manners) == ({"p1": "alva"}, {})
    without = cast_edits.cast_voice(given, TAG, "p1", None)
    taken = speaker_edits.merge_speakers(without, "p2", "p1").versions[TAG]
    assert (taken.cast, taken.manners) == ({"p1": "dario"}, {"p1": Manner(1.2)})
    unlike = manner_edits.set_line_manner(speaker_edits.merge_speakers(given, "p2", "p1"), TAG, "s2", Manner(0.9))
    whole = merge_segments(unlike, ["s1", "s2"]).versions[TAG].lines["s1"]
    assert whole.manner == Manner(0.9)


def test_a_dialogue_costs_what_its_voices_cost(tmp_path: Path) -> None:
    tiers = (Tier("plain"), Tier("fine", a_character=0.01))
    voices = tuple(replace(voice, tiers=tiers) for voice in engine().info().voices)
    info = replace(engine().info(), voices=voices, price=Price(0.001, 0.0, "EUR"))
    given = manner_edits.set_manner(two_people(), TAG, "p1", Manner(tier="fine"))
    with Document.create(tmp_path / "p", manner_edits.play_together(given, TAG, True)) as document:
        run_step(work_on(document), Step.TRANSLATION, TAG)

        class Priced(BundledEngine):
            def info(self, *, anew: bool = False) -> EngineInfo:
                return info

        lines = [
            LineToSpeak("Ja.", "alva", TAG, manner=Manner(tier="fine")), LineToSpeak("Nein.", "dario", TAG)
        ]  # fmt: skip
        work = work_on(document)
        played_together(work, Priced(), lines)
        sizes = [len(line.request(line.text).ssml) for line in lines]
        assert work.ledger.spent("bundled", Period.EVER, "EUR") == pytest.approx(0.01 * sizes[0] + 0.001 * sizes[1])


def test_several_takes_of_a_line_are_several_and_the_first_is_chosen(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        voice(work_on(document), TAG, ["s1"] * 3)
        version = document.project.versions[TAG]
        takes = [take for take in version.takes.values() if take.segment_id == "s1"]
        assert len({take.clip for take in takes}) == 3
        assert sorted(take.label for take in takes) == ["take 1", "take 2", "take 3"]
        assert version.lines["s1"].take_id in {take.id for take in takes}


def test_a_line_may_have_a_voice_of_its_own(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        usual = voiced(document)
        document.apply("Slower", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner(0.8)))
        edit = partial(manner_edits.set_line_voices, tag=TAG, segment_ids=["s3"], voice="brandt")
        document.apply("Another voice", edit)
        todo = {item.segment.id: (item.voice, item.manner) for item in open_takes(document.project, TAG)}
        assert todo == {"s1": ("alva", Manner(0.8)), "s3": ("brandt", Manner())}, "the person's manner is for her voice"
        other = voiced(document)["s3"]
        assert other.maker is not None
        assert other.maker.voice == "Brandt"
        assert open_takes(document.project, TAG) == []
        document.apply("Back", partial(manner_edits.set_line_voices, tag=TAG, segment_ids=["s3"], voice=""))
        document.apply("As usual", partial(manner_edits.set_manner, tag=TAG, speaker_id="p1", manner=Manner()))
        assert voiced(document)["s3"].id == usual["s3"].id, "a take made before is used again"
    with Document.open(tmp_path / "p") as document:
        for _ in range(3):
            document.undo()
        assert document.project.versions[TAG].lines["s3"].voice == "brandt"


def test_the_speaker_s_own_voice_is_none_of_a_line() -> None:
    given = manner_edits.set_line_voices(two_people(), TAG, ["s1", "s2"], "alva")
    lines = given.versions[TAG].lines
    assert (lines["s1"].voice, lines["s2"].voice) == ("", "alva")
    alone = replace(given, versions={TAG: replace(given.versions[TAG], cast={"p1": "alva"})})
    check_cast(alone, [TAG])  # the one line of a person without a voice has one
    with pytest.raises(MissingVoices):
        check_cast(manner_edits.set_line_voices(alone, TAG, ["s2"], ""), [TAG])


def test_merged_lines_of_unlike_voices_have_no_take_in_common(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", two_people()) as document:
        document.apply("x", partial(manner_edits.set_line_voices, tag=TAG, segment_ids=["s2"], voice="brandt"))
        voiced(document)
        document.apply("Merge", partial(merge_segments, segment_ids=["s2", "s3"]))
        line = document.project.versions[TAG].lines["s2"]
        assert line.voice == ""  # a voice that not all had is nobody's
        assert [item.segment.id for item in open_takes(document.project, TAG)] == ["s2"]


def test_a_number_asks_a_voice_that_varies_for_another_way() -> None:
    given = manner_edits.set_manner(two_people(), TAG, "p1", Manner(seed=7))
    given = manner_edits.set_line_manner(given, TAG, "s3", Manner(seed=9))
    assert {item.segment.id: item.seed for item in open_takes(given, TAG)} == {"s1": 7, "s2": 0, "s3": 9}
    with pytest.raises(EditError, match="lies between"):
        manner_edits.set_line_manner(given, TAG, "s3", Manner(seed=-1))
    fixed = VoiceInfo("a", "A", "woman", (TAG,))
    assert manner_for(fixed, Manner(seed=3))[1] == ("seed",)
    assert manner_for(replace(fixed, varies=True), Manner(seed=3))[1] == ()


def test_the_tightest_are_asked_for_first_where_that_is_wanted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    speak = BundledEngine.speak

    def told(self: BundledEngine, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        asked.append(request.voice)
        return speak(self, request, hear)

    monkeypatch.setattr(BundledEngine, "speak", told)
    given = two_people()
    lines = given.versions[TAG].lines
    long_one = replace(lines["s2"], text="Wohin gehen wir denn heute Abend noch, und wer kommt alles mit uns dorthin?")
    version = replace(given.versions[TAG], lines={**lines, "s2": long_one})
    info = BundledEngine().info()
    one_by_one = replace(info, limits=replace(info.limits, at_once=1))
    monkeypatch.setattr(BundledEngine, "info", lambda _self, **_: one_by_one)
    for order, first in (("scenes", "alva"), ("tightest", "dario")):
        asked.clear()
        write_settings(read_settings().having(ORDER, order))
        with Document.create(tmp_path / order, replace(given, versions={TAG: version})) as document:
            voice(work_on(document), TAG)
        assert asked[0] == first


def test_what_was_paid_for_a_version_is_known() -> None:
    given = two_people()
    line = replace(given.versions[TAG].lines["s1"], maker=Maker("quay", amount=0.02, currency="EUR"))
    take = Take(
        "t", "s2", TakeKind.SYNTHESIZED, "take 1", "0" * 64, 9, 0, 9, "x", maker=Maker("quay", "1", "A", 0.3, "EUR")
    )
    version = replace(given.versions[TAG], lines={**given.versions[TAG].lines, "s1": line}, takes={"t": take})
    (spent,) = spent_on(replace(given, versions={TAG: version}), TAG)
    assert (spent.engine, spent.count, spent.amount) == ("quay", 2, 0.32)
    assert spent.sentence == "quay: 2 lines and takes, 0.32 EUR"
    assert spent_on(given, TAG) == []
    usage = Usage(characters_left=500)
    assert Estimate("quay", 1, Cost(100)).left_words(usage) == "500 characters are left at quay."
    assert "Only 500 of about 900" in Estimate("quay", 1, Cost(900)).left_words(usage)
    assert Estimate("quay", 1, Cost(900)).left_words(Usage()) == ""
