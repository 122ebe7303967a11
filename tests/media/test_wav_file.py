"""Files of 24-bit sound as we write them, read by libraries that know nothing of us."""

from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from zweistimme.media.sound_reader import ROOM_FOR, SoundReader
from zweistimme.media.wav_file import WavFile, packed

FULL = 2**23
EXTREMES = np.array([0, 1, -1, FULL - 1, -FULL, 255, -256, 65_535, -65_536, 0x123456, -0x123456], np.int32)


@pytest.mark.parametrize("channels", [1, 2, 3])
@pytest.mark.parametrize("is_rf64", [False, True])
@pytest.mark.parametrize("comment", ["", f"{ROOM_FOR}12"])
def test_others_read_what_we_write(tmp_path: Path, channels: int, is_rf64: bool, comment: str) -> None:
    random = np.random.default_rng(0).integers(-FULL, FULL, (channels, 4_800), dtype=np.int32)
    blocks = [np.stack([np.roll(EXTREMES, k) for k in range(channels)]), random, random[:, :1], random[:, :0]]
    path = tmp_path / "a.wav"
    with WavFile(path, channels, is_rf64=is_rf64, comment=comment) as file:
        for block in blocks:
            file.write(block)
    given = np.concatenate(blocks, axis=1)
    assert path.stat().st_size % 2 == 0
    with soundfile.SoundFile(path) as there:
        assert (there.format, there.subtype) == ("RF64" if is_rf64 else "WAV", "PCM_24")
        assert (there.samplerate, there.channels, there.frames) == (48_000, channels, given.shape[1])
        assert (there.comment or "") == comment
        assert np.array_equal(there.read(dtype="int32", always_2d=True).T >> 8, given)
    with av.open(str(path)) as container:
        heard = np.concatenate([frame.to_ndarray() for frame in container.decode(audio=0)], axis=1)
    assert np.array_equal(heard.reshape(-1, channels).T >> 8, given)
    with SoundReader(path) as reader:
        level = 10 ** (12 / 20) if comment else 1.0
        assert np.allclose(reader.read(0, reader.length), given / FULL * level, rtol=1e-6)


def test_three_bytes_of_each_sample_the_lowest_first() -> None:
    assert bytes(packed(np.array([[0x030201, -1], [-FULL, 0x060504]], np.int32))) == bytes.fromhex(
        "010203 000080 ffffff 040506"
    )
    assert bytes(packed(np.zeros((2, 0), np.int32))) == b""


def test_a_file_that_nobody_closed_says_that_it_is_empty(tmp_path: Path) -> None:
    file = WavFile(tmp_path / "a.wav", 1, is_rf64=False)
    file.write(EXTREMES[None])
    assert soundfile.info(tmp_path / "a.wav").frames == 0
    file.close()
    file.close()
    assert soundfile.info(tmp_path / "a.wav").frames == len(EXTREMES)


def test_a_full_disk_is_said() -> None:
    with pytest.raises(OSError, match="No space left"):
        WavFile(Path("/dev/full"), 1, is_rf64=False)
