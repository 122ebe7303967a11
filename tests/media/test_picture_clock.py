"""Pictures of recordings that were joined: each where it belongs, though stamps begin anew."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from zweistimme.media.picture import PictureReader

FPS, SECONDS = 25, 4


def recording(path: Path, origin_s: int, grey: int) -> bytes:
    """Four seconds of a picture that gets brighter by 5 each second from *grey* on, stamps beginning at *origin_s*."""
    with av.open(str(path), "w", format="mpegts") as container:
        stream = container.add_stream("mpeg2video", rate=FPS)
        stream.width, stream.height, stream.pix_fmt, stream.gop_size = 64, 48, "yuv420p", 10
        for number in range(FPS * SECONDS):
            image = np.full((48, 64, 3), grey + 5 * (number // FPS), np.uint8)
            frame = av.VideoFrame.from_ndarray(image, "rgb24")
            frame.pts, frame.time_base = origin_s * FPS + number, Fraction(1, FPS)
            for packet in stream.encode(frame):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)
    return path.read_bytes()


def grey_at(reader: PictureReader, seconds: float) -> float:
    picture = reader.at(seconds, 64)
    assert picture is not None
    return float(picture[..., :3].mean())


def test_pictures_behind_a_clock_that_begins_anew(tmp_path: Path) -> None:
    joined = tmp_path / "joined.ts"
    parts = ((36_000, 40), (60, 120), (7_000, 200))
    joined.write_bytes(b"".join(recording(tmp_path / f"{o}.ts", o, grey) for o, grey in parts))
    reader = PictureReader(joined, 3 * SECONDS)
    try:
        wanted = {0.5: 40, 3.5: 55, 5.5: 125, 7.5: 135, 8.5: 200, 11.5: 215}
        for seconds in (*wanted, *reversed(wanted)):  # forwards while playing, and back by seeking
            assert abs(grey_at(reader, seconds) - wanted[seconds]) < 3, seconds
        for seconds in np.arange(7.0, 9.0, 0.04):  # over a joint without seeking
            assert abs(grey_at(reader, seconds) - (200 if seconds > 8.01 else 135)) < 3 or abs(seconds - 8) < 0.1
    finally:
        reader.close()


def test_stamps_that_span_what_the_programme_lasts_are_trusted(tmp_path: Path) -> None:
    recording(tmp_path / "whole.ts", 100, 80)
    reader = PictureReader(tmp_path / "whole.ts", SECONDS)
    try:
        assert abs(grey_at(reader, 2.5) - 90) < 3
        assert abs(grey_at(reader, 0.5) - 80) < 3
    finally:
        reader.close()
