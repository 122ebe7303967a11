"""The other stages: bringing in, transcripts that are given, takes that are imported, captions, mixes, hand-over."""

from __future__ import annotations

import json
from contextlib import suppress
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import project_with, speechlike, work_on, write_sound
from zweistimme.demo.script import BED, MEDIA, data_file
from zweistimme.formats.cue import Cue, Reading
from zweistimme.formats.transcripts import Transcript, from_reading
from zweistimme.media.probe import file_checksum
from zweistimme.project import cast_edits, delivery_edits, edits, line_edits, transcript
from zweistimme.project.errors import Cancelled, EngineError, FormatError, MediaError, MissingVoices, StoreError
from zweistimme.project.facts import fresh_take, lines_without_take
from zweistimme.project.mix_settings import MixSettings
from zweistimme.project.model import Project, Style, TakeKind
from zweistimme.project.progress import Step, progress
from zweistimme.project.times import RATE, samples_to_us
from zweistimme.sentences import sentence_of
from zweistimme.sound.loudness import measure
from zweistimme.stages.advice import listen
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.caption import CaptionRules, dub_captions, source_captions, statistics
from zweistimme.stages.caption.cue_times import settled
from zweistimme.stages.caption.layout import captions_of
from zweistimme.stages.cast import check_cast
from zweistimme.stages.handover import MANIFEST, hand_over
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix import write_mix
from zweistimme.stages.pipeline import next_step, run_step
from zweistimme.stages.transcribe import transcript_from_file
from zweistimme.stages.translate import translation_from_file
from zweistimme.stages.voice import import_takes, voice
from zweistimme.store.document import Document

RULES = CaptionRules()


@pytest.fixture
def blank(tmp_path: Path):  # type: ignore[no-untyped-def]
    """A project with a 20-second programme and one version, nothing else."""
    media = write_sound(tmp_path / "programme.wav", 20.0)
    with Document.create(tmp_path / "p", edits.add_version(Project("Blank", "en-GB"), "de-DE")) as document:
        bring_in(work_on(document), Intake(media))
        yield document


def test_bringing_in_says_what_will_hurt(tmp_path: Path) -> None:
    said: list[str] = []
    silent = tmp_path / "silent.wav"
    soundfile.write(silent, np.zeros(RATE), 44_100)
    with Document.create(tmp_path / "p", Project("x", "en-GB")) as document:
        bring_in(work_on(document, said), Intake(silent))
        listen(work_on(document, said))
        assert document.project.programme is not None
        assert [*map(sentence_of, document.project.programme.notes)] == said
    assert any("silent all through" in text for text in said)
    assert any("44,100" in text for text in said)


def test_a_bed_of_another_length_is_said(tmp_path: Path) -> None:
    said: list[str] = []
    media, bed = write_sound(tmp_path / "a.wav", 5.0), write_sound(tmp_path / "b.wav", 3.0)
    with Document.create(tmp_path / "p", Project("x", "en-GB")) as document:
        bring_in(work_on(document, said), Intake(media, bed=bed))
    assert "The bed lasts 0:03.0, the programme 0:05.0." in said


def as_transcript(cues: list[Cue]) -> Transcript:
    return from_reading(Reading(tuple(cues)), Path("x.srt"))


def test_captions_as_transcript(blank: Document) -> None:
    said: list[str] = []
    cues = [
        Cue(1_000_000, 3_000_000, "Hello\nthere.", "Mira"),
        Cue(3_500_000, 5_000_000, "And again."),
        Cue(18_000_000, 23_000_000, "Late.", "Tobin"),
        Cue(40_000_000, 41_000_000, "Too late.", "Tobin"),
    ]
    transcript_from_file(work_on(blank, said), as_transcript(cues), Path("x.srt"))
    names = [blank.project.speakers[s.speaker_id].name for s in blank.project.segments]
    assert names == ["Mira", "Mira", "Tobin"]
    assert blank.project.segments[0].text == "Hello there."
    assert blank.project.segments[2].end_us == 20_000_000
    assert len(said) == 2
    with pytest.raises(FormatError, match="starts after the programme ends"):
        transcript_from_file(work_on(blank), as_transcript(cues[3:]), Path("x.srt"))


def test_translations_are_matched_by_time(blank: Document) -> None:
    spoken = [
        Cue(1_000_000, 3_000_000, "One."),
        Cue(4_000_000, 6_000_000, "Two."),
        Cue(9_000_000, 10_000_000, "Three."),
    ]
    transcript_from_file(work_on(blank), as_transcript(spoken), Path("x.srt"))
    said: list[str] = []
    cues = [
        Cue(900_000, 2_000_000, "Eins"),
        Cue(2_000_000, 3_200_000, "und ein halb."),
        Cue(3_900_000, 6_100_000, "Zwei."),
        Cue(15_000_000, 16_000_000, "Niemand."),
    ]
    translation_from_file(work_on(blank, said), "de-DE", Reading(tuple(cues)), Path("de.srt"))
    lines = blank.project.versions["de-DE"].lines
    assert [line.text for line in lines.values()] == ["Eins und ein halb.", "Zwei."]
    assert any("no segment at 0:15.0" in text for text in said)
    assert any("1 segment has no caption" in text for text in said)


def test_clips_of_ones_own(blank: Document, tmp_path: Path) -> None:
    cues = [Cue(k * 4_000_000, k * 4_000_000 + 2_000_000, f"Line {k}.") for k in range(4)]
    transcript_from_file(work_on(blank), as_transcript(cues), Path("x.srt"))
    translation_from_file(work_on(blank), "de-DE", Reading(tuple(cues)), Path("de.srt"))
    clips = tmp_path / "clips"
    clips.mkdir()
    write_sound(clips / "001.wav", 1.8)
    write_sound(clips / "2 second try.flac", 2.4, rate=44_100, channels=2)
    write_sound(clips / "take-003.wav", 2.0)
    write_sound(clips / "099.wav", 1.0)
    soundfile.write(clips / "004.wav", np.zeros(RATE), RATE)
    (clips / "notes 5.txt").write_text("no clip")
    said: list[str] = []
    import_takes(work_on(blank, said), "de-DE", clips)
    takes = blank.project.versions["de-DE"].takes.values()
    assert {take.kind for take in takes} == {TakeKind.IMPORTED}
    assert sorted(take.segment_id for take in takes) == ["s0001", "s0002", "s0003"]
    assert any("no line 99" in text for text in said)
    assert any("004.wav" in text and "silent" in text for text in said)
    assert any("44,100 Hz" in text for text in said)
    assert any("No clip for 1 line in" in text for text in said)
    run_step(work_on(blank), Step.FIT, "de-DE")
    assert len(blank.project.versions["de-DE"].placements) == 3
    with pytest.raises(FormatError, match="no folder"):
        import_takes(work_on(blank), "de-DE", tmp_path / "nowhere")
    without = lines_without_take(blank.project, blank.project.versions["de-DE"])
    assert [number for number, _ in without] == [4]
    write_sound(clips / "004.wav", 1.7)
    write_sound(clips / "001.wav", 1.1)
    import_takes(work_on(blank), "de-DE", clips, missing_only=True)  # as after an import that was cut short
    assert len(blank.project.versions["de-DE"].takes) == 4
    assert not lines_without_take(blank.project, blank.project.versions["de-DE"])


def test_nothing_reaches_synthesis_without_a_voice(demo: Document) -> None:
    demo.apply("Uncast", lambda p: cast_edits.cast_voice(p, "de-DE", "p2", None))
    with pytest.raises(MissingVoices, match=r"Tobin in de-DE \(7 lines\)"):
        check_cast(demo.project, ["de-DE"])
    with pytest.raises(MissingVoices):
        voice(work_on(demo), "de-DE")
    assert next_step(demo.project, "de-DE") is Step.CAST


def test_only_what_is_missing_or_stale_is_made(demo: Document) -> None:
    takes = dict(demo.project.versions["es-ES"].takes)
    run_step(work_on(demo), Step.TAKES, "es-ES")
    assert demo.project.versions["es-ES"].takes == takes
    changed = demo.project.segments[2].id
    demo.apply("Write", lambda p: line_edits.set_line_text(p, "es-ES", changed, "¿Y si no lo sabe?"))
    run_step(work_on(demo), Step.TAKES, "es-ES")
    new = [t for key, t in demo.project.versions["es-ES"].takes.items() if key not in takes]
    assert [take.segment_id for take in new] == [changed]


def test_a_stopped_run_keeps_what_it_made_and_goes_on(demo: Document) -> None:
    demo.apply("Recast", lambda p: cast_edits.cast_voice(p, "de-DE", "p1", "edda"))
    work = work_on(demo)

    def stop_after_three(share: float) -> None:
        if share >= 0.5:
            raise Cancelled

    from dataclasses import replace

    with pytest.raises(Cancelled):
        voice(replace(work, report=stop_after_three), "de-DE")
    version = demo.project.versions["de-DE"]
    done = [s for s in demo.project.segments if s.speaker_id == "p1" and fresh_take(demo.project, version, s)]
    assert len(done) == 3
    run_step(work_on(demo), Step.TAKES, "de-DE")
    assert progress(demo.project, demo.project.versions["de-DE"])[Step.TAKES].complete


@given(st.lists(st.text(st.sampled_from("abcdefgh,.äß"), min_size=1, max_size=14), min_size=1, max_size=60))
@settings(max_examples=120)
def test_captions_hold_their_lines_and_lose_no_word(words: list[str]) -> None:
    text = " ".join(words)
    captions = captions_of(text, RULES)
    assert " ".join(captions).split() == text.split()
    for caption in captions:
        lines = caption.split("\n")
        assert len(lines) <= 2
        assert all(len(line) <= 42 for line in lines)


def test_captions_break_where_reading_pauses() -> None:
    text = "In diesem Winter ist ihr großes Rad gebrochen, zum ersten Mal seit einhundertvierzig Jahren in der Stadt."
    first, second = captions_of(text, RULES)
    assert first.replace("\n", " ").endswith("gebrochen,")
    assert not any(line.split()[-1] in ("der", "in", "ihr") for line in (first + "\n" + second).split("\n"))
    assert captions_of("", RULES) == ()


@given(
    st.lists(
        st.tuples(st.integers(0, 60_000), st.integers(100, 8000), st.text("abc ", min_size=1, max_size=80)), max_size=12
    )
)
@settings(max_examples=120)
def test_settled_captions_keep_apart(rows: list[tuple[int, int, str]]) -> None:
    cues = [Cue(a * 1000, (a + d) * 1000, text.strip() or "x", f"S{a % 3}") for a, d, text in rows]
    result = settled(cues, RULES, 80_000_000)
    assert all(cue.end_us > cue.start_us for cue in result)
    for before, after in pairwise(result):
        assert after.start_us >= before.end_us


def test_demo_captions(demo: Document) -> None:
    for tag in demo.project.versions:
        cues = dub_captions(demo.project, tag, demo.clips, RULES)
        figures = statistics(cues, RULES)
        assert figures.longest_line <= 42
        assert figures.too_fast <= 1
        assert figures.mean_speed < 17.5
        assert not any("(" in cue.text for cue in cues)
    together = [cue for cue in dub_captions(demo.project, "es-ES", demo.clips, RULES) if cue.text.startswith("–")]
    assert len(together) == 1
    assert len(source_captions(demo.project, RULES)) >= 17


def test_mixes_reach_their_loudness(demo: Document, tmp_path: Path) -> None:
    files = write_mix(work_on(demo), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
    sound, rate = soundfile.read(files.mix, dtype="float32", always_2d=True)
    assert rate == RATE
    assert soundfile.info(files.mix).subtype == "PCM_24"
    result = measure(np.ascontiguousarray(sound.T))
    assert result.integrated_lufs == pytest.approx(-23.0, abs=0.2)
    assert result.true_peak_dbtp <= -1.0
    assert demo.project.programme is not None
    assert samples_to_us(len(sound)) == demo.project.programme.sound.duration_us
    stem = soundfile.read(files.voice, dtype="float32")[0]
    for placement in demo.project.versions["de-DE"].placements.values():
        a, b = (round(t * RATE / 1e6) for t in (placement.start_us, placement.start_us + placement.length_us))
        assert np.abs(stem[a:b]).max() > 0.01


def test_a_loud_mix_is_held_under_its_peak(demo: Document, tmp_path: Path) -> None:
    demo.apply("Loud", lambda p: delivery_edits.set_mix(p, MixSettings(loudness_lufs=-14.0, true_peak_dbtp=-2.0)))
    files = write_mix(work_on(demo), "es-ES", tmp_path / "mix.wav", tmp_path / "voice.wav")
    sound = np.ascontiguousarray(soundfile.read(files.mix, dtype="float32")[0].T)
    assert measure(sound).true_peak_dbtp <= -2.0
    assert measure(sound).integrated_lufs == pytest.approx(-14.0, abs=0.5)


def test_without_a_bed_the_original_gives_way(demo_folder: Path, tmp_path: Path) -> None:
    from dataclasses import replace

    with Document.open(demo_folder) as document:
        programme = document.project.programme
        assert programme is not None
        document.apply("No bed", lambda p: edits.set_programme(p, replace(programme, bed=None)))
        write_mix(work_on(document), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        document.apply(
            "Voice-over",
            lambda p: edits.set_version_style(p, "de-DE", Style.VOICE_OVER, p.versions["de-DE"].preference),
        )
        run_step(work_on(document), Step.FIT, "de-DE")
        write_mix(work_on(document), "de-DE", tmp_path / "over.wav", tmp_path / "voice2.wav")
        first = document.project.segments[0]
    mix, voice_, over = (
        soundfile.read(tmp_path / n, dtype="float32", always_2d=True)[0] for n in ("mix.wav", "voice.wav", "over.wav")
    )
    spoken = slice(*(round(t * RATE / 1e6) for t in (first.start_us, first.start_us + 600_000)))
    quiet = slice(36 * RATE, 40 * RATE)
    under = np.sqrt(((mix - voice_) ** 2).mean(axis=1))
    assert under[spoken].mean() < 0.35 * np.abs(over[spoken]).mean()
    assert under[quiet].mean() > 0.003


def test_the_hand_over_is_complete_and_measured(demo: Document, tmp_path: Path) -> None:
    out = tmp_path / "out"
    paths = hand_over(work_on(demo), ["de-DE", "es-ES"], out)
    assert sorted(path.name for path in out.iterdir()) == sorted(path.name for path in paths)
    manifest = json.loads((out / MANIFEST).read_text())
    assert (manifest["format"], manifest["version"]) == ("zweistimme-manifest", 3)
    by_kind: dict[str, list[dict]] = {}
    for entry in manifest["files"]:
        assert file_checksum(out / entry["name"]) == entry["sha256"]
        assert (out / entry["name"]).stat().st_size == entry["size_bytes"]
        by_kind.setdefault(entry["kind"], []).append(entry)
    assert {kind: len(entries) for kind, entries in by_kind.items()} == {
        "mix": 2,
        "voice stem": 2,
        "captions": 6,
        "video": 1,
    }
    for entry in by_kind["mix"]:
        assert entry["measured"]["loudness_lufs"] == pytest.approx(-23, abs=0.5)
        assert entry["measured"]["true_peak_dbtp"] <= -1.0
    shown = [(out / entry["name"]).read_text() for entry in by_kind["captions"]]
    assert [entry["measured"]["count"] for entry in by_kind["captions"]] == [text.count("-->") for text in shown]
    assert any("\n– " in text for text in shown), "two people at once are one caption"
    (video,) = by_kind["video"]
    assert video["measured"]["picture_untouched"]
    kinds = [(track["kind"], track["language"]) for track in video["measured"]["tracks"]]
    assert kinds == [
        ("video", "und"), ("audio", "eng"), ("audio", "ger"), ("audio", "spa"),
        ("subtitle", "ger"), ("subtitle", "spa"), ("subtitle", "eng"),
    ]  # fmt: skip
    assert next_step(demo.project, "de-DE") is None
    demo.apply("Write", lambda p: line_edits.set_line_text(p, "de-DE", p.segments[0].id, "Anders."))
    assert progress(demo.project, demo.project.versions["de-DE"])[Step.HANDOVER].stale == 1
    assert progress(demo.project, demo.project.versions["es-ES"])[Step.HANDOVER].done == 1


def test_takes_never_overlap_more_than_their_segments(demo: Document) -> None:
    from zweistimme.project.intervals import overlap_us

    segments = {s.id: (s.start_us, s.end_us) for s in demo.project.segments}
    for version in demo.project.versions.values():
        placed = [(p.segment_id, (p.start_us, p.start_us + p.length_us)) for p in version.placements.values()]
        for k, (one, here) in enumerate(placed):
            for other, there in placed[k + 1 :]:
                assert overlap_us(here, there) <= overlap_us(segments[one], segments[other]) + 1


def test_stages_without_their_input_say_so(tmp_path: Path) -> None:
    with Document.create(tmp_path / "p", project_with([(1, 2, "Hello")])) as document:
        for step, error, words in (
            (Step.TRANSCRIPT, StoreError, "is not there any more"),
            (Step.FIT, EngineError, "no takes to fit"),
        ):
            with pytest.raises(error, match=words):
                run_step(work_on(document), step, "de-DE")
        with pytest.raises(StoreError, match="is not there any more"):
            write_mix_of(document, tmp_path)
    with Document.create(tmp_path / "q", Project("x", "en-GB")) as document:
        with pytest.raises(MediaError, match="no programme"):
            run_step(work_on(document), Step.TRANSCRIPT, "")
        with pytest.raises(MediaError, match="no programme to hand over"):
            hand_over(work_on(document), [], tmp_path / "out")


def write_mix_of(document: Document, folder: Path) -> None:
    takes = project_with([(1, 2, "Hello")], takes=[1.0])
    document.apply("Takes", lambda _p: takes)
    run_step(work_on(document), Step.FIT, "de-DE")
    write_mix(work_on(document), "de-DE", folder / "a.wav", folder / "b.wav")


def test_a_cache_that_was_emptied_is_made_again(demo_folder: Path, tmp_path: Path) -> None:
    import shutil

    shutil.rmtree(demo_folder / "cache")
    with Document.open(demo_folder) as document:
        files = write_mix(work_on(document), "de-DE", tmp_path / "a.wav", tmp_path / "b.wav")
    assert files.loudness.integrated_lufs == pytest.approx(-23, abs=0.2)


def test_the_demo_files_are_what_the_code_makes() -> None:
    """The script and the truth are made again, byte for byte; the media are small enough."""
    from zweistimme.demo.make import script_text, truth
    from zweistimme.demo.script import SCRIPT, TRUTH

    assert data_file(SCRIPT).read_text() == script_text()
    assert json.loads(data_file(TRUTH).read_text()) == json.loads(json.dumps(truth()))
    assert sum(data_file(name).stat().st_size for name in (MEDIA, BED, SCRIPT, TRUTH)) < 4_000_000
    assert len(speechlike(0.1)) == 4800


def test_clips_are_told_apart_by_the_number_that_differs(blank: Document, tmp_path: Path) -> None:
    from zweistimme.stages.voice import import_takes

    made = project_with([(k * 2.0, k * 2.0 + 1, f"Line {k}") for k in range(4)])
    blank.apply("Lines", lambda p: transcript.set_transcript(p, made.speakers.values(), made.segments))
    for segment in made.segments:
        blank.apply("Line", lambda p, s=segment: line_edits.set_line_text(p, "de-DE", s.id, "Ja"))
    folder = tmp_path / "clips"
    folder.mkdir()
    for number in (2, 3, 4):
        write_sound(folder / f"S01E03_{number:04d}_take1.wav", 1.0)
    said: list[str] = []
    import_takes(work_on(blank, said), "de-DE", folder)
    assert [take.segment_id for take in blank.project.versions["de-DE"].takes.values()] == ["s2", "s3", "s4"]
    assert any("S01E03_0002_take1.wav is taken for line 2" in sentence for sentence in said)


def test_a_single_retake_goes_to_the_line_that_waits_or_fits_or_to_none(tmp_path: Path) -> None:
    """``S01E03_0003.wav`` alone may be line 1 or line 3: the one without a take, else the one as long as the clip;
    where both are as likely, neither is touched and both are said."""
    folder = tmp_path / "clips"
    folder.mkdir()
    write_sound(folder / "S01E03_0003.wav", 1.0)

    def imported(rows: list[tuple[float, float, str]], waiting: int | None = None) -> tuple[list[str], list[str]]:
        project, said = project_with(rows, takes=[1.0] * len(rows)), list[str]()
        version = project.versions["de-DE"]
        takes = {key: take for key, take in version.takes.items() if key != f"t{waiting}"}
        without = {key: replace(line, take_id=None) for key, line in version.lines.items() if key == f"s{waiting}"}
        lines = {**version.lines, **without}
        project = replace(project, versions={"de-DE": replace(version, takes=takes, lines=lines)})
        with Document.create(tmp_path / str(len(list(tmp_path.iterdir()))), project) as document:
            with suppress(FormatError):
                import_takes(work_on(document, said), "de-DE", folder)
            made = document.project.versions["de-DE"].takes.values()
            return [take.segment_id for take in made if take.kind is TakeKind.IMPORTED], said

    alike = [(k * 3.0, k * 3.0 + 1, f"Line {k}") for k in range(4)]
    taken, said = imported(alike)
    assert taken == []
    assert any("could be line 1 / 3" in sentence for sentence in said)
    assert imported(alike, waiting=3)[0] == ["s3"]
    assert imported([(0.0, 2.5, "Line 1"), *alike[1:]])[0] == ["s3"]


def test_a_clip_that_cannot_be_heard_costs_no_other(blank: Document, tmp_path: Path) -> None:
    """A spoilt file, and an engine that knows not the language: clips with a number are taken all the same."""
    from zweistimme.stages.voice import import_takes

    made = project_with([(k * 2.0, k * 2.0 + 1, f"Line {k}") for k in range(2)])
    blank.apply("Lines", lambda p: transcript.set_transcript(p, made.speakers.values(), made.segments))
    blank.apply("Version", lambda p: edits.add_version(p, "is-IS"))
    for segment in made.segments:
        blank.apply("Line", lambda p, s=segment: line_edits.set_line_text(p, "is-IS", s.id, "Já"))
    folder = tmp_path / "clips"
    folder.mkdir()
    write_sound(folder / "line_1.wav", 1.0)
    write_sound(folder / "spoken softly.wav", 1.0)
    (folder / "spoilt.wav").write_bytes(b"no sound at all")
    said: list[str] = []
    import_takes(work_on(blank, said), "is-IS", folder, by_hearing=True)
    assert [take.segment_id for take in blank.project.versions["is-IS"].takes.values()] == ["s1"]
    assert any(sentence.startswith("spoilt.wav: ") for sentence in said), said
    assert any("does not recognise Icelandic" in sentence for sentence in said), said
