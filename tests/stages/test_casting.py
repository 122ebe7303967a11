"""Voices proposed for everybody at once, what is known of them, and what was chosen before."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from zweistimme.engines.offers import Control, Tier, VoiceInfo
from zweistimme.project.cast_edits import cast_voice, propose_voices, refuse_stand_in, settle_voice
from zweistimme.project.edits import add_version
from zweistimme.project.errors import EditError, StoreError
from zweistimme.project.model import Project, Segment, Speaker
from zweistimme.project.speaker_edits import merge_speakers, remove_speaker
from zweistimme.project.transcript import set_transcript
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.stages.cast import coverage, people_to_cast
from zweistimme.stages.cast.able import able_voices
from zweistimme.stages.cast.earlier import earlier_voices, remember_voices
from zweistimme.stages.cast.finding import VoiceSearch
from zweistimme.stages.cast.likeness import described_traits, distances, features, likely_kind, plane
from zweistimme.stages.cast.proposing import PersonToCast, VoiceOnOffer, proposals
from zweistimme.stages.cast.shortlist import SHORTLIST, put_on_shortlist, shortlist, take_off_shortlist

TAG = "de-DE"


def traits(hz: float | None, tract: float, harmonic_db: float = 12.0) -> VoiceTraits:
    return VoiceTraits(hz, 2.0, tract, 4.0, harmonic_db, 4.0, 5.0)


def offer(ref: str, hz: float, tract: float, kind: str = "woman", tag: str = TAG, **more: float) -> VoiceOnOffer:
    return VoiceOnOffer(ref, VoiceInfo(ref, ref.title(), kind, (tag,)), traits(hz, tract), **more)


def person(key: str, hz: float, tract: float = 1.1, **more: object) -> PersonToCast:
    return PersonToCast(key, key.title(), traits(hz, tract), **more)  # type: ignore[arg-type]


def voices_of(people: list[PersonToCast], voices: list[VoiceOnOffer]) -> dict[str, str]:
    return {key: one.voice for key, one in proposals(people, voices, TAG).items()}


def test_everybody_gets_the_voice_that_is_most_alike_and_nobody_another_s() -> None:
    voices = [offer("low", 105, 0.98, "man"), offer("high", 215, 1.14), offer("higher", 240, 1.2)]
    assert voices_of([person("a", 210), person("b", 104, 0.97)], voices) == {"a": "high", "b": "low"}
    # one after the other, the first would have the voice that the second cannot do without
    assert voices_of([person("a", 226, 1.17), person("b", 214, 1.13)], voices) == {"a": "higher", "b": "high"}


def test_with_too_few_voices_they_are_shared_and_it_is_said() -> None:
    found = proposals([person("a", 210), person("b", 205)], [offer("one", 200, 1.1)], TAG)
    assert {one.voice for one in found.values()} == {"one"}
    assert "voice-shared" in [reason.code for reason in found["a"].reasons]
    assert proposals([person("a", 210)], [], TAG) == {}


def test_what_a_person_chose_stays_and_is_not_given_to_others() -> None:
    voices = [offer("one", 210, 1.13), offer("two", 190, 1.1)]
    found = voices_of([person("a", 120, 0.98, settled="one"), person("b", 210, 1.13)], voices)
    assert found == {"b": "two"}


def test_people_of_one_scene_are_told_apart() -> None:
    """Three voices, two of them twins: who talks to the other does not get the twin, even where it is nearer."""
    voices = [offer("twin", 210, 1.13), offer("other twin", 212, 1.13), offer("apart", 175, 1.08)]
    strangers = [person("a", 210, 1.13), person("b", 206, 1.125)]
    together = [replace(strangers[0], talks_to={"b": 9}), replace(strangers[1], talks_to={"a": 9})]
    assert set(voices_of(strangers, voices).values()) == {"twin", "other twin"}
    assert "apart" in voices_of(together, voices).values()


def test_kind_region_price_and_what_was_before_count_where_voices_are_alike() -> None:
    man, woman = offer("man", 160, 1.05, "man"), offer("woman", 160, 1.05, "woman")
    assert voices_of([person("a", 200, 1.14)], [man, woman]) == {"a": "woman"}
    near, far = offer("near", 200, 1.1, tag="es-MX"), offer("far", 200, 1.1, tag="es-ES")
    assert proposals([person("a", 200)], [far, near], "es-MX")["a"].voice == "near"
    dear, cheap = offer("dear", 200, 1.1, price=0.02), offer("cheap", 201, 1.1, price=0.0)
    assert voices_of([person("a", 200)], [dear, cheap]) == {"a": "cheap"}
    known = person("a", 200, earlier=("second",))
    found = proposals([known], [offer("first", 200, 1.1), offer("second", 214, 1.12)], TAG)["a"]
    assert found.voice == "second"
    assert "voice-earlier" in [reason.code for reason in found.reasons]


def test_a_voice_of_which_nothing_is_known_is_not_taken_for_the_nearest() -> None:
    unknown = VoiceOnOffer("unknown", VoiceInfo("unknown", "Unknown", "", (TAG,)))
    man = VoiceOnOffer("man", VoiceInfo("man", "Man", "man", (TAG,)))
    assert described_traits(unknown.info) is None
    assert voices_of([person("a", 112, 0.99)], [unknown, man]) == {"a": "man"}
    assert voices_of([person("a", 240, 1.2)], [unknown, man]) == {"a": "unknown"}


def test_the_plane_keeps_near_what_is_alike() -> None:
    random = np.random.default_rng(3)
    known = [
        VoiceTraits(float(hz), float(random.normal(2, 0.4)), float(0.9 + hz / 900 + random.normal(0, 0.03)),
                    float(random.normal(4, 2)), float(random.normal(11, 2)), float(random.normal(4, 0.5)), 5.0)
        for hz in random.uniform(90, 320, 60)
    ]  # fmt: skip
    rows = features(known)
    places, apart = plane(rows), distances(rows, rows)
    flat = np.linalg.norm(places[:, None] - places[None], axis=2)
    upper = np.triu_indices(60, 1)
    assert np.corrcoef(apart[upper], flat[upper])[0, 1] > 0.85
    assert np.corrcoef([one.pitch_hz or 0 for one in known], places[:, 0])[0, 1] > 0.9
    assert np.abs(places).max() <= 1
    assert plane(features([])).shape == (0, 2)
    assert plane(features(known[:1])).shape == (1, 2)


def test_a_loud_room_makes_nobody_another_kind_of_voice() -> None:
    """What depends on the microphone is compared within the programme and within the voices."""
    people = features([replace(traits(hz, 1.1), bright_db=-9.0) for hz in (120.0, 180.0, 240.0)])
    voices = features([replace(traits(hz, 1.1), bright_db=6.0) for hz in (120.0, 180.0, 240.0)])
    assert np.diag(distances(people, voices)).max() < 0.01


@pytest.mark.parametrize(
    ("hz", "tract", "kind"), [(110, 1.0, "man"), (215, 1.15, "woman"), (290, 1.3, "child"), (158, 1.065, "")]
)
def test_the_kind_of_a_voice_is_said_where_it_is_clear(hz: float, tract: float, kind: str) -> None:
    assert likely_kind(traits(hz, tract)) == kind


def project_of_two() -> Project:
    segments = [Segment("a", "p1", 0, 1_000_000, "One"), Segment("b", "p2", 2_000_000, 3_000_000, "Two")]
    project = add_version(Project("x", "en-GB"), TAG)
    return set_transcript(project, [Speaker("p1", "Ada", 200.0), Speaker("p2", "Ben", 105.0)], segments)


def test_what_is_proposed_replaces_nobody_s_choice() -> None:
    project = cast_voice(project_of_two(), TAG, "p1", "mine")
    project = propose_voices(project, TAG, {"p1": "theirs", "p2": "other", "gone": "x"})
    assert dict(project.versions[TAG].cast) == {"p1": "mine", "p2": "other"}
    assert project.versions[TAG].cast_chosen == ("p1",)
    project = propose_voices(settle_voice(project, TAG, "p1", False), TAG, {"p1": "theirs"})
    assert project.versions[TAG].cast["p1"] == "theirs"
    assert settle_voice(project, TAG, "p2", True).versions[TAG].cast_chosen == ("p2",)
    assert cast_voice(project, TAG, "p2", None).versions[TAG].cast_chosen == ()


def test_whose_voice_was_chosen_goes_with_the_person() -> None:
    project = cast_voice(project_of_two(), TAG, "p1", "mine")
    merged = merge_speakers(project, "p1", "p2").versions[TAG]
    assert (dict(merged.cast), merged.cast_chosen) == ({"p2": "mine"}, ("p2",))
    silent = replace(project, segments=project.segments[1:])
    assert remove_speaker(silent, "p1").versions[TAG].cast_chosen == ()


def test_who_comes_back_is_offered_the_voice_of_before() -> None:
    project = cast_voice(project_of_two(), TAG, "p1", "mine")
    remember_voices(project, TAG)
    remember_voices(cast_voice(project, TAG, "p1", "newer"), TAG)
    assert earlier_voices(TAG)["ada"] == ("newer", "mine")
    assert earlier_voices("fr-FR") == {}
    assert people_to_cast(project_of_two(), TAG)[0].earlier == ("newer", "mine")


def test_the_list_of_voices_is_kept_with_notes_and_damage_is_said() -> None:
    assert shortlist() == {}
    put_on_shortlist("alva", " clear,\n even ")
    put_on_shortlist("quay/x")
    take_off_shortlist("quay/x")
    assert shortlist() == {"alva": "clear, even"}
    SHORTLIST.path.write_text("{", encoding="utf-8")
    with pytest.raises(StoreError, match="cannot be read"):
        shortlist()


def test_voices_are_found_by_what_they_are() -> None:
    info = VoiceInfo(
        "a", "Ágnes", "female", ("hu-HU",), "bright, quick", directions=("whispering",), region="HU",
        controls=(Control("rate", 0.5, 2.0),), varies=True, tiers=(Tier("fine"),),
    )  # fmt: skip
    voices = [VoiceOnOffer("quay/a", info, price=0.01), offer("b", 120, 1.0, "man")]

    def refs(**wanted: object) -> list[str]:
        return [one.ref for one in VoiceSearch(**wanted).found(voices, {"b"})]  # type: ignore[arg-type]

    assert refs(text="agnes quick") == refs(kind="woman") == refs(language="hu") == refs(region="hu") == ["quay/a"]
    assert refs(engine="quay") == refs(tier="fine") == refs(control="rate") == refs(varies=True) == ["quay/a"]
    assert refs(direction="whispering") == refs(text="magyar") == ["quay/a"]
    assert refs(dearest=0.001) == refs(listed=True) == ["b"]
    assert refs(text="nobody") == []
    assert refs() == ["quay/a", "b"]


def test_it_is_said_with_which_voices_a_version_can_be_spoken() -> None:
    project = add_version(project_of_two(), "gl-ES")
    voices = [offer("d", 100, 1.0).info, offer("p", 100, 1.0, tag="pt-PT").info, offer("s", 100, 1.0, tag="es-ES").info]
    assert coverage(project, TAG, voices).kind == "own"
    related = coverage(project, "gl-ES", voices)
    assert (related.kind, list(related.related)) == ("related", ["pt", "es"])
    assert coverage(replace(project, substitutes=False), "gl-ES", voices).kind == "none"
    refused = refuse_stand_in(project, "gl-ES", "pt", refused=True)
    assert coverage(refused, "gl-ES", voices).refused == ("pt",)
    assert [voice.id for voice in able_voices(refused, "gl-ES", voices)] == ["s"]
    both = refuse_stand_in(refused, "gl-ES", "es", refused=True)
    assert (coverage(both, "gl-ES", voices).kind, able_voices(both, "gl-ES", voices)) == ("none", [])
    assert refuse_stand_in(refused, "gl-ES", "pt", refused=False) == project
    with pytest.raises(EditError, match="es"):
        refuse_stand_in(project, "gl-ES", "de", refused=True)
    assert coverage(project, TAG, voices[1:]).kind == "none"


def test_of_many_voices_the_few_that_matter_give_the_same() -> None:
    random = np.random.default_rng(5)
    voices = [offer(f"v{n}", float(random.uniform(90, 320)), float(random.uniform(0.9, 1.4))) for n in range(300)]
    people = [person(f"p{n}", float(random.uniform(90, 320)), float(random.uniform(0.9, 1.4))) for n in range(6)]
    found = proposals(people, voices, TAG)
    for one in people:
        steps = distances(features([one.traits]), features([voice.traits for voice in voices]))[0]
        named = {voice.ref: float(step) for voice, step in zip(voices, steps, strict=True)}
        assert named[found[one.key].voice] < np.percentile(steps, 4)
        assert found[one.key].reasons[0].figures["count"] == 300


def test_it_is_said_which_related_language_a_voice_speaks() -> None:
    info = VoiceInfo("two", "Two", "woman", ("fr-FR", "es-ES"))
    found = proposals([person("a", 200)], [VoiceOnOffer("two", info, traits(200, 1.1), stands_in="es-ES")], "gl-ES")
    assert {r.code: r.figures for r in found["a"].reasons}["voice-related"] == {"language": "es-ES"}
