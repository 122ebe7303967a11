"""Whether two files hold the same coded pictures, whatever they are packed in.

A transport stream marks the units of H.264 and HEVC by start codes, an MP4 by their lengths, and either may repeat
headers (ITU-T H.264 annex B, ISO/IEC 14496-15). Only the units that hold pictures are compared.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from zweistimme.media.probe import opened, picture_stream
from zweistimme.project.errors import MediaError

if TYPE_CHECKING:
    from av import VideoStream

_START: Final = b"\x00\x00\x01"


class PictureChecksum:
    """SHA-256 over the coded pictures of a track, packet by packet in the order of the file."""

    def __init__(self, stream: VideoStream) -> None:
        self._digest = hashlib.sha256()
        self._codec = stream.codec_context.name
        extra = bytes(stream.codec_context.extradata or b"")
        self._length_bytes = 0
        if self._codec == "h264" and len(extra) > 4 and extra[0] == 1:
            self._length_bytes = (extra[4] & 3) + 1
        elif self._codec == "hevc" and len(extra) > 21 and extra[0] == 1:
            self._length_bytes = (extra[21] & 3) + 1

    def add(self, packet: Any) -> None:
        """The next packet."""
        data = bytes(packet)
        if self._codec not in ("h264", "hevc"):
            self._digest.update(data)
            return
        for unit in _by_length(data, self._length_bytes) if self._length_bytes else _by_start(data):
            kind = (unit[0] & 31) if self._codec == "h264" else (unit[0] >> 1) & 63
            if 1 <= kind <= 5 if self._codec == "h264" else kind < 32:
                self._digest.update(unit)

    def result(self) -> str:
        """The checksum."""
        return self._digest.hexdigest()


def _by_length(data: bytes, size: int) -> Iterator[bytes]:
    at = 0
    while at + size < len(data):
        length = int.from_bytes(data[at : at + size], "big")
        unit = data[at + size : at + size + length].rstrip(b"\0")
        at += size + length
        if unit:
            yield unit


def _by_start(data: bytes) -> Iterator[bytes]:
    for part in data.split(_START)[1:]:
        unit = part.rstrip(b"\0")  # a unit never ends with zeros; those before the next start belong to that
        if unit:
            yield unit


def picture_checksum(path: Path) -> str:
    """The checksum of the coded pictures of a file."""
    with opened(path) as container:
        stream = picture_stream(container)
        if stream is None:
            raise MediaError("{path} has no picture.", path=path)
        checksum = PictureChecksum(stream)
        for packet in container.demux(stream):
            if packet.size:
                checksum.add(packet)
    return checksum.result()
