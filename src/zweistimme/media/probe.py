"""What a media file holds, and a plain sentence for each way in which a file can be of no use."""

from __future__ import annotations

import hashlib
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from zweistimme.media.downmix import channel_names
from zweistimme.messages import msg
from zweistimme.project.errors import MediaError
from zweistimme.project.programme import Picture

if TYPE_CHECKING:
    from av import VideoStream
    from av.container import InputContainer
    from av.stream import Stream

_EDGE_BYTES: Final = 1 << 20
_QUICK_LENGTH: Final = 32
_TEXT_FORMATS: Final = ("tty", "srt", "webvtt", "lrc", "ass", "ffmetadata")
"""What the decoder takes plain text for."""
_UNREADABLE: Final = msg(
    "{path} is not a video or sound file that can be read, or it is cut off at the start. "
    "Check that it plays, or export it anew."
)


@dataclass(frozen=True, slots=True)
class TrackInfo:
    """One track of a file; *language* as the file has it, or empty. *index* is its number in the file from 0,
    *number* that among the tracks of its kind from 1, *channels* the names of its channels in order."""

    kind: str
    codec: str
    language: str
    title: str
    index: int = 0
    number: int = 1
    default: bool = False
    channels: tuple[str, ...] = ()
    rate: int = 0


@dataclass(frozen=True, slots=True)
class Chapter:
    """A chapter of a programme, ``[start, end)`` on its clock."""

    start_us: int
    end_us: int
    title: str


@dataclass(frozen=True, slots=True)
class MediaInfo:
    """What is known of a file before decoding it. *duration_us* is 0 where the file does not say; *origin* is the
    stamp in seconds at which its clock begins; *picture_index* the track that holds the picture."""

    path: Path
    container: str
    duration_us: int
    origin: Fraction
    picture: Picture | None
    picture_index: int | None
    tracks: tuple[TrackInfo, ...]
    chapters: tuple[Chapter, ...] = ()
    timecode: str = ""

    @property
    def sounds(self) -> tuple[TrackInfo, ...]:
        """The sound tracks, in order."""
        return tuple(track for track in self.tracks if track.kind == "audio")

    @property
    def captions(self) -> tuple[TrackInfo, ...]:
        """The caption tracks, in order."""
        return tuple(track for track in self.tracks if track.kind == "subtitle")


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
        raise MediaError(
            "{path} cannot be decoded: {why}. Export it anew and try again.", path=path, why=error
        ) from error
    finally:
        container.close()


def _check_readable(path: Path) -> None:
    if not path.exists():
        raise MediaError("There is no file {path}. Check the name.", path=path)
    if path.is_dir():
        raise MediaError("{path} is a folder. Give a video or sound file.", path=path)
    if not stat.S_ISREG(path.stat().st_mode):
        raise MediaError("{path} is a device or a pipe, not a file. Copy what it gives into a file first.", path=path)
    try:
        with path.open("rb") as file:
            if not file.read(1):
                raise MediaError("{path} is empty. Copy or export it again.", path=path)
    except OSError as error:
        raise MediaError("{path} cannot be read: {why}. Check its permissions.", path=path, why=error) from error


def probe(path: Path) -> MediaInfo:
    """What *path* holds. A file without a sound track is refused here."""
    with opened(path) as container:
        if not container.streams.audio:
            raise MediaError(
                "{path} has no sound track, so there is nothing to dub. Give a file with sound.", path=path
            )
        stream = picture_stream(container)
        return MediaInfo(
            path,
            container.format.name,
            container.duration or 0,
            origin_of(container),
            _picture(container, stream) if stream else None,
            stream.index if stream else None,
            _tracks(container),
            _chapters(container),
            _timecode(container),
        )


def origin_of(container: InputContainer) -> Fraction:
    """The stamp, in seconds, at which the file's clock begins: the first of its picture and sound."""
    starts = [
        stream.start_time * stream.time_base
        for stream in (*container.streams.video, *container.streams.audio)
        if stream.start_time is not None and stream.time_base and not is_cover(stream)
    ]
    return min(starts) if starts else Fraction(container.start_time or 0, 1_000_000)


def is_cover(stream: Stream) -> bool:
    """Whether a track is a still picture that goes with the file, and no programme."""
    from av.stream import Disposition

    still = Disposition.attached_pic | Disposition.timed_thumbnails | Disposition.still_image
    return bool(stream.disposition & still)


def picture_stream(container: InputContainer) -> VideoStream | None:
    """The first track that holds moving pictures."""
    for stream in container.streams.video:
        if not is_cover(stream) and stream.codec_context.width and (stream.average_rate or stream.guessed_rate):
            return stream
    return None


def _tracks(container: InputContainer) -> tuple[TrackInfo, ...]:
    counts: dict[str, int] = {}
    found = []
    for stream in container.streams:
        counts[stream.type] = counts.get(stream.type, 0) + 1
        context: Any = stream.codec_context
        sound = stream.type == "audio" and context is not None  # a damaged header may not say how it is coded
        title = stream.metadata.get("title", stream.metadata.get("handler_name", ""))
        found.append(
            TrackInfo(
                stream.type if context or stream.type != "audio" else "data",
                context.name if context else "unknown",
                stream.metadata.get("language", ""),
                title,
                stream.index,
                counts[stream.type],
                bool(stream.disposition & 1),
                channel_names([channel.name for channel in context.layout.channels]) if sound else (),
                context.sample_rate if sound else 0,
            )
        )
    return tuple(found)


def _picture(container: InputContainer, stream: VideoStream) -> Picture:
    """The picture as it is shown; a frame is decoded, since only that knows how it is turned."""
    context, rate = stream.codec_context, stream.average_rate or stream.guessed_rate or Fraction(25)
    width, height, turn, interlaced = context.width, context.height, 0, False
    frame = first_frame(container, stream)
    if frame is not None:
        turn, interlaced = -round(frame.rotation / 90) * 90 % 360, bool(frame.interlaced_frame)
    aspect = stream.sample_aspect_ratio
    if aspect and aspect > 0:
        width = max(1, round(width * aspect))
    if turn % 180:
        width, height = height, width
    return Picture(width, height, rate.numerator, rate.denominator, turn, interlaced)


def first_frame(container: InputContainer, stream: VideoStream) -> Any:
    """The first picture that can be decoded, or None."""
    import av

    try:
        return next(container.decode(stream), None)
    except av.FFmpegError:
        return None


def _chapters(container: InputContainer) -> tuple[Chapter, ...]:
    origin = origin_of(container)
    found = []
    for chapter in container.chapters():
        base = Fraction(chapter["time_base"] or 1)
        edges = [round((chapter[edge] * base - origin) * 1_000_000) for edge in ("start", "end")]
        found.append(Chapter(edges[0], edges[1], chapter["metadata"].get("title", "")))
    return tuple(found)


def _timecode(container: InputContainer) -> str:
    for holder in (container, *container.streams):
        for name, value in holder.metadata.items():
            if name.lower() == "timecode" and value:
                return str(value)
    return ""


def title_from(path: Path) -> str:
    """A title from a file name.

    >>> title_from(Path("tide-clock_2.mp4"))
    'Tide Clock 2'
    """
    return path.stem.replace("-", " ").replace("_", " ").title()


def same_file(path: Path, size_bytes: int, checksum: str) -> bool:
    """Whether a file's contents are those that were brought in."""
    if not path.is_file() or path.stat().st_size != size_bytes:
        return False
    return checksum == (quick_identity(path) if is_quick(checksum) else file_checksum(path))


def is_quick(checksum: str) -> bool:
    """Whether a checksum is that of a file's ends alone."""
    return len(checksum) == _QUICK_LENGTH


def quick_identity(path: Path) -> str:
    """What stands for a file until it has been read whole: SHA-256 of its size, first and last MiB, shortened."""
    digest = hashlib.sha256()
    size = path.stat().st_size
    digest.update(str(size).encode())
    with path.open("rb") as file:
        digest.update(file.read(_EDGE_BYTES))
        if size > _EDGE_BYTES:
            file.seek(max(_EDGE_BYTES, size - _EDGE_BYTES))
            digest.update(file.read(_EDGE_BYTES))
    return digest.hexdigest()[:_QUICK_LENGTH]


def file_checksum(path: Path) -> str:
    """SHA-256 of a whole file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
