"""What a media file holds, and a plain sentence for each way in which a file can be of no use."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from zweistimme.project.errors import MediaError
from zweistimme.project.model import Picture

if TYPE_CHECKING:
    from av.container import InputContainer

_EDGE_BYTES = 1 << 20
_TEXT_FORMATS = ("tty", "srt", "webvtt", "lrc", "ass", "ffmetadata")
"""What the decoder takes plain text for."""
_UNREADABLE = (
    "{path} is not a video or sound file that can be read, or it is cut off at the start. "
    "Check that it plays, or export it anew."
)


@dataclass(frozen=True, slots=True)
class TrackInfo:
    """One track of a file; *language* as the file has it, or empty."""

    kind: str
    codec: str
    language: str
    title: str


@dataclass(frozen=True, slots=True)
class MediaInfo:
    """What is known of a file before decoding it. *duration_us* is 0 where the file does not say."""

    path: Path
    duration_us: int
    picture: Picture | None
    rate: int
    channels: int
    tracks: tuple[TrackInfo, ...]


@contextmanager
def opened(path: Path) -> Iterator[InputContainer]:
    """The file as a PyAV container; MediaError with a sentence where it cannot be read."""
    import av

    _check_readable(path)
    try:
        container = av.open(str(path), metadata_errors="replace")
    except av.FFmpegError as error:
        raise MediaError(_UNREADABLE.format(path=path)) from error
    if container.format.name in _TEXT_FORMATS:
        container.close()
        raise MediaError(_UNREADABLE.format(path=path))
    try:
        yield container
    except av.FFmpegError as error:
        raise MediaError(f"{path} cannot be decoded: {error.strerror}. Export it anew and try again.") from error
    finally:
        container.close()


def _check_readable(path: Path) -> None:
    if not path.exists():
        raise MediaError(f"There is no file {path}. Check the name.")
    if path.is_dir():
        raise MediaError(f"{path} is a folder. Give a video or sound file.")
    try:
        with path.open("rb") as file:
            if not file.read(1):
                raise MediaError(f"{path} is empty. Copy or export it again.")
    except OSError as error:
        raise MediaError(f"{path} cannot be read: {error.strerror}. Check its permissions.") from error


def probe(path: Path) -> MediaInfo:
    """What *path* holds. A file without a sound track is refused here."""
    with opened(path) as container:
        if not container.streams.audio:
            raise MediaError(f"{path} has no sound track, so there is nothing to dub. Give a file with sound.")
        audio = container.streams.audio[0]
        tracks = tuple(
            TrackInfo(
                stream.type,
                stream.codec_context.name if stream.codec_context else "unknown",
                stream.metadata.get("language", ""),
                stream.metadata.get("title", stream.metadata.get("handler_name", "")),
            )
            for stream in container.streams
        )
        return MediaInfo(
            path,
            container.duration or 0,
            _picture(container),
            audio.codec_context.sample_rate,
            audio.codec_context.channels,
            tracks,
        )


def _picture(container: InputContainer) -> Picture | None:
    """The first real picture track; cover art does not count."""
    for stream in container.streams.video:
        cover = "attached_pic" in str(stream.disposition.name if stream.disposition else "").lower()
        if cover or not stream.codec_context.width:
            continue
        rate = stream.average_rate or stream.guessed_rate
        if rate:
            return Picture(stream.codec_context.width, stream.codec_context.height, rate.numerator, rate.denominator)
    return None


def title_from(path: Path) -> str:
    """A title from a file name.

    >>> title_from(Path("tide-clock_2.mp4"))
    'Tide Clock 2'
    """
    return path.stem.replace("-", " ").replace("_", " ").title()


def file_identity(path: Path) -> str:
    """A name for a file's contents, quick for files of any size: SHA-256 of its size and its first and last MiB."""
    digest = hashlib.sha256()
    size = path.stat().st_size
    digest.update(str(size).encode())
    with path.open("rb") as file:
        digest.update(file.read(_EDGE_BYTES))
        if size > _EDGE_BYTES:
            file.seek(max(_EDGE_BYTES, size - _EDGE_BYTES))
            digest.update(file.read(_EDGE_BYTES))
    return digest.hexdigest()[:32]


def file_checksum(path: Path) -> str:
    """SHA-256 of a whole file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
