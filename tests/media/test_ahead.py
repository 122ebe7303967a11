"""Work on threads beside those who wait for it: made ahead, encoded ahead, and never left behind."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
import pytest

from helpers import speechlike
from zweistimme.media.ahead import ahead
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.encode import SoundFormat, write_wav, written_sounds
from zweistimme.media.mux import write_sound_file
from zweistimme.media.sound_reader import SoundReader

RATE = 48_000


def threads_named(name: str) -> int:
    return sum(thread.name == name for thread in threading.enumerate())


def test_items_come_in_order_and_what_is_raised_is_raised_where_it_is_waited_for() -> None:
    def items() -> Iterator[int]:
        yield from range(20)
        raise OSError("the disk is gone")

    waiting = ahead(items(), most=2)
    assert [next(waiting) for _ in range(20)] == list(range(20))
    with pytest.raises(OSError, match="the disk is gone"):
        next(waiting)


def test_nobody_goes_on_for_one_who_has_gone() -> None:
    made = []

    def items() -> Iterator[int]:
        for k in range(10_000):
            made.append(k)
            yield k

    waiting = ahead(items(), most=3)
    assert next(waiting) == 0
    waiting.close()
    count = len(made)
    time.sleep(0.05)
    assert count == len(made) <= 6
    assert not threads_named("ahead")


def test_a_sound_file_for_listeners_is_the_mix(tmp_path: Path) -> None:
    sound = np.stack([speechlike(6.0), speechlike(6.0, seed=4)])
    write_wav(tmp_path / "mix.wav", [sound], 2, sound.shape[1])
    write_sound_file(tmp_path / "out.m4a", tmp_path / "mix.wav", "de-DE", {"title": "Tide"}, ())
    heard = np.concatenate(list(decoded_blocks(tmp_path / "out.m4a", DecodeNotes())), axis=1)
    assert abs(heard.shape[1] - sound.shape[1]) <= 2048
    count = min(heard.shape[1], sound.shape[1])
    off = heard[:, :count] - sound[:, :count]
    assert 10 * np.log10((sound**2).mean() / (off**2).mean()) > 20
    assert not threads_named("ahead")


def test_encoding_that_fails_leaves_no_file_and_no_thread(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    sound = np.stack([speechlike(30.0)] * 2)
    write_wav(tmp_path / "mix.wav", [sound], 2, sound.shape[1])

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(SoundReader, "read", full)
    with pytest.raises(OSError, match="No space"):
        write_sound_file(tmp_path / "out.m4a", tmp_path / "mix.wav", "de-DE", {}, ())
    assert sorted(path.name for path in tmp_path.iterdir()) == ["mix.wav"]
    assert not threads_named("ahead")


def test_several_files_appear_together_or_not_at_all(tmp_path: Path) -> None:
    paths = [tmp_path / "a.wav", tmp_path / "b.wav"]
    files = [(paths[0], SoundFormat(2)), (paths[1], SoundFormat(1))]
    with pytest.raises(ValueError, match="full scale"), written_sounds(files, 100) as (_, other):
        other.write(np.full((1, 100), 1.5, np.float32))
    assert not list(tmp_path.iterdir())
    with written_sounds(files, 100) as (one, other):
        given = np.random.default_rng(0).uniform(-1, 1, (2, 100)).astype(np.float32)
        kept = one.write(given)
        other.write(np.zeros((1, 100), np.float32))
    with SoundReader(paths[0]) as reader:
        assert np.array_equal(reader.read(0, 100), kept)
    assert np.abs(kept - given).max() <= 2**-24
    with av.open(str(paths[1])) as container:
        assert container.streams.audio[0].codec_context.name == "pcm_s24le"
