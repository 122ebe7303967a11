"""One flag in the boxes of an MP4 file (ISO/IEC 14496-12): which tracks are on when it is opened."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Final

_TEXT_HANDLERS: Final = (b"sbtl", b"text", b"subt")


def switch_off_text_tracks(path: Path) -> None:
    """Leave no caption track on by default; the writer switches on the first of each kind whatever it is told."""
    with path.open("r+b") as file:
        size = file.seek(0, 2)
        for kind, start, end in _boxes(file, 0, size):
            if kind != b"moov":
                continue
            for track, first, last in _boxes(file, start, end):
                if track == b"trak" and _handler(file, first, last) in _TEXT_HANDLERS:
                    _clear_enabled(file, first, last)


def _boxes(file: BinaryIO, start: int, end: int) -> Iterator[tuple[bytes, int, int]]:
    """Kind, beginning and end of the contents of each box in a stretch of the file."""
    at = start
    while at + 8 <= end:
        file.seek(at)
        size, kind = int.from_bytes(file.read(4), "big"), file.read(4)
        head = 8
        if size == 1:
            size, head = int.from_bytes(file.read(8), "big"), 16
        elif size == 0:
            size = end - at
        if size < head:
            return
        yield kind, at + head, min(at + size, end)
        at += size


def _handler(file: BinaryIO, start: int, end: int) -> bytes:
    for kind, first, last in _boxes(file, start, end):
        if kind == b"mdia":
            for inner, begin, _ in _boxes(file, first, last):
                if inner == b"hdlr":
                    file.seek(begin + 8)
                    return file.read(4)
    return b""


def _clear_enabled(file: BinaryIO, start: int, end: int) -> None:
    for kind, first, _ in _boxes(file, start, end):
        if kind == b"tkhd":
            file.seek(first + 3)
            flags = file.read(1)[0]
            file.seek(first + 3)
            file.write(bytes([flags & ~1]))
