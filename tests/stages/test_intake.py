"""Which sound of a file is used, changing it later, and media that was moved or changed."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from helpers import project_with, speechlike, work_on, write_sound
from media.made_media import Made
from zweistimme.media.probe import file_checksum
from zweistimme.project.edits import add_version
from zweistimme.project.errors import Cancelled, EditError, MediaError, StoreError
from zweistimme.project.model import Project
from zweistimme.project.picks import is_bed_the_rest, pick_from, pick_text, sound_key
from zweistimme.project.programme import Programme, SoundPick, SoundTrack
from zweistimme.project.times import RATE
from zweistimme.project.transcript import set_transcript
from zweistimme.stages.bring_in import bring_in, bring_in_bed, gone, unfinished
from zweistimme.stages.intake import Intake, check, propose, with_rest_as_bed
from zweistimme.stages.work import open_sound
from zweistimme.store.document import Document


@pytest.fixture
def empty(tmp_path: Path):  # type: ignore[no-untyped-def]
    with Document.create(tmp_path / "deep" / "p", add_version(Project("x", "en-GB"), "de-DE")) as document:
        yield document


def music(seconds: float) -> np.ndarray:
    times = np.arange(round(seconds * RATE)) / RATE
    return sum(0.1 * np.sin(2 * np.pi * tone * times) for tone in (196.0, 247.0, 294.0)).astype(np.float32)


def test_the_dialogue_is_proposed_by_where_speech_is(tmp_path: Path) -> None:
    sound = np.stack([music(8.0), np.zeros(8 * RATE, np.float32), speechlike(8.0), music(8.0)], axis=1)
    soundfile.write(tmp_path / "four.wav", sound, RATE)
    four = propose(tmp_path / "four.wav")
    assert four.candidates  # more than two channels leave a choice
    plain = propose(write_sound(tmp_path / "plain.wav", 3.0, channels=2))
    assert plain.candidates == ()
    assert plain.intake.sound == SoundPick()


def test_a_language_of_the_tracks_comes_first_then_the_default_one(tmp_path: Path) -> None:
    made = Made(
        ".mkv", sound="flac", tracks=3, track_metadata=({"language": "fre"}, {"language": "ger"}, {"language": "eng"})
    )
    path = made.write(tmp_path)
    assert propose(path, "en-GB").intake.sound == SoundPick((3,))
    assert propose(path, "de-AT").intake.sound == SoundPick((2,))
    assert propose(path, "it-IT").intake.sound == SoundPick((1,))


def test_picks_are_written_and_read_and_refused_in_a_sentence(tmp_path: Path) -> None:
    for text in ("2", "5+6", "1:FC", "1:-FC", "1:FL+FR"):
        assert pick_text(pick_from(text)) == text
    for text in ("", "0", "a", "1:", "1+", "-1", "1:F C"):
        with pytest.raises(EditError, match="names no sound of a file"):
            pick_from(text)
    path = write_sound(tmp_path / "a.wav", 1.0, channels=2)
    with pytest.raises(MediaError, match="there is no track 2"):
        check(Intake(path, SoundPick((2,))))
    with pytest.raises(MediaError, match="There is no channel FC in this track"):
        check(Intake(path, SoundPick((1,), "FC")))
    with pytest.raises(MediaError, match="of one channel each"):
        check(Intake(path, SoundPick((1, 1))))
    with pytest.raises(MediaError, match="rest of a track"):
        with_rest_as_bed(Intake(path))


def test_another_sound_later_is_an_edit_and_says_what_is_stale(empty: Document, tmp_path: Path) -> None:
    path = Made(".mov", sound="pcm_s16le", layout="mono", tracks=2).write(tmp_path)
    bring_in(work_on(empty), Intake(path))
    made = project_with([(0.5, 1.5, "Hello there")])
    empty.apply("Lines", lambda p: set_transcript(p, made.speakers.values(), made.segments))
    said: list[str] = []
    bring_in(work_on(empty, said), Intake(path, SoundPick((2,))))
    assert any("keep their text and times" in sentence for sentence in said)
    assert [segment.text for segment in empty.project.segments] == ["Hello there"]
    said.clear()
    bring_in(work_on(empty, said), Intake(path, SoundPick((2,))))
    assert any("same sound as before" in sentence for sentence in said)
    bring_in_bed(work_on(empty), path, SoundPick((1,)))
    programme = empty.project.programme
    assert programme is not None
    assert programme.bed is not None
    assert sound_key(programme.bed) != sound_key(programme.sound)
    bring_in_bed(work_on(empty), None, SoundPick())
    assert empty.project.programme is not None
    assert empty.project.programme.bed is None
    empty.undo()
    assert empty.project.programme == programme


def test_media_that_moved_is_found_by_what_is_in_it(empty: Document, tmp_path: Path) -> None:
    path = write_sound(tmp_path / "talk.wav", 2.0)
    bring_in(work_on(empty), Intake(path))
    programme = empty.project.programme
    assert programme is not None
    assert programme.sound.checksum == file_checksum(path)
    for file in empty.cache.glob("sound-*"):
        file.unlink()
    write_sound(empty.cache.parent.parent / "other.wav", 2.1)
    moved = path.rename(empty.cache.parent.parent / "renamed.wav")
    assert gone(empty.cache, programme) == [programme.sound]
    said: list[str] = []
    with open_sound(work_on(empty, said), programme.sound) as reader:
        assert reader.length == 2 * RATE
    assert any("was found again" in sentence for sentence in said)
    assert empty.project.programme is not None
    assert empty.project.programme.sound.path == str(moved)


def test_media_that_changed_is_refused_and_media_that_is_gone_named(empty: Document, tmp_path: Path) -> None:
    path = write_sound(tmp_path / "talk.wav", 2.0)
    bring_in(work_on(empty), Intake(path))
    programme = empty.project.programme
    assert programme is not None
    for file in empty.cache.glob("sound-*"):
        file.unlink()
    soundfile.write(path, speechlike(2.0, pitch=200.0, seed=3), RATE)
    with pytest.raises(StoreError, match="is another file than the one that was brought in"):
        open_sound(work_on(empty), programme.sound)
    path.unlink()
    assert gone(empty.cache, programme) == []
    with pytest.raises(StoreError, match="is not there any more, nor near the project"):
        open_sound(work_on(empty), programme.sound)


def test_reading_that_was_cut_short_is_taken_up_with_its_bed(empty: Document, tmp_path: Path) -> None:
    media, bed = write_sound(tmp_path / "talk.wav", 4.0), write_sound(tmp_path / "bed.wav", 4.0)

    def stop(share: float) -> None:
        if share > 0.2:
            raise Cancelled

    with pytest.raises(Cancelled):
        bring_in(replace(work_on(empty), report=stop), Intake(media, bed=bed))
    programme = empty.project.programme
    assert programme is not None
    assert unfinished(empty.cache, programme) == Intake(media, SoundPick(), bed)
    said: list[str] = []
    bring_in(work_on(empty, said), Intake(media, bed=bed))
    assert empty.project.programme is not None
    assert unfinished(empty.cache, empty.project.programme) is None
    assert not any("is another than before" in sentence for sentence in said)


def test_the_rest_of_a_track_is_told_from_a_whole_one_with_the_dialogue_in_it(tmp_path: Path) -> None:
    track = SoundTrack("/a.wav", 1, "0" * 64, 1, RATE, 6, SoundPick((1,), "FC"))
    rest = replace(track, pick=SoundPick((1,), "-FC"))
    project = Project("x", "en-GB", Programme(track, bed=rest))
    assert is_bed_the_rest(project.programme)
    whole = replace(track, pick=SoundPick())
    assert not is_bed_the_rest(Programme(whole, bed=rest))
