"""Pictures of a programme at any time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from zweistimme.media.picture_clock import key_places
from zweistimme.media.probe import origin_of, picture_stream
from zweistimme.project.errors import MediaError

if TYPE_CHECKING:
    from av import VideoFrame

Bgra = npt.NDArray[np.uint8]
"""Shape ``(height, width, 4)``."""


@dataclass(frozen=True, slots=True)
class _Timed:
    """A frame and when it is shown, on the programme's clock."""

    frame: VideoFrame
    seconds: float


class PictureReader:
    """Decodes the frame that is on screen at a time; steps forward without seeking while playing."""

    _FORWARD_SECONDS = 1.0

    def __init__(self, path: Path, length_s: float = 0.0) -> None:
        """*length_s* is how long the programme is known to be: stamps that say otherwise are not trusted."""
        import av

        try:
            self._container = av.open(str(path))
            stream = picture_stream(self._container)
        except av.FFmpegError as error:
            raise MediaError("{path} has no picture that can be shown.", path=path) from error
        if stream is None:
            self._container.close()
            raise MediaError("{path} has no picture that can be shown.", path=path)
        self._stream = stream
        self._stream.thread_type = "AUTO"
        self._origin = float(origin_of(self._container))
        aspect = stream.sample_aspect_ratio
        self._aspect = float(aspect) if aspect and aspect > 0 else 1.0
        self._reformatter = av.video.reformatter.VideoReformatter()
        self._keys = key_places(self._container, stream, path, length_s) if length_s else None
        self._shift_s = -self._origin
        self._frame: _Timed | None = None
        self._next: _Timed | None = None
        self._frames = self._decoded()

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
        frame = self._frame.frame
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
        start = self._frame.seconds if self._frame else None
        if start is None or seconds < start or seconds - start > self._FORWARD_SECONDS:
            self._seek(seconds)
        while self._next is not None and self._next.seconds <= seconds + 1e-6:
            self._frame, self._next = self._next, next(self._frames, None)

    def _seek(self, seconds: float) -> None:
        if self._keys is None:
            base = self._stream.time_base
            offset = int((seconds + self._origin) / base) if base else 0
            self._container.seek(offset, stream=self._stream, backward=True)
        else:
            place, self._shift_s = self._keys.before(seconds)
            self._container.seek(place, unsupported_byte_offset=True)
        self._frames = self._decoded()
        self._frame = next(self._frames, None)
        self._next = next(self._frames, None)

    def _decoded(self) -> Iterator[_Timed]:
        last_s: float | None = None
        for frame in self._container.decode(self._stream):
            if frame.pts is None:
                continue
            if self._keys is not None and last_s is not None:
                self._shift_s = self._keys.shift_after(frame.time, last_s, self._shift_s)
            last_s = frame.time + self._shift_s
            yield _Timed(frame, last_s)

    def close(self) -> None:
        self._container.close()
