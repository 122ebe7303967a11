"""Media of many kinds through the working copy and into the copy that is handed over: in step to a millisecond,
nothing lost that is not said."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from types import SimpleNamespace

import av
import numpy as np
import pytest
import soundfile

from media.made_media import CLICK, Made, click_errors_ms, decoded, holes, overlaps, read_whole
from zweistimme.media import decode
from zweistimme.media.align import Aligner
from zweistimme.media.coded_picture import picture_checksum
from zweistimme.media.containers import plan_copy
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.mux import CaptionTrackOut, Original, SoundTrackOut, mux_copy
from zweistimme.media.probe import probe
from zweistimme.media.working_copy import working_copy
from zweistimme.project.languages import same_language
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE
from zweistimme.sentences import sentence_of

MATRIX = [
    Made(".mp4"),
    Made(".mp4", rate=44_100),
    Made(".mp4", picture="libx265", sound="ac3", layout="5.1"),
    Made(".mp4", tracks=3),
    Made(".mp4", picture="mpeg4", sound="libmp3lame"),
    Made(".mov", sound="pcm_s24le"),
    Made(".mov", picture="prores_ks", sound="pcm_s24le", pixels="yuv422p10le"),
    Made(".mov", picture="mjpeg", sound="pcm_s16le", pixels="yuvj420p", tracks=2, layout="mono"),
    Made(".mkv"),
    Made(".mkv", picture_options={"bf": "3", "g": "50"}),
    Made(".mkv", sound="flac", layout="5.1"),
    Made(".mkv", sound="pcm_f32le", layout="mono"),
    Made(".mkv", picture="libvpx-vp9", sound="libopus"),
    Made(".mkv", stamps=holes, sound="pcm_s16le"),
    Made(".mkv", stamps=overlaps, sound="pcm_s16le"),
    Made(".webm", picture="libvpx-vp9", sound="libopus"),
    Made(".webm", picture="libvpx", sound="libopus"),
    Made(".mxf", picture="mpeg2video", sound="pcm_s16le", pixels="yuv422p"),
    Made(".avi", picture="mpeg4", sound="pcm_s16le"),
    Made(".ts", sound="mp2"),
    Made(".ts"),
    Made(".ts", picture="mpeg2video", sound="mp2"),
    Made(".ts", picture="libx265", sound="ac3"),
    Made(".ts", sound="mp2", stamps=holes),
    Made(".ts", sound="mp2", stamps=overlaps),
    Made(".ts", sound="mp2", origin_s=36_000),
    Made(".ts", sound="mp2", origin_s=95_442),
    Made(".ts", sound="ac3", stamps=holes, origin_s=95_442),
    Made(".mp4", picture_options={"bf": "3"}, stamps=holes),
    Made(".nut", sound="flac"),
]
DELAYS_MS = {"mp2": 10.03, "ac3": 5.4, "aac": 21.4, "libmp3lame": 23.1}
"""What an encoder puts before the sound, where the container has no word for it."""


@pytest.mark.parametrize("made", MATRIX, ids=str)
def test_media_of_every_kind_come_in_and_go_out_in_step(made: Made, tmp_path: Path) -> None:
    source = made.write(tmp_path)
    sound, notes = decoded(source)
    errors = np.array(click_errors_ms(sound[0], made.seconds))
    # an encoder's own delay moves the sound in the file itself: to be in step is to be where the stamps say
    assert errors.max() - errors.min() <= 1.0, errors
    assert abs(errors[0]) <= max(1.0, DELAYS_MS.get(made.sound, 0.0))
    if made.stamps is holes:
        assert any("hole" in note.code for note in notes.notes)
        assert all(28_000 < place.amount_us < 32_500 for place in notes.places if place.kind == "hole")
    elif made.stamps is overlaps:
        assert any("overlap" in note.code for note in notes.notes)
    else:
        assert not notes.places or notes.places[0].kind == "late"
    _goes_out(source, sound, made, tmp_path)


def _goes_out(source: Path, sound: np.ndarray, made: Made, tmp_path: Path) -> None:
    """The copy has all of the source, untouched, and the dub in step with it."""
    mix = np.zeros((made.seconds * RATE, 2), np.float32)
    for second in range(1, made.seconds):
        mix[second * RATE : second * RATE + len(CLICK)] = CLICK[:, None]
    soundfile.write(tmp_path / "mix.wav", mix, RATE, "PCM_24")
    plan = plan_copy(source)
    assert plan.left_out == ()
    target = tmp_path / f"out{plan.container.ending}"
    cues = ((1_000_000, 2_000_000, "a < b > c"), (2_500_000, 3_000_000, "Größe \\N ja"))
    coded = mux_copy(
        source,
        target,
        plan,
        [SoundTrackOut(tmp_path / "mix.wav", "de-DE", "Deutsch", default=True)],
        [CaptionTrackOut(cues, "de-DE", "Deutsch")],
        Original(1, "en-GB"),
    )
    assert coded == picture_checksum(target) == picture_checksum(source)
    there = probe(target)
    assert [track.codec for track in there.sounds[:-1]] == [track.codec for track in probe(source).sounds]
    assert [track.default for track in there.sounds] == [False] * made.tracks + [True]
    assert [track.default for track in there.captions] == [False]
    original, _ = decoded(target)
    errors = click_errors_ms(decoded(target, SoundPick((made.tracks + 1,)))[0][0], made.seconds)
    before, after = click_errors_ms(sound[0], made.seconds), click_errors_ms(original[0], made.seconds)
    assert max(abs(error) for error in errors) <= 1.0
    assert max(abs(a - b) for a, b in zip(before, after, strict=True)) <= 1.0
    with av.open(str(target)) as container:
        texts = [event.decode() for event in _events(container)]
    plain = [text.split(",", 8)[-1].replace("\u2060", "") for text in texts]
    assert plain[0].replace("\\{{}", "{") == "a < b > c"
    assert "\\N" in plain[1]
    assert "\\\u2060N" in texts[1] or "\\\\N" in texts[1]


def _events(container: av.container.InputContainer) -> list[bytes]:
    return [event for packet in container.demux(container.streams.subtitles[0]) for event in _asses(packet)]


def _asses(packet: av.Packet) -> list[bytes]:
    return [rect.ass if hasattr(rect, "ass") else bytes(rect) for rect in packet.decode()] if packet.size else []


def test_a_downmix_is_never_clipped(tmp_path: Path) -> None:
    loud = np.zeros((RATE, 6), np.float32)
    loud[:, [0, 2, 4]] = 0.8  # left, centre, left surround
    soundfile.write(tmp_path / "six.wav", loud, RATE, "FLOAT")
    info = probe(tmp_path / "six.wav")
    copy = working_copy(info, SoundPick(), tmp_path / "c.wav", lambda _share: None)
    heard = read_whole(tmp_path / "c.wav")
    assert np.allclose(heard[0], 0.8 * (1 + 2 * 0.5**0.5), atol=1e-5)
    assert np.allclose(heard[1], 0.8 * 0.5**0.5, atol=1e-5)
    assert copy.channels == 2
    centre, _ = decoded(tmp_path / "six.wav", SoundPick((1,), "FC"))
    assert centre.shape[0] == 1
    assert np.allclose(centre, 0.8)
    rest, _ = decoded(tmp_path / "six.wav", SoundPick((1,), "-FC"))
    assert np.allclose(rest[0], 0.8 * (1 + 0.5**0.5), atol=1e-5)


def test_floating_sound_beyond_full_scale_keeps_its_level(tmp_path: Path) -> None:
    soundfile.write(tmp_path / "hot.wav", np.full((RATE, 1), 1.9, np.float32), RATE, "FLOAT")
    working_copy(probe(tmp_path / "hot.wav"), SoundPick(), tmp_path / "c.wav", lambda _share: None)
    assert np.allclose(read_whole(tmp_path / "c.wav"), 1.9, atol=1e-5)


def test_tracks_of_one_channel_become_left_and_right(tmp_path: Path) -> None:
    source = Made(".mov", sound="pcm_s16le", layout="mono", tracks=3).write(tmp_path)
    sound, notes = decoded(source, SoundPick((1, 3)))
    assert sound.shape[0] == 2
    assert max(map(abs, click_errors_ms(sound[1], 4))) < 1
    assert "Sound tracks 1 and 3 are put together as left and right." in map(sentence_of, notes.notes)


def test_a_frame_longer_than_a_second_does_not_wait_in_the_queue(monkeypatch: pytest.MonkeyPatch) -> None:
    frames = []
    for number in range(2):
        frame = av.AudioFrame.from_ndarray(np.full((1, 20_000), number, np.float32), "fltp", "mono")
        frame.sample_rate, frame.pts = 8_000, 20_000 * number
        frames.append((frame, Fraction(0)))
    monkeypatch.setattr(decode, "_frames", lambda *_: iter(frames))
    stream = SimpleNamespace(time_base=Fraction(1, 8_000))
    pieces = list(decode._pieces(None, stream, None, DecodeNotes()))  # type: ignore[arg-type]
    assert [(piece.stamp, piece.sound.shape[1]) for piece in pieces] == [(8_000 * k, 8_000) for k in range(5)]


def test_more_tracks_of_one_channel_are_heard_on_both_sides(tmp_path: Path) -> None:
    source = Made(".mov", sound="pcm_s16le", layout="mono", tracks=4).write(tmp_path)
    one, _ = decoded(source, SoundPick((2,)))
    four, notes = decoded(source, SoundPick((1, 2, 3, 4)))
    np.testing.assert_allclose(four[0], 4 * 0.5**0.5 * one[0], atol=2e-4)
    np.testing.assert_array_equal(four[0], four[1])
    assert "Sound tracks 1, 2, 3 and 4 are put together." in map(sentence_of, notes.notes)


def test_chapters_title_timecode_and_captions_of_the_source_come_along(tmp_path: Path) -> None:
    source = Made(
        ".mp4",
        metadata={"title": "The Mole", "timecode": "10:00:00:00"},
        chapters=((0, 2_000, "Low water"), (2_000, 4_000, "High water")),
    ).write(tmp_path)
    plan = plan_copy(source)
    assert plan.left_out == ()
    target = tmp_path / f"out{plan.container.ending}"
    mux_copy(source, target, plan, [], [], Original(1, "en-GB"))
    info = probe(target)
    assert [(c.start_us, c.end_us, c.title) for c in info.chapters] == [
        (0, 2_000_000, "Low water"),
        (2_000_000, 4_000_000, "High water"),
    ]
    assert info.timecode == "10:00:00:00"
    again = tmp_path / "again"
    again.mkdir()
    captioned = again / "captioned.mkv"
    from dataclasses import replace

    from zweistimme.media.containers import MKV

    mux_copy(
        source,
        captioned,
        replace(plan, container=MKV),
        [],
        [CaptionTrackOut(((1_000_000, 2_000_000, "Low <i>water</i>"),), "fr-FR", "Français")],
        Original(1, "en-GB"),
    )
    onward = plan_copy(captioned)
    mux_copy(captioned, again / "b.mkv", onward, [], [], Original(1, "en-GB"))
    assert [(track.language, track.title) for track in probe(again / "b.mkv").captions] == [("fre", "Français")]
    with av.open(str(again / "b.mkv")) as container:
        assert container.metadata["title"] == "The Mole"


def test_stamps_that_begin_anew_are_put_one_behind_the_other(tmp_path: Path) -> None:
    late = tmp_path / "late"
    late.mkdir()
    first = Made(".ts", sound="mp2", origin_s=36_000).write(tmp_path).read_bytes()
    second = Made(".ts", sound="mp2", origin_s=60).write(late).read_bytes()
    joined = tmp_path / "joined.ts"
    joined.write_bytes(first + second)
    sound, notes = decoded(joined)
    assert 7.8 * RATE < sound.shape[1] < 8.3 * RATE
    assert any(note.code == "clock-begins-anew" for note in notes.notes)
    plan = plan_copy(joined)
    target = tmp_path / f"out{plan.container.ending}"
    coded = mux_copy(joined, target, plan, [], [], Original(1, "en-GB"))
    assert coded == picture_checksum(target)
    assert 7.5 < probe(target).duration_us / 1e6 < 8.5


def test_a_jump_that_no_recording_has_is_not_filled_for_hours() -> None:
    aligner = Aligner(RATE, Fraction(1, RATE))
    frame = np.ones((1, 4800), np.float32)
    given = [part for k in range(10) for part in aligner.feed(k * 4800 + (k > 4) * 10**14, frame)]
    given += [*aligner.finish()]
    assert sum(part.shape[1] for part in given) == 10 * 4800
    assert [note.kind for note in aligner.notes] == ["jump"]


@pytest.mark.parametrize(
    "made",
    [
        Made(".mkv", seconds=8),
        Made(".mp4", seconds=8, options={"movflags": "faststart"}),
        Made(".mkv", seconds=8, sound="pcm_s16le"),
    ],
    ids=str,
)
def test_a_video_that_is_cut_off_says_so(made: Made, tmp_path: Path) -> None:
    whole = made.write(tmp_path)
    assert not any(note.code == "file-cut-off" for note in decoded(whole)[1].notes)
    data = whole.read_bytes()
    whole.write_bytes(data[: len(data) * 6 // 10])
    codes = [note.code for note in decoded(whole)[1].notes]
    assert "file-cut-off" in codes


def test_a_whole_mp3_with_a_cover_is_not_called_damaged(tmp_path: Path) -> None:
    """The cover is a track of its own, behind whose one picture decoders are emptied once more."""
    path = tmp_path / "covered.mp3"
    with av.open(str(path), "w") as out:
        sound = out.add_stream("libmp3lame", rate=RATE, layout="mono")
        cover = out.add_stream("mjpeg", rate=1)
        cover.width, cover.height, cover.pix_fmt = 96, 64, "yuvj420p"
        cover.disposition = av.stream.Disposition.attached_pic
        frame = av.VideoFrame.from_ndarray(np.full((64, 96, 3), 90, np.uint8), "rgb24").reformat(format="yuvj420p")
        frame.pts = 0
        for packet in (*cover.encode(frame), *cover.encode(None)):
            out.mux(packet)
        for start in range(0, 3 * RATE, 1152):
            heard = av.AudioFrame.from_ndarray(np.full((1, 1152), 0.1, np.float32), "fltp", "mono")
            heard.sample_rate, heard.pts = RATE, start
            out.mux(sound.encode(heard))
        out.mux(sound.encode(None))
    samples, notes = decoded(path)
    assert samples.shape[1] > 2.9 * RATE
    assert not any(note.code in ("file-damaged", "file-cut-off") for note in notes.notes)


@pytest.mark.parametrize(
    "made", [Made(".mov", sound="pcm_s16le", picture="prores_ks", pixels="yuv422p10le"), Made(".mkv")], ids=str
)
def test_languages_with_two_codes_keep_theirs(made: Made, tmp_path: Path) -> None:
    tags = ["fr-FR", "cs-CZ", "ro-RO", "sk-SK", "nl-NL", "de-DE", "zh-CN", "el-GR"]
    source, plan = made.write(tmp_path), plan_copy(made.write(tmp_path))
    sound = tmp_path / "dub.wav"
    soundfile.write(sound, np.zeros((made.seconds * RATE, 2), np.float32), RATE, "PCM_24")
    tracks = [SoundTrackOut(sound, tag, tag, default=not place) for place, tag in enumerate(tags)]
    target = tmp_path / f"dubbed{plan.container.ending}"
    mux_copy(source, target, plan, tracks, [], Original(1, "en-GB"))
    languages = [track.language for track in probe(target).sounds]
    assert all(any(same_language(code, tag) for code in languages) for tag in tags), languages
