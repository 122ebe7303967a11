"""Single pictures of a programme as files, for engines that look at them."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import numpy.typing as npt

_PIXELS = "yuvj420p"


def jpeg_of(picture: npt.NDArray[np.uint8]) -> bytes:
    """A picture as a JPEG file (baseline, ISO/IEC 10918-1). *picture* is blue, green, red and one more, shape
    ``(lines, columns, 4)``, an even number of both; the same picture gives the same bytes."""
    import av

    lines, columns, _ = picture.shape
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="bgra")
    coder = av.CodecContext.create("mjpeg", "w")
    assert isinstance(coder, av.VideoCodecContext)
    coder.width, coder.height, coder.pix_fmt = columns, lines, _PIXELS
    coder.time_base = Fraction(1, 25)
    coder.sample_aspect_ratio = Fraction(1)  # with which the file says that it is JFIF
    coder.thread_count = 1
    frame = frame.reformat(format=_PIXELS)
    frame.pts = 0
    return b"".join(bytes(packet) for packet in (*coder.encode(frame), *coder.encode(None)))
