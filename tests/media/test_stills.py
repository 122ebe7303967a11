"""Single pictures as files."""

from __future__ import annotations

import io

import av
import numpy as np

from zweistimme.formats.review_sheet import jpeg_size
from zweistimme.media.stills import jpeg_of


def test_a_picture_becomes_a_small_file_that_shows_it_again_and_is_the_same_each_time() -> None:
    picture = np.zeros((120, 320, 4), dtype=np.uint8)
    picture[:, :160] = (0, 0, 220, 255)
    picture[:, 160:] = (200, 30, 0, 255)
    data = jpeg_of(picture)
    assert data == jpeg_of(picture)
    assert jpeg_size(data) == (320, 120)
    assert len(data) < 12_000
    with av.open(io.BytesIO(data)) as container:
        shown = next(container.decode(video=0)).to_ndarray(format="bgra").astype(int)
    assert np.abs(shown[60, 40, :3] - picture[60, 40, :3]).max() < 30
    assert np.abs(shown[60, 280, :3] - picture[60, 280, :3]).max() < 30
