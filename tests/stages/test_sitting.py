"""A dub sits where the original sat: in ten generated rooms, as loud line by line, and where somebody put it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile
from scipy.signal import fftconvolve

from demo_project import work_on
from zweistimme.formats.ssml import Span
from zweistimme.project import delivery_edits, edits, fit_edits, line_edits, manner_edits, transcript
from zweistimme.project.facts import IMPORTED_VOICE, source_fingerprint, take_fingerprint
from zweistimme.project.hand_fit import PhraseHand
from zweistimme.project.mix_settings import Beneath, MixSettings, Place, Treatment
from zweistimme.project.model import Line, Manner, Placement, Project, Segment, Speaker, Style, Take, TakeKind, Word
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.sound.arrays import Mono, Sound, decibels
from zweistimme.sound.long_spectrum import BANDS_HZ, frame_powers, mean_powers, spoken
from zweistimme.sound.loudness import EnergyMeter, gated_energy
from zweistimme.sound.room_response import Room, response_of, rung
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.fit.render import fitted_clip
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix.heard import Listening, heard_mix
from zweistimme.stages.mix.opening import MixLanes, opened_mix
from zweistimme.stages.mix.original_voices import measured_voices, spans_alone
from zweistimme.standin.voice import speak_spans, voice_by_id
from zweistimme.store.document import Document

TAG = "de-DE"
SAID = (
    "Every evening the harbour lies quiet, and the boats come in with the tide.",
    "Nobody has seen him since. They left the light on.", "What did she tell you? I heard it go. It turns!",
    "Twice a day the sea walks up these steps, and twice a day it leaves again.",
)  # fmt: skip
DUBBED = (
    "Jeden Abend liegt der Hafen still, und die Boote kommen mit der Flut.", "Niemand hat ihn seitdem gesehen.",
    "Was hat sie gesagt? Ich habe es gehört.", "Zweimal am Tag steigt das Meer diese Stufen herauf.",
)  # fmt: skip
PAUSE_S = 2.2
DECAYS_S = (0.3, 0.35, 0.4, 0.5, 0.6, 0.7, 0.85, 1.0, 1.2, 1.4)


def spoken_by(name: str, texts: tuple[str, ...], tag: str) -> list[Mono]:
    voice = voice_by_id(name)
    assert voice is not None
    return [0.4 * speak_spans([Span(text)], tag, voice).samples for text in texts]


@pytest.fixture(scope="module")
def voices() -> tuple[list[Mono], list[Mono]]:
    return spoken_by("alva", SAID, "en-GB"), spoken_by("brandt", DUBBED, TAG)


def dubbed(
    folder: Path, lines: list[Mono], takes: list[Mono], seconds: float = 0.0, levels_db: tuple[float, ...] = ()
) -> Document:
    """A programme of some lines by one person in a room that rings so long, each line at its level; and its dub, each
    take where the line is."""
    at, parts, segments = 1.0, [np.zeros(RATE, np.float32)], []
    for number, line in enumerate(lines):
        level = 10 ** ((levels_db[number] if levels_db else 0.0) / 20)
        start, end = seconds_to_us(at), seconds_to_us(at + len(line) / RATE)
        segments.append(Segment(f"s{number}", "p1", start, end, SAID[number % len(SAID)], on_screen=True))
        parts += [line * level, np.zeros(round(PAUSE_S * RATE), np.float32)]
        at += len(line) / RATE + PAUSE_S
    sound = np.concatenate(parts)
    if seconds:
        sound = sound + 1.5 * rung(sound, response_of(Room((seconds,) * 4)))[0]
    noise = np.convolve(np.random.default_rng(1).standard_normal(len(sound)), np.full(8, 0.125), "same")
    folder.mkdir(parents=True, exist_ok=True)
    soundfile.write(folder / "a.wav", sound + 0.0005 * noise, RATE, "PCM_24")
    document = Document.create(folder / "p", edits.add_version(Project("Rooms", "en-GB"), TAG))
    bring_in(work_on(document), Intake(folder / "a.wav"))
    document.apply("Transcript", lambda p: transcript.set_transcript(p, [Speaker("p1", "Mira")], segments))
    for number, (segment, samples) in enumerate(zip(segments, takes, strict=True)):
        line = Line(segment.id, DUBBED[number % len(DUBBED)], source_fingerprint(segment))
        clip, made_from = document.clips.put(samples), take_fingerprint(line, IMPORTED_VOICE)
        take = Take(f"t{number}", segment.id, TakeKind.IMPORTED, "a", clip, len(samples), 0, len(samples), made_from)
        length_us = round(len(samples) / RATE * 1e6)
        placed = Placement(segment.id, take.id, segment.start_us, length_us, 1.0, (), "x")
        document.apply("Line", lambda p, s=segment: line_edits.set_line_text(p, TAG, s.id, "Ja."))
        document.apply("Take", lambda p, t=take: edits.add_take(p, TAG, t))
        document.apply("Place", lambda p, q=placed: edits.put_placements(p, TAG, [q]))
    return document


@contextmanager
def lanes_of(document: Document) -> Iterator[MixLanes]:
    with ExitStack() as stack:
        yield opened_mix(work_on(document), TAG, stack)[0]


def dub_and_room(document: Document) -> tuple[Mono, Sound]:
    with lanes_of(document) as lanes:
        return lanes.dub.read(0, lanes.length), lanes.dub.room(0, lanes.length)


def places(document: Document) -> list[Place]:
    with lanes_of(document) as lanes:
        return [one.place for one in lanes.sitting.treatments.values()]


def line_db(lane: Mono, document: Document, number: int) -> float:
    placement = document.project.versions[TAG].placements[f"s{number}"]
    start = round(placement.start_us * RATE / 1e6)
    meter = EnergyMeter(1)
    meter.feed(lane[None, start : start + round(placement.length_us * RATE / 1e6)])
    return 10 * float(np.log10(gated_energy(meter.energies()) + 1e-20))


def dub_of(document: Document) -> Mono:
    return dub_and_room(document)[0]


@pytest.mark.parametrize("seconds", DECAYS_S)
def test_in_ten_rooms_the_dub_has_the_original_s_room_and_tone(
    seconds: float, voices: tuple[list[Mono], list[Mono]], tmp_path: Path
) -> None:
    lines, takes = voices
    with dubbed(tmp_path, lines, takes, seconds) as document:
        found = measured_voices(work_on(document))
        assert found is not None
        assert np.median(found.people["p1"].decays_s) == pytest.approx(seconds, rel=0.2)
        dub, room = dub_and_room(document)
        assert decibels(np.abs(room).max() / np.abs(dub).max()) > -30
        original = found.people["p1"].bands()
        powers = frame_powers(dub)
        made = mean_powers(powers[spoken(powers)])
        bands = np.array(BANDS_HZ)
        before = mean_powers(np.concatenate([frame_powers(take) for take in takes]))
        told = (bands > 150) & (original.levels_db() > original.levels_db().max() - 35)
        apart = [smooth(one.levels_db() - original.levels_db())[told] for one in (before, made)]
        rms = [float(np.sqrt(np.mean((one - np.median(one)) ** 2))) for one in apart]
        assert rms[1] < 2.0
        assert rms[1] < rms[0]


def smooth(bands_db: np.ndarray) -> np.ndarray:
    return np.convolve(np.pad(bands_db, 1, mode="edge"), [0.25, 0.5, 0.25], "valid")


def test_each_line_is_as_loud_beside_the_others_as_the_original_s(
    voices: tuple[list[Mono], list[Mono]], tmp_path: Path
) -> None:
    lines, takes = voices
    wanted = (0.0, -9.0, 4.0, -3.0)
    unlike = [take * np.float32(10 ** (level / 20)) for take, level in zip(takes, (-8, 2, -3, 0), strict=True)]
    with dubbed(tmp_path, lines, unlike, levels_db=wanted) as document:
        dub = dub_of(document)
        heard = [line_db(dub, document, number) for number in range(4)]
        whole = soundfile.read(tmp_path / "a.wav", dtype="float32")[0]
        segments = document.project.segments
        original = [
            10 * np.log10(energy_of(whole[round(s.start_us * 0.048) : round(s.end_us * 0.048)])) for s in segments
        ]
        apart = np.array(heard) - np.array(original)
        assert np.abs(apart - apart.mean()).max() < 1.5
        document.apply(
            "Mix", lambda p: delivery_edits.set_mix(p, MixSettings(treatment=Treatment(line_levels=False)), TAG)
        )
        even = [line_db(dub_of(document), document, number) for number in range(4)]
        assert np.ptp(even) < np.ptp(heard) - 3


def energy_of(samples: Mono) -> float:
    meter = EnergyMeter(1)
    meter.feed(samples[None, :])
    return gated_energy(meter.energies())


def test_somebody_may_want_a_line_or_a_person_louder(voices: tuple[list[Mono], list[Mono]], tmp_path: Path) -> None:
    with dubbed(tmp_path, *voices) as document:
        before = dub_of(document)
        document.apply("a", lambda p: manner_edits.set_line_manner(p, TAG, "s1", Manner(volume_db=-4.0)))
        document.apply("b", lambda p: manner_edits.set_manner(p, TAG, "p1", Manner(volume_db=2.0)))
        after = dub_of(document)
        louder = [line_db(after, document, k) - line_db(before, document, k) for k in range(4)]
        assert louder == pytest.approx([2.0, -2.0, 2.0, 2.0], abs=0.05)


def test_a_phrase_louder_makes_nothing_else_softer(voices: tuple[list[Mono], list[Mono]], tmp_path: Path) -> None:
    with dubbed(tmp_path, *voices) as document:
        (take,) = (one for one in document.project.versions[TAG].takes.values() if one.segment_id == "s1")
        middle_us = round(take.length_samples / 0.096)
        words = (Word("Ja", 0, middle_us), Word("doch.", middle_us, 2 * middle_us))
        pause = round(middle_us * 0.048)
        cut = replace(take, words=words, pauses_samples=((pause - 2_400, pause),))
        document.apply("Take", lambda p: edits.add_take(p, TAG, cut))
        before = dub_of(document)
        document.apply("a", lambda p: fit_edits.set_phrase(p, TAG, "s1", PhraseHand(1, gain_db=6.0206)))
        after = dub_of(document)
        start = round(document.project.segments[1].start_us * 0.048)
        changed = np.flatnonzero(np.abs(after - before) > 1e-6)
        assert start + pause - 4_800 < changed[0]
        assert changed[-1] < start + take.length_samples
        span = slice(start + pause + 4_800, start + take.length_samples - 4_800)
        assert np.allclose(after[span], 2 * before[span], rtol=0.01, atol=1e-6)


@pytest.mark.parametrize("place", [Place.TELEPHONE, Place.LOUDSPEAKER, Place.FAR])
def test_a_place_is_heard_and_taken_back(place: Place, voices: tuple[list[Mono], list[Mono]], tmp_path: Path) -> None:
    with dubbed(tmp_path, *voices, 0.6) as document:
        near, near_room = dub_and_room(document)
        document.apply("Place", lambda p: transcript.set_place(p, ["s0"], place))
        there, room = dub_and_room(document)
        placement = document.project.versions[TAG].placements["s0"]
        span = slice(RATE, RATE + round(placement.length_us * 0.048))
        assert np.array_equal(there[span.stop + RATE :], near[span.stop + RATE :])
        assert line_db(there, document, 0) == pytest.approx(line_db(near, document, 0), abs=0.3)
        lost = 10 * np.log10(frame_powers(there[span]).mean(axis=0) / frame_powers(near[span]).mean(axis=0))
        high = float(lost[np.array(BANDS_HZ) > 6_000].mean())
        assert high < (-25 if place is Place.TELEPHONE else -3 if place is Place.FAR else -8)
        louder = float((room[:, span] ** 2).sum() / (near_room[:, span] ** 2).sum())
        assert louder == 0 if place is Place.TELEPHONE else louder > 1.2
        document.undo()
        assert np.array_equal(dub_of(document), near)


def test_who_is_off_screen_is_at_a_distance_and_who_never_is_seen_is_near(
    voices: tuple[list[Mono], list[Mono]], tmp_path: Path
) -> None:
    with dubbed(tmp_path, *voices, 0.6) as document:
        document.apply("Off", lambda p: transcript.set_on_screen(p, ["s1"], False))
        assert places(document) == [Place.NEAR, Place.FAR, Place.NEAR, Place.NEAR]
        document.apply("Off", lambda p: transcript.set_on_screen(p, [s.id for s in p.segments], False))
        assert set(places(document)) == {Place.NEAR}


def test_everything_can_be_left_out(voices: tuple[list[Mono], list[Mono]], tmp_path: Path) -> None:
    nothing = Treatment(False, False, False, False, False, False)
    with dubbed(tmp_path, *voices, 0.6) as document:
        document.apply("Mix", lambda p: delivery_edits.set_mix(p, MixSettings(treatment=nothing)))
        dub, room = dub_and_room(document)
        assert not room.any()
        version = document.project.versions[TAG]
        fitted = fitted_clip(version.takes["t0"], version.placements["s0"], document.clips, document.cache)
        heard = dub[RATE : RATE + len(fitted)]
        assert heard == pytest.approx(float(heard @ fitted / (fitted @ fitted)) * fitted, abs=1e-6)
        document.apply("Style", lambda p: edits.set_version_style(p, TAG, Style.VOICE_OVER, p.versions[TAG].preference))
        document.apply("Mix", lambda p: delivery_edits.set_mix(p, MixSettings()))
        assert not dub_and_room(document)[1].any(), "a voice-over stands in no room"


def test_what_the_desk_plays_is_what_is_written_with_and_without_the_room(
    voices: tuple[list[Mono], list[Mono]], tmp_path: Path
) -> None:
    with dubbed(tmp_path, *voices, 0.6) as document:
        dub, room = dub_and_room(document)
        stems, without, nobody = (
            heard_dub(document, one) for one in (Listening(), Listening(room=False), Listening(people=frozenset()))
        )
        factor = float(without[0] @ dub / (dub @ dub))
        assert without[0] == pytest.approx(factor * dub, abs=1e-5)
        assert stems == pytest.approx(factor * (dub + room), abs=1e-5)
        assert not nobody.any()


def heard_dub(document: Document, listening: Listening) -> Sound:
    """The dub as the desk plays it."""
    with closing(heard_mix(document.project, TAG, document.clips, document.cache, listening)) as heard:
        assert heard.levels_known
        return heard.read(0, heard.length)[:2]


def test_room_tone_takes_the_original_s_place_where_somebody_speaks(
    voices: tuple[list[Mono], list[Mono]], tmp_path: Path
) -> None:
    with dubbed(tmp_path, *voices) as document:
        document.apply("Mix", lambda p: delivery_edits.set_mix(p, MixSettings(beneath=Beneath.ROOM_TONE)))
        with lanes_of(document) as lanes:
            under = lanes.under.read(0, lanes.length)[0]
        original = soundfile.read(tmp_path / "a.wav", dtype="float32")[0]
        segment = document.project.segments[0]
        start, end = (round(at * 0.048) for at in (segment.start_us, segment.end_us))
        pause = original[end + RATE // 2 : end + 2 * RATE]
        level = [float(decibels(np.sqrt((one**2).mean()))) for one in (under[start:end], pause, original[start:end])]
        assert level[0] == pytest.approx(level[1], abs=1.5)
        assert level[2] > level[1] + 20
        assert under[end + RATE : end + 2 * RATE] == pytest.approx(original[end + RATE : end + 2 * RATE], abs=1e-4)
        alike = fftconvolve(under[start:end], original[start:end][::-1])
        assert np.abs(alike).max() < 0.2 * np.sqrt((under[start:end] ** 2).sum() * (original[start:end] ** 2).sum())


def test_figures_that_were_kept_are_not_measured_again(
    voices: tuple[list[Mono], list[Mono]], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with dubbed(tmp_path, *voices, 0.6) as document:
        first = dub_of(document)
        for name in ("take_sounds.take_sound", "sitting.speech_energy", "original_voices._heard"):
            monkeypatch.setattr(f"zweistimme.stages.mix.{name}", None)
        assert np.array_equal(dub_of(document), first)


def test_nobody_is_listened_to_for_longer_than_it_takes() -> None:
    """A script may be one segment of two hours; people may be many."""
    hours = Segment("s0", "p1", 0, 7_200_000_000, "All of it.")
    (spans,) = spans_alone([hours]).values()
    assert spans[0][0] == 0
    assert spans[-1][1] >= hours.end_us
    assert max(end - start for start, end in spans) <= 30_000_000
    assert all(before[1] == after[0] for before, after in pairwise(spans))
