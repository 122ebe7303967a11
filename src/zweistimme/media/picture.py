"""Pictures of a programme at any time."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.project.errors import MediaError

if TYPE_CHECKING:
    from av import VideoFrame

Bgra = npt.NDArray[np.uint8]
"""Shape ``(height, width, 4)``."""


class PictureReader:
    """Decodes the frame that is on screen at a time; steps forward without seeking while playing."""

    _FORWARD_SECONDS = 1.0

    def __init__(self, path: Path) -> None:
        import av

        try:
            self._container = av.open(str(path))
            self._stream = self._container.streams.video[0]
        except (av.FFmpegError, IndexError) as error:
            raise MediaError(f"{path} has no picture that can be shown.") from error
        self._stream.thread_type = "AUTO"
        self._reformatter = av.video.reformatter.VideoReformatter()
        self._frame: VideoFrame | None = None
        self._next: VideoFrame | None = None
        self._frames = self._container.decode(self._stream)

    def at(self, seconds: float, width: int) -> Bgra | None:
        """The frame shown at *seconds*, scaled to *width*; None where there is none."""
        import av

        try:
            self._go(max(0.0, seconds))
        except av.FFmpegError:
            return None
        if self._frame is None:
            return None
        height = max(2, round(width * self._frame.height / self._frame.width / 2) * 2)
        scaled = self._reformatter.reformat(self._frame, width, height, "bgra")
        return np.asarray(scaled.to_ndarray(), dtype=np.uint8)

    def _go(self, seconds: float) -> None:
        start = self._time(self._frame)
        if start is None or seconds < start or seconds - start > self._FORWARD_SECONDS:
            self._seek(seconds)
        while self._next is not None and (self._time(self._next) or 0.0) <= seconds + 1e-6:
            self._frame, self._next = self._next, next(self._frames, None)

    def _seek(self, seconds: float) -> None:
        origin = (self._container.start_time or 0) / 1_000_000
        base = self._stream.time_base
        self._container.seek(int((seconds + origin) / base) if base else 0, stream=self._stream, backward=True)
        self._frames = self._container.decode(self._stream)
        self._frame = next(self._frames, None)
        self._next = next(self._frames, None)

    def _time(self, frame: VideoFrame | None) -> float | None:
        if frame is None or frame.time is None:
            return None
        return float(frame.time) - (self._container.start_time or 0) / 1_000_000

    def close(self) -> None:
        self._container.close()
