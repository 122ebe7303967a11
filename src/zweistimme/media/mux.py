"""One copy of a programme with more sound and caption tracks; its picture and own sound are copied packet by packet."""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack, closing
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from zweistimme.media.atomic import written_whole
from zweistimme.media.boxes import switch_off_text_tracks
from zweistimme.media.coded_picture import PictureChecksum
from zweistimme.media.coded_sound import ENCODER_OPTIONS, coded
from zweistimme.media.containers import MP4, Container, CopyPlan, add_copy
from zweistimme.media.decode import Report
from zweistimme.media.embedded_text import ASS_HEADER, payload, plain_text
from zweistimme.media.packets import Timed, copied
from zweistimme.media.probe import Chapter, MediaInfo, opened, picture_stream, probe
from zweistimme.project.languages import english_name, track_code
from zweistimme.project.times import RATE

if TYPE_CHECKING:
    from av.container import InputContainer, OutputContainer
    from av.subtitles.stream import SubtitleStream

_MADE_BY: Final = ("encoder", "major_brand", "minor_version", "compatible_brands", "duration", "handler_name")
"""What a file says of how it was written, not of what it holds."""
_TOLD_EVERY_US: Final = 1_000_000


@dataclass(frozen=True, slots=True)
class SoundTrackOut:
    """A sound file to add."""

    path: Path
    tag: str
    title: str
    default: bool = False


@dataclass(frozen=True, slots=True)
class CaptionTrackOut:
    """Captions to add, as (start, end, text) in microseconds."""

    cues: tuple[tuple[int, int, str], ...]
    tag: str
    title: str


@dataclass(frozen=True, slots=True)
class Original:
    """The source's own dialogue track: which of its sound tracks it is, counted from 1, and its language."""

    number: int
    tag: str


def mux_copy(
    source: Path,
    target: Path,
    plan: CopyPlan,
    sounds: Sequence[SoundTrackOut],
    captions: Sequence[CaptionTrackOut],
    original: Original,
    report: Report = lambda _share: None,
) -> str:
    """Write *target* after *plan*: the tracks of *source* as they are, then the new ones, chapters, timecode and what
    the source says of itself. Returns the checksum of the source's coded pictures."""
    import av

    info = probe(source)
    result = ""

    def write(temporary: Path) -> None:
        nonlocal result
        with opened(source) as given, av.open(str(temporary), "w") as out, ExitStack() as stack:
            result = _fill(given, out, info, plan, sounds, captions, original, stack, report)
        if plan.container.is_mp4:
            switch_off_text_tracks(temporary)

    written_whole(target, write)
    return result


def _fill(
    given: InputContainer,
    out: OutputContainer,
    info: MediaInfo,
    plan: CopyPlan,
    sounds: Sequence[SoundTrackOut],
    captions: Sequence[CaptionTrackOut],
    original: Original,
    stack: ExitStack,
    report: Report,
) -> str:
    container = plan.container
    targets = {index: add_copy(out, given.streams[index]) for index in plan.copied}
    _tell_of_copies(given, info, targets, container, original, dubbed=any(track.default for track in sounds))
    lanes: list[Iterator[Timed]] = []
    for track in sounds:
        lanes.append(stack.enter_context(closing(coded(track.path, _new_sound(out, track, container)))))
    for caption in captions:
        text = _new_text(out, container, caption.tag, caption.title)
        lanes.append(_texts(caption.cues, text, container.text))
    for index in plan.rewritten:
        track_in = info.tracks[index]
        text = _new_text(out, container, track_in.language, track_in.title)
        lanes.append(_texts(_cues_of(info, index), text, container.text))
    _tell_of_file(given, out, info, targets, container)
    out.start_encoding()
    stream = picture_stream(given)
    checksum = PictureChecksum(stream) if stream else None
    lanes.append(copied(given, targets, info.origin, checksum))
    told = 0
    for due, packet in heapq.merge(*lanes, key=lambda timed: timed[0]):
        out.mux_one(packet)
        if due - told >= _TOLD_EVERY_US:
            told = due
            report(min(1.0, due / max(info.duration_us, 1)))
    return checksum.result() if checksum else ""


def _tell_of_copies(
    given: InputContainer,
    info: MediaInfo,
    targets: dict[int, Any],
    container: Container,
    original: Original,
    *,
    dubbed: bool,
) -> None:
    """Languages, names and dispositions of the source's own tracks; the dub is what is heard by default."""
    from av.stream import Disposition

    for index, target in targets.items():
        stream, track = given.streams[index], info.tracks[index]
        name, tag = track.title, track.language
        disposition = Disposition(stream.disposition & ~Disposition.default)
        if track.kind == "audio" and track.number == original.number:
            name, tag = f"Original · {english_name(original.tag)}", original.tag
            disposition |= Disposition.original | (Disposition(0) if dubbed else Disposition.default)
        elif track.kind == "video":
            disposition |= Disposition.default
        _name(target, tag, name, container)
        target.disposition = disposition


def _tell_of_file(
    given: InputContainer, out: OutputContainer, info: MediaInfo, targets: dict[int, Any], container: Container
) -> None:
    """What the source says of itself: title and the like, chapters, timecode of its first picture."""
    for key, value in given.metadata.items():
        if key.lower() not in (*_MADE_BY, "timecode"):
            out.metadata[key] = value
    if info.timecode and info.picture_index in targets:
        targets[info.picture_index].metadata["timecode" if container.is_mp4 else "TIMECODE"] = info.timecode
    set_chapters(out, info.chapters)


def set_chapters(out: OutputContainer, chapters: Iterable[Chapter]) -> None:
    """Give a file its chapters."""
    out.set_chapters(
        [
            {"id": number, "start": chapter.start_us, "end": chapter.end_us, "time_base": Fraction(1, 1_000_000),
             "metadata": {"title": chapter.title} if chapter.title else {}}
            for number, chapter in enumerate(chapters, 1)
        ]
    )  # fmt: skip


def write_sound_file(path: Path, sound: Path, tag: str, metadata: dict[str, str], chapters: Sequence[Chapter]) -> None:
    """A programme of sound alone as one file that any player takes: AAC with its language, chapters and tags."""
    import av

    def write(temporary: Path) -> None:
        with av.open(str(temporary), "w", format="ipod") as out:
            stream = _new_sound(out, SoundTrackOut(sound, tag, metadata.get("title", ""), default=True), MP4)
            for key, value in metadata.items():
                out.metadata[key] = value
            set_chapters(out, chapters)
            out.start_encoding()
            with closing(coded(sound, stream)) as packets:
                for _, packet in packets:
                    out.mux_one(packet)

    written_whole(path, write)


def _new_sound(out: OutputContainer, track: SoundTrackOut, container: Container) -> Any:
    from av.stream import Disposition

    options = ENCODER_OPTIONS.get(container.sound, {})
    stream: Any = out.add_stream(container.sound, rate=RATE, layout="stereo", options=options)
    if container.bit_rate:
        stream.bit_rate = container.bit_rate
    _name(stream, track.tag, track.title, container)
    stream.disposition = Disposition.dub | (Disposition.default if track.default else Disposition(0))
    return stream


def _new_text(out: OutputContainer, container: Container, tag: str, title: str) -> Any:
    from av.stream import Disposition

    stream: Any = out.add_stream(container.text)
    stream.time_base = Fraction(1, 1000)
    stream.codec_context.subtitle_header = ASS_HEADER
    _name(stream, tag, title, container)
    stream.disposition = Disposition(0)
    return stream


def _name(stream: Any, tag: str, title: str, container: Container) -> None:
    if tag:
        stream.metadata["language"] = track_code(tag, quicktime=container.ending == ".mov")
    if title:
        stream.metadata["handler_name" if container.is_mp4 else "title"] = title


def _cues_of(info: MediaInfo, index: int) -> Iterator[tuple[int, int, str]]:
    """The captions of a text track of the source, on its clock."""
    kind = info.tracks[index].codec
    with opened(info.path) as container:
        for packet in container.demux(container.streams[index]):
            if packet.size == 0 or packet.pts is None or packet.time_base is None:
                continue
            text = plain_text(packet, kind).strip()
            start = packet.pts * packet.time_base - info.origin
            end = start + (packet.duration or 0) * packet.time_base
            if text and end > 0:
                yield round(max(start, Fraction(0)) * 1_000_000), round(end * 1_000_000), text


def _texts(cues: Iterable[tuple[int, int, str]], stream: SubtitleStream, kind: str) -> Iterator[Timed]:
    import av

    for start_us, end_us, text in cues:
        packet: Any = av.Packet(payload(text, kind))
        packet.stream = stream
        packet.time_base = Fraction(1, 1000)
        packet.pts = packet.dts = start_us // 1000
        packet.duration = end_us // 1000 - start_us // 1000
        packet.is_keyframe = True
        yield start_us, packet
