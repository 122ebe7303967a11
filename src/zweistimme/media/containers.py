"""Which container a copy of a programme goes into, tried with the source's own tracks before anything is mixed."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from zweistimme.media.embedded_text import TEXT_KINDS
from zweistimme.media.packets import copied
from zweistimme.media.probe import MediaInfo, TrackInfo, opened, probe
from zweistimme.messages import tr
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding

if TYPE_CHECKING:
    from av.container import InputContainer, OutputContainer

_TRIED_S: Final = 2.0
_TRIED_PACKETS: Final = 2_000


@dataclass(frozen=True, slots=True)
class Container:
    """A kind of file: its ending, and what new sound and captions are written as in it."""

    ending: str
    sound: str
    text: str
    bit_rate: int = 0

    @property
    def is_mp4(self) -> bool:
        """Whether it is one of the MP4 family, which names its tracks by handlers."""
        return self.ending in (".mp4", ".mov")


MP4: Final = Container(".mp4", "aac", "mov_text", 192_000)
MOV: Final = Container(".mov", "pcm_s24le", "mov_text")
MKV: Final = Container(".mkv", "flac", "subrip")
WEBM: Final = Container(".webm", "libopus", "webvtt", 160_000)
_IN_MP4: Final = {"h264", "hevc", "av1", "mpeg4", "aac", "mp3", "ac3", "eac3", "alac", "opus", "flac"}
_IN_WEBM: Final = {"vp8", "vp9", "av1", "opus", "vorbis"}
_IN_MOV: Final = {"prores", "dnxhd", "mjpeg", "rawvideo", "v210", "cfhd"}


@dataclass(frozen=True, slots=True)
class CopyPlan:
    """How a programme is copied: its container, the numbers of the tracks that are copied as they are, those of text
    tracks that are written anew, and in sentences what cannot come along."""

    container: Container
    copied: tuple[int, ...]
    rewritten: tuple[int, ...]
    left_out: tuple[Finding, ...]


def plan_copy(source: Path) -> CopyPlan:
    """The container for a copy of *source*, as near to its own as can be: the first that takes its picture and its
    sound and gives them back as they were. MediaError if none does."""
    info = probe(source)
    if info.picture_index is None:
        raise MediaError("{source} has no picture.", source=source)
    must = [info.picture_index, *(track.index for track in info.sounds)]
    reasons = []
    for container in _candidates(info):
        why = _refusal(info, container, must)
        if not why:
            return _with_the_rest(info, container, must)
        reasons.append(f"{container.ending[1:]}: {why}")
    raise MediaError(
        "No container takes the picture and sound of {source} ({names}).", source=source, names="; ".join(reasons)
    )


def _candidates(info: MediaInfo) -> Iterable[Container]:
    codecs = {track.codec for track in (*info.sounds, info.tracks[info.picture_index or 0])}
    family = info.container.split(",")
    if info.path.suffix.lower() == ".webm" and codecs <= _IN_WEBM:
        return (WEBM, MKV)
    if codecs & _IN_MOV:
        return (MOV, MKV)
    if "mov" in family:
        return (MP4, MOV, MKV) if codecs <= _IN_MP4 else (MOV, MKV)
    return (MKV, MP4 if codecs <= _IN_MP4 else MOV)


def _with_the_rest(info: MediaInfo, container: Container, must: list[int]) -> CopyPlan:
    """Every other track that can come along, as it is or as text written anew; what cannot is named."""
    rewritten, left_out, taken = [], [], list(must)
    # tracks of timecode and of chapters are written anew from what they say
    anew = bool(info.timecode) + bool(info.chapters)
    for track in info.tracks:
        if track.index in must:
            continue
        if track.kind == "data" and track.codec in ("tmcd", "unknown") and anew:
            anew -= 1
            continue
        text = track.kind == "subtitle" and track.codec in TEXT_KINDS
        if text and track.codec != container.text:
            rewritten.append(track.index)
        elif not _refusal(info, container, [*must, track.index]):
            taken.append(track.index)
        elif text:
            rewritten.append(track.index)
        else:
            left_out.append(Finding("track-left-out", {"track": _named(track), "container": container.ending[1:]}))
    return CopyPlan(container, tuple(sorted(taken)), tuple(rewritten), tuple(left_out))


def _named(track: TrackInfo) -> str:
    kinds = {"subtitle": tr("Caption track"), "video": tr("Picture track"), "audio": tr("Sound track")}
    kind = kinds.get(track.kind, tr("Data track"))
    inside = ", ".join(filter(None, (track.codec, track.language, track.title)))
    return f"{kind} {track.number} ({inside})"


def _refusal(info: MediaInfo, container: Container, indices: list[int]) -> str:
    """Why a container does not take these tracks; empty if it gives them back as they were."""
    import av

    with tempfile.TemporaryDirectory(prefix="zweistimme-") as folder:
        target = Path(folder) / f"tried{container.ending}"
        try:
            with opened(info.path) as given, av.open(str(target), "w") as out:
                targets = {index: add_copy(out, given.streams[index]) for index in indices}
                out.start_encoding()
                for _, packet in islice(copied(given, targets, info.origin, until_s=_TRIED_S), _TRIED_PACKETS):
                    out.mux_one(packet)
            return _difference(info, target, indices)
        except (av.FFmpegError, MediaError, ValueError, NotImplementedError) as error:
            return str(getattr(error, "strerror", "") or error)[:160]


def add_copy(out: OutputContainer, stream: Any) -> Any:
    """A track of the copy like one of the source; nothing of ours need be able to write its kind."""
    return out.add_stream_from_template(stream, opaque=True)


def _difference(info: MediaInfo, target: Path, indices: list[int]) -> str:
    """What is other in the tried file; empty if nothing is."""
    wanted = [info.tracks[index] for index in indices]
    with opened(target) as made:
        there = probe(target).tracks
        for place, track in enumerate(wanted):
            if place >= len(there) or there[place].kind != track.kind:
                return tr("{kind} {number} is lost", kind=track.kind, number=track.number)
            got = there[place]
            if (got.codec, got.channels, got.rate) != (track.codec, track.channels, track.rate):
                return tr("{codec} comes out as {other}", codec=track.codec, other=got.codec)
        return _undecodable(made)


def _undecodable(made: InputContainer) -> str:
    for stream in (*made.streams.video, *made.streams.audio):
        made.seek(0)
        if next(made.decode(stream), None) is None:
            return tr("{name} cannot be decoded any more", name=stream.codec_context.name)
    return ""
