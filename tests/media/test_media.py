"""Files of every kind: what comes out, and what is said about those of no use."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from helpers import speechlike, write_sound
from zweistimme.demo.script import BED, MEDIA, data_file
from zweistimme.media.atomic import written_whole
from zweistimme.media.coded_picture import picture_checksum
from zweistimme.media.containers import MKV, MP4, plan_copy
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.encode import write_wav
from zweistimme.media.microphone import FileMicrophone
from zweistimme.media.mux import CaptionTrackOut, Original, SoundTrackOut, mux_copy
from zweistimme.media.peaks import file_peaks, peaks_of
from zweistimme.media.picture import PictureReader
from zweistimme.media.probe import file_checksum, probe, quick_identity, same_file
from zweistimme.media.sound_reader import SoundReader
from zweistimme.media.working_copy import working_copy
from zweistimme.project.errors import MediaError
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE
from zweistimme.sentences import sentence_of


def decoded(path: Path) -> tuple[np.ndarray, list[str]]:
    notes = DecodeNotes()
    return np.concatenate(list(decoded_blocks(path, notes)), axis=1), list(map(sentence_of, notes.notes))


def test_a_wav_comes_through_exactly(tmp_path: Path) -> None:
    path = write_sound(tmp_path / "a.wav", 2.5)
    sound, notes = decoded(path)
    assert np.abs(sound[0] - soundfile.read(path, dtype="float32")[0]).max() < 1e-6
    assert notes == []


@pytest.mark.parametrize("name", ["a.flac", "a.ogg", "a.wav", "a.mp3"])
def test_kinds_of_files_and_rates_are_said(tmp_path: Path, name: str) -> None:
    path = write_sound(tmp_path / name, 2.0, rate=44_100, channels=2)
    sound, notes = decoded(path)
    assert sound.shape[0] == 2
    assert abs(sound.shape[1] - 2 * RATE) < 0.06 * RATE
    assert any("44,100 Hz is converted" in note for note in notes)


def test_six_channels_are_mixed_down_and_said(tmp_path: Path) -> None:
    sound, notes = decoded(write_sound(tmp_path / "a.wav", 1.0, channels=6))
    assert sound.shape[0] == 2
    assert "6 channels are mixed down to stereo (ITU-R BS.775)." in notes


def test_sound_that_starts_late_is_kept_in_step(tmp_path: Path) -> None:
    path = tmp_path / "late.mkv"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width = video.height = 64
        video.pix_fmt = "yuv420p"
        stream = out.add_stream("pcm_s16le", rate=RATE, layout="mono")
        black = av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")
        for k in range(50):
            black.pts = k
            out.mux(video.encode(black))
        out.mux(video.encode(None))
        frame = av.AudioFrame.from_ndarray(np.full((1, RATE), 8000, np.int16), "s16", "mono")
        frame.sample_rate, frame.pts = RATE, RATE // 2
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    sound, _ = decoded(path)
    first = int(np.flatnonzero(np.abs(sound[0]) > 0.1)[0])
    assert abs(first - RATE // 2) <= RATE // 500


def _truncated(tmp_path: Path) -> Path:
    path = tmp_path / "cut.mp4"
    path.write_bytes(data_file(MEDIA).read_bytes()[:4000])
    return path


def _silent_video(tmp_path: Path) -> Path:
    path = tmp_path / "mute.mkv"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width = video.height = 64
        video.pix_fmt = "yuv420p"
        out.mux(video.encode(av.VideoFrame.from_ndarray(np.zeros((64, 64, 3), np.uint8), format="rgb24")))
        out.mux(video.encode(None))
    return path


def _written(tmp_path: Path, content: bytes) -> Path:
    path = tmp_path / "file.mp4"
    path.write_bytes(content)
    return path


def test_files_of_no_use_are_said_in_a_sentence(tmp_path: Path) -> None:
    cases = [
        (tmp_path / "nowhere.mp4", "There is no file"),
        (tmp_path, "is a folder"),
        (_written(tmp_path, b""), "is empty"),
        (_truncated(tmp_path), "not a video or sound file that can be read, or it is cut off"),
        (_silent_video(tmp_path), "has no sound track"),
    ]
    for path, words in cases:
        with pytest.raises(MediaError, match=words):
            probe(path)
    with pytest.raises(MediaError, match="not a video or sound file"):
        probe(_written(tmp_path, b"just some words, again and again\n" * 500))


def test_a_file_stands_in_for_a_microphone_if_it_holds_sound_and_is_short(tmp_path: Path) -> None:
    soundfile.write(tmp_path / "empty.wav", np.zeros(0, np.float32), RATE)
    with pytest.raises(MediaError, match=r"empty\.wav has a sound track without any sound"):
        FileMicrophone(tmp_path / "empty.wav").start()
    soundfile.write(tmp_path / "long.wav", np.zeros(121 * RATE, np.int16), RATE)
    with pytest.raises(MediaError, match="longer than two minutes"):
        FileMicrophone(tmp_path / "long.wav").start()


def test_a_wav_that_is_cut_off_is_used_as_far_as_it_goes(tmp_path: Path) -> None:
    whole = write_sound(tmp_path / "a.flac", 10.0)
    cut = tmp_path / "cut.flac"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    sound, notes = decoded(cut)
    assert 2 * RATE < sound.shape[1] < 8 * RATE
    assert any("cut off" in note or "damaged" in note for note in notes)


def test_working_copy_reads_anywhere(tmp_path: Path) -> None:
    source = write_sound(tmp_path / "a.wav", 3.0)
    told: list[float] = []
    copy = working_copy(probe(source), SoundPick(), tmp_path / "copy.wav", told.append)
    assert (copy.samples, copy.channels, copy.checksum) == (3 * RATE, 1, file_checksum(source))
    assert told[-1] == 1.0
    truth = soundfile.read(source, dtype="float32")[0]
    with SoundReader(tmp_path / "copy.wav") as reader:
        part = reader.read(-100, 300)
        assert np.all(part[0, :100] == 0)
        assert np.abs(part[0, 100:] - truth[:200]).max() < 1e-6
        assert reader.read(3 * RATE - 10, 50).shape == (1, 50)


def test_a_working_copy_that_was_cut_or_is_none_is_said(tmp_path: Path) -> None:
    copy = tmp_path / "copy.wav"
    working_copy(probe(write_sound(tmp_path / "a.wav", 3.0)), SoundPick(), copy, lambda _share: None)
    with SoundReader(copy) as reader:
        os.truncate(copy, copy.stat().st_size - 3 * RATE)
        assert reader.read(0, RATE).any()
        with pytest.raises(MediaError, match="Bring the programme in again"):
            reader.read(2 * RATE, RATE)
    for name, subtype in (("b.flac", "PCM_24"), ("b.wav", "PCM_16")):
        soundfile.write(tmp_path / name, np.zeros(100), RATE, subtype)
        with pytest.raises(MediaError, match="cannot be read"):
            SoundReader(tmp_path / name)


def test_peaks_are_made_once(tmp_path: Path) -> None:
    source = write_sound(tmp_path / "a.wav", 2.0)
    working_copy(probe(source), SoundPick(), tmp_path / "copy.wav", lambda _share: None)
    first = file_peaks(tmp_path / "copy.wav", tmp_path / "peaks.npy", lambda _share: None)
    (tmp_path / "copy.wav").unlink()
    assert np.array_equal(first, file_peaks(tmp_path / "copy.wav", tmp_path / "peaks.npy", lambda _share: None))
    assert first.shape == (200, 2)
    assert np.array_equal(first, peaks_of(soundfile.read(source, dtype="float32")[0]))


def test_files_appear_whole_or_not_at_all(tmp_path: Path) -> None:
    target = tmp_path / "deep" / "file.txt"

    def fail(path: Path) -> None:
        path.write_text("half")
        raise OSError("disk full")

    with pytest.raises(OSError, match="disk full"):
        written_whole(target, fail)
    assert list(target.parent.iterdir()) == []
    with pytest.raises(OSError, match=r"No such file.*/proc/file\.txt"):
        written_whole(Path("/proc/file.txt"), fail)


def test_nothing_is_clipped_silently(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match="full scale"):
        write_wav(tmp_path / "a.wav", iter([np.full((1, 10), 1.5, np.float32)]), 1, 10)


def test_pictures_at_any_time_are_the_right_ones(tmp_path: Path) -> None:
    path = tmp_path / "numbers.mp4"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        video.width, video.height, video.pix_fmt = 64, 64, "yuv420p"
        video.options = {"g": "30"}
        for k in range(100):
            frame = av.VideoFrame.from_ndarray(np.full((64, 64, 3), 2 * k + 20, np.uint8), format="rgb24")
            frame.pts = k
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
    reader = PictureReader(path)
    for k in (70, 3, 4, 5, 99, 40, 41, 0):
        picture = reader.at(k / 25 + 0.01, 64)
        assert picture is not None
        assert abs(float(picture[..., 0].mean()) - (2 * k + 20)) < 2.5, k
    reader.close()
    with pytest.raises(MediaError, match="no picture"):
        PictureReader(data_file(BED))


@pytest.mark.parametrize("ending", [".mp4", ".mkv"])
def test_tracks_are_added_and_the_picture_is_untouched(tmp_path: Path, ending: str) -> None:
    dub = tmp_path / "dub.wav"
    write_wav(dub, iter([np.stack([speechlike(85.0)] * 2)]), 2, 85 * RATE)
    cues = ((1_000_000, 2_500_000, "Guten Morgen.\nBis morgen."), (3_000_000, 4_000_000, "Größe – ja"))
    target = tmp_path / f"out{ending}"
    plan = replace(plan_copy(data_file(MEDIA)), container=MP4 if ending == ".mp4" else MKV)
    coded = mux_copy(
        data_file(MEDIA),
        target,
        plan,
        [SoundTrackOut(dub, "de-DE", "Deutsch", default=True), SoundTrackOut(dub, "es-ES", "Español")],
        [CaptionTrackOut(cues, "de-DE", "Deutsch")],
        Original(1, "en-GB"),
    )
    assert coded == picture_checksum(data_file(MEDIA))
    assert picture_checksum(target) == picture_checksum(data_file(MEDIA))
    tracks = probe(target).tracks
    assert [track.kind for track in tracks] == ["video", "audio", "audio", "audio", "subtitle"]
    assert [track.language for track in tracks[1:]] == ["eng", "ger", "spa", "ger"]
    with av.open(str(target)) as container:
        texts = [
            bytes(packet)[2:] if ending == ".mp4" else bytes(packet)
            for packet in container.demux(container.streams.subtitles[0])
            if packet.size > 2
        ]
    with av.open(str(target)) as container:
        heard = next(container.decode(container.streams.audio[1]))
        assert heard.sample_rate == RATE
    assert [text.decode().rstrip("\0") for text in texts] == [cue[2] for cue in cues]


def test_a_file_is_known_by_all_that_is_in_it(tmp_path: Path) -> None:
    path = tmp_path / "big"
    path.write_bytes(b"a" * 5_000_000)
    old, whole = quick_identity(path), file_checksum(path)
    assert same_file(path, 5_000_000, old)
    path.write_bytes(b"a" * 2_500_000 + b"b" + b"a" * 2_499_999)
    assert not same_file(path, 5_000_000, whole)
    assert same_file(path, 5_000_000, old)  # how projects told files apart before
    assert not same_file(tmp_path / "gone", 5_000_000, whole)


def test_devices_and_pipes_are_no_files(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", Path("/dev/zero")):
        with pytest.raises(MediaError, match="a device or a pipe"):
            probe(path)
