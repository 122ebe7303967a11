"""Sound handed over in presets: every form is what it says, as loud as wanted, and its parts are the mix."""

from __future__ import annotations

import json
import shutil
import struct
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from demo_project import work_on
from zweistimme.media.broadcast_chunk import BroadcastNote
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.encode import SoundFormat, written_sounds
from zweistimme.media.file_loudness import file_loudness
from zweistimme.project.access import find_version
from zweistimme.project.delivery_edits import choose_presets, put_preset, remove_preset
from zweistimme.project.errors import EditError
from zweistimme.project.sound_delivery import (
    PRESETS,
    Channels,
    LoudnessOf,
    Part,
    SoundForm,
    SoundPreset,
    preset_problem,
)
from zweistimme.sound.loudness import Loudness, measure
from zweistimme.stages.handover import MANIFEST, hand_over
from zweistimme.stages.mix import write_sounds
from zweistimme.stages.mix.gain import HOUSE, presets_for
from zweistimme.stages.mix.outputs import Wanted
from zweistimme.stages.mix.wanted_files import preset_files
from zweistimme.store.document import Document

RATE = 48_000
TAG = "de-DE"


def sound_of(path: Path) -> np.ndarray:
    return soundfile.read(path, dtype="float32", always_2d=True)[0].T


def wanted_of(document: Document, folder: Path, *names: str, **own: SoundPreset) -> list[Wanted]:
    project = replace(document.project, presets=own)
    version = replace(find_version(project, TAG), presets=(*names, *own))
    return preset_files(project, version, folder, "x")


@pytest.fixture(scope="module")
def demo_once(_demo_master: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Document]:
    """The demo, dubbed, that no test changes."""
    folder = tmp_path_factory.mktemp("once") / "demo"
    shutil.copytree(_demo_master, folder)
    with Document.open(folder) as document:
        yield document


@pytest.fixture(scope="module")
def written(demo_once: Document, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Wanted]:
    """Every preset of ours and some of one's own, written in one pass; by file name."""
    folder = tmp_path_factory.mktemp("presets")
    own = {
        "sixteen": SoundPreset(-20.0, bits=16, rate=44_100, form=SoundForm.WAV),
        "high": SoundPreset(-20.0, rate=96_000, form=SoundForm.FLAC, bits=16),
        "small": SoundPreset(-16.0, form=SoundForm.OPUS, bit_rate_kbit=64),
        "parts": SoundPreset(parts=(Part.MIX, Part.DUB, Part.BENEATH, Part.ROOM, Part.PEOPLE)),
        "flac-5.1": SoundPreset(-24.0, channels=Channels.SURROUND, form=SoundForm.FLAC),
        "aac-5.1": SoundPreset(-24.0, channels=Channels.SURROUND, form=SoundForm.AAC),
    }
    files = wanted_of(demo_once, folder, *PRESETS, **own)
    write_sounds(work_on(demo_once), TAG, files)
    return {one.path.name: one for one in files}


def mixes(written: dict[str, Wanted]) -> list[Wanted]:
    return [one for one in written.values() if one.part is Part.MIX]


def test_every_file_has_the_channels_rate_and_length_it_should(written: dict[str, Wanted], demo_once: Document) -> None:
    assert demo_once.project.programme is not None
    seconds = demo_once.project.programme.sound.duration_us / 1e6
    for one in mixes(written):
        with av.open(str(one.path)) as container:
            (stream,) = container.streams.audio
            assert (stream.channels, stream.rate) == (one.preset.channels.number, one.preset.rate), one.path.name
            assert float(container.duration or 0) / 1e6 == pytest.approx(seconds, abs=0.1), one.path.name
            if not one.form.form.is_exact and one.form.form is not SoundForm.MP3:
                assert stream.language == "ger"
        if one.form.form.is_exact:
            info = soundfile.info(one.path)
            assert info.subtype == f"PCM_{one.preset.bits}"
            assert info.frames == pytest.approx(seconds * one.preset.rate, abs=2)


def test_each_is_as_loud_as_wanted_and_holds_its_peak(written: dict[str, Wanted]) -> None:
    for one in mixes(written):
        if one.preset.loudness_of is LoudnessOf.DIALOGUE:
            continue
        if one.layout is Channels.SURROUND:
            if not one.form.form.is_exact:
                continue
            found = measure(sound_of(one.path))
        else:
            found = file_loudness(one.path, DecodeNotes())
        assert found.integrated_lufs == pytest.approx(one.preset.loudness_lufs, abs=0.3), one.path.name
        assert found.true_peak_dbtp <= one.preset.true_peak_dbtp + 0.1, one.path.name


def test_the_parts_are_the_mix(written: dict[str, Wanted]) -> None:
    own = {one.path.name.split(".")[-2]: sound_of(one.path) for one in written.values() if one.preset_name == "parts"}
    mix = own.pop("mix")
    voices, beside = own.pop("voice"), own.pop("music-effects") + own.pop("room")
    assert np.abs(voices + beside - mix).max() < 2e-6
    assert set(own) == {"mira", "tobin", "juna"}
    assert np.abs(sum(own.values()) - voices).max() < 2e-6


def test_in_surround_the_dub_is_in_the_middle(written: dict[str, Wanted]) -> None:
    surround = sound_of(next(one.path for one in written.values() if one.preset_name == "ebu-r128-5.1"))
    stereo = sound_of(next(o.path for o in mixes(written) if o.preset_name == "ebu-r128"))
    assert surround.shape[0] == 6
    assert not surround[3:].any()
    factor = np.sqrt((stereo**2).sum() / (surround**2).sum())
    assert surround[2].any()
    assert factor == pytest.approx(1.0, abs=0.15)


def test_a_broadcast_wave_says_what_it_is_and_how_loud(written: dict[str, Wanted], demo_once: Document) -> None:
    one = next(o for o in mixes(written) if o.preset_name == "ebu-r128")
    data = one.path.read_bytes()
    assert data[12:16] == b"bext"
    size = int.from_bytes(data[16:20], "little")
    body = data[20 : 20 + size]
    assert body[:256].rstrip(b"\0").decode().startswith(demo_once.project.title)
    assert body[256:288].rstrip(b"\0") == b"Zweistimme"
    assert len(body[320:330].decode().split("-")) == 3
    assert struct.unpack("<H", body[346:348]) == (2,)
    loudness, width, peak, moment, short = struct.unpack("<5h", body[412:422])
    found = measure(sound_of(one.path))
    assert loudness == pytest.approx(100 * found.integrated_lufs, abs=1)
    assert width == pytest.approx(100 * found.range_lu, abs=1)
    assert peak == pytest.approx(100 * found.true_peak_dbtp, abs=1)
    assert moment == pytest.approx(100 * found.momentary_lufs, abs=1)
    assert short == pytest.approx(100 * found.short_term_lufs, abs=1)
    assert body[602:].startswith(b"A=PCM,F=48000,W=24,M=stereo,T=Zweistimme")


def test_what_cannot_be_said_in_a_broadcast_wave_is_left_open() -> None:
    silent = Loudness(float("-inf"), 0.0, -200.0, 0, float("-inf"), float("-inf"))
    note = BroadcastNote("Ölmühle", "Zweistimme", "r", "2026-11-29", "10:00:00", loudness=silent).content()
    assert note[:7] == b"?lm?hle"
    assert struct.unpack("<5h", note[412:422]) == (0x7FFF, 0, -20000, 0x7FFF, 0x7FFF)
    assert len(note) == 602


def test_dialogue_is_what_some_presets_measure(written: dict[str, Wanted], demo_once: Document, tmp_path: Path) -> None:
    parts = SoundPreset(-24.0, -2.0, LoudnessOf.DIALOGUE, parts=(Part.MIX, Part.DUB))
    files = wanted_of(demo_once, tmp_path, dialogue=parts)
    loudness = write_sounds(work_on(demo_once), TAG, files)
    assert loudness[files[1].path].integrated_lufs == pytest.approx(-24.0, abs=0.1)
    assert written


def test_a_stretch_is_as_loud_as_it_is_in_the_whole(demo_once: Document, tmp_path: Path) -> None:
    whole = wanted_of(demo_once, tmp_path / "a", parts=SoundPreset())
    write_sounds(work_on(demo_once), TAG, whole)
    some = wanted_of(demo_once, tmp_path / "b", parts=SoundPreset())
    write_sounds(work_on(demo_once), TAG, some, (20 * RATE, 30 * RATE))
    part, all_of_it = sound_of(some[0].path), sound_of(whole[0].path)
    assert part.shape[1] == 10 * RATE
    assert np.abs(part - all_of_it[:, 20 * RATE : 30 * RATE]).max() < 2e-3


def test_what_goes_wrong_leaves_no_file(tmp_path: Path) -> None:
    forms = [(tmp_path / f"a{form.ending}", SoundFormat(2, form)) for form in SoundForm if form is not SoundForm.BWF]
    with pytest.raises(ValueError, match="full scale"):
        _write_too_loud(forms)
    assert not list(tmp_path.iterdir())


def _write_too_loud(forms: list[tuple[Path, SoundFormat]]) -> None:
    with written_sounds(forms, RATE) as writers:
        for writer in writers[:-1]:
            writer.write(np.zeros((2, 4_800), np.float32))
        writers[-1].write(np.full((2, 4_800), 2.0, np.float32))


def test_sixteen_bits_are_dithered_so_that_what_is_soft_stays_a_tone(tmp_path: Path) -> None:
    tone = (2**-16 * np.sin(2 * np.pi * 1_000 * np.arange(2 * RATE) / RATE)).astype(np.float32)[None]
    with written_sounds([(tmp_path / "a.wav", SoundFormat(1, bits=16))], 2 * RATE) as (writer,):
        writer.write(tone)
    heard = sound_of(tmp_path / "a.wav")[0]
    spectrum = np.abs(np.fft.rfft(heard * np.hanning(len(heard))))
    assert int(spectrum.argmax()) == 2_000
    assert spectrum[6_000] < spectrum.max() / 20, "no harmonic, as rounding alone would leave"


def test_a_hand_over_has_the_presets_of_each_version_and_keeps_what_is_right(demo: Document, tmp_path: Path) -> None:
    demo.apply("Presets", lambda p: choose_presets(p, TAG, ["archive", "streaming"]))
    hand_over(work_on(demo), [TAG, "es-ES"], tmp_path)
    files = json.loads((tmp_path / MANIFEST).read_text())["files"]
    mine = [one for one in files if one["measured"].get("preset")]
    assert {one["language"] for one in mine} == {TAG}
    assert sorted(one["kind"] for one in mine) == [
        "mix",
        "mix",
        "music and effects",
        "person",
        "person",
        "person",
        "voice stem",
    ]
    coded = next(one for one in mine if one["measured"]["form"] == "aac")
    assert coded["measured"]["loudness_lufs"] == pytest.approx(-16, abs=0.3)
    before = {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.wav")}
    hand_over(work_on(demo), [TAG, "es-ES"], tmp_path)
    assert {path.name: path.stat().st_mtime_ns for path in tmp_path.glob("*.wav")} == before


def test_presets_are_made_changed_and_taken_away(demo: Document) -> None:
    own = SoundPreset(-20.0)
    demo.apply("a", lambda p: put_preset(p, "house", own))
    demo.apply("b", lambda p: choose_presets(p, TAG, ["house", "house", "archive"]))
    version = demo.project.versions[TAG]
    assert version.presets == ("house", "archive")
    assert list(presets_for(demo.project, version)) == [HOUSE, "house", "archive"]
    demo.apply("c", lambda p: remove_preset(p, "house"))
    assert demo.project.versions[TAG].presets == ("archive",)
    with pytest.raises(EditError, match="no preset nothing"):
        choose_presets(demo.project, TAG, ["nothing"])
    with pytest.raises(EditError, match="no preset house of its own"):
        remove_preset(demo.project, "house")
    demo.apply("d", lambda p: put_preset(p, "archive", own))
    demo.apply("e", lambda p: remove_preset(p, "archive"))
    assert demo.project.versions[TAG].presets == ("archive",), "a name of ours is ours again"


@pytest.mark.parametrize(
    ("name", "preset", "problem"),
    [
        ("", SoundPreset(), "name"), ("../x", SoundPreset(), "name"), (".x", SoundPreset(), "name"),
        ("x" * 61, SoundPreset(), "name"), ("x", SoundPreset(-50.0), "LUFS"), ("x", SoundPreset(rate=8_000), "Hz"),
        ("x", SoundPreset(bits=8), "bits"), ("x", SoundPreset(parts=()), "parts"),
        ("x", SoundPreset(form=SoundForm.MP3, channels=Channels.SURROUND), "MP3"),
        ("x", SoundPreset(form=SoundForm.OPUS, rate=44_100), "Opus"),
        ("x", SoundPreset(bit_rate_kbit=9_000), "bit rate"),
        ("x", SoundPreset(most_range_lu=0.1), "range"),
    ],
)  # fmt: skip
def test_what_no_preset_can_be_is_said(name: str, preset: SoundPreset, problem: str) -> None:
    assert problem in preset_problem(name, preset)
    assert not any(preset_problem(key, one) for key, one in PRESETS.items())


def test_somebody_called_as_a_part_of_the_mix_has_a_file_of_their_own(demo_once: Document, tmp_path: Path) -> None:
    project = demo_once.project
    people = {key: replace(one, name=name) for (key, one), name in zip(
        project.speakers.items(), ("Mix", "Voice", "Voice"), strict=True)}  # fmt: skip
    version = replace(find_version(project, TAG), presets=("archive",))
    wanted = preset_files(replace(project, speakers=people), version, tmp_path, "x")
    assert len({one.path for one in wanted}) == len(wanted) == 6
