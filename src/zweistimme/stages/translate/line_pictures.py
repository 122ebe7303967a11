"""What is seen at each line, as small JPEG files."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

from zweistimme.media.picture import PictureReader
from zweistimme.media.stills import jpeg_of
from zweistimme.project.errors import MediaError
from zweistimme.project.model import Project, Segment
from zweistimme.project.times import SECOND_US

WIDTH: Final = 320


@contextmanager
def line_pictures(project: Project, file: Path | None = None) -> Iterator[Callable[[Segment], bytes]]:
    """What gives the picture in the middle of a segment; none where there is none. *file* is where the programme lies
    now. MediaError where it has no picture."""
    programme = project.programme
    if programme is None or programme.picture is None:
        raise MediaError("This programme has no picture.")
    reader = PictureReader(file or Path(programme.sound.path), programme.sound.duration_us / SECOND_US)
    try:
        yield lambda segment: _picture(reader, (segment.start_us + segment.end_us) / 2 / SECOND_US)
    finally:
        reader.close()


def _picture(reader: PictureReader, at_s: float) -> bytes:
    picture = reader.at(at_s, WIDTH)
    return b"" if picture is None else jpeg_of(picture)
