"""Pictures of a programme at any time."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.media.probe import origin_of, picture_stream
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
            stream = picture_stream(self._container)
        except av.FFmpegError as error:
            raise MediaError(f"{path} has no picture that can be shown.") from error
        if stream is None:
            self._container.close()
            raise MediaError(f"{path} has no picture that can be shown.")
        self._stream = stream
        self._stream.thread_type = "AUTO"
        self._origin = float(origin_of(self._container))
        aspect = stream.sample_aspect_ratio
        self._aspect = float(aspect) if aspect and aspect > 0 else 1.0
        self._reformatter = av.video.reformatter.VideoReformatter()
        self._frame: VideoFrame | None = None
        self._next: VideoFrame | None = None
        self._frames = self._container.decode(self._stream)

    def at(self, seconds: float, width: int) -> Bgra | None:
        """The frame shown at *seconds*, upright and *width* wide; None where there is none. The two fields of an
        interlaced picture are put together, so that what moves has no teeth."""
        import av

        try:
            self._go(max(0.0, seconds))
        except av.FFmpegError:
            return None
        if self._frame is None:
            return None
        frame = self._frame
        turns = -round(frame.rotation / 90) % 4
        shown_width, shown_height = frame.width * self._aspect, float(frame.height)
        if turns % 2:
            shown_width, shown_height = shown_height, shown_width
        height = max(2, round(width * shown_height / shown_width / 2) * 2)
        across, down = (height, width) if turns % 2 else (width, height)
        fields = frame.interlaced_frame and down > frame.height // 2
        lines = max(2, frame.height // 2) if fields else down
        scaled = self._reformatter.reformat(frame, across, lines, "bgra", interpolation="AREA")
        picture = np.asarray(scaled.to_ndarray(), dtype=np.uint8)
        if fields:
            picture = picture[np.arange(down) * lines // down]
        return np.ascontiguousarray(np.rot90(picture, -turns)) if turns else picture

    def _go(self, seconds: float) -> None:
        start = self._time(self._frame)
        if start is None or seconds < start or seconds - start > self._FORWARD_SECONDS:
            self._seek(seconds)
        while self._next is not None and (self._time(self._next) or 0.0) <= seconds + 1e-6:
            self._frame, self._next = self._next, next(self._frames, None)

    def _seek(self, seconds: float) -> None:
        base = self._stream.time_base
        self._container.seek(int((seconds + self._origin) / base) if base else 0, stream=self._stream, backward=True)
        self._frames = self._container.decode(self._stream)
        self._frame = next(self._frames, None)
        self._next = next(self._frames, None)

    def _time(self, frame: VideoFrame | None) -> float | None:
        if frame is None or frame.time is None:
            return None
        return float(frame.time) - self._origin

    def close(self) -> None:
        self._container.close()
