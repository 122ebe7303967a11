"""One copy of the video with more sound and caption tracks; its picture and own sound are copied packet by packet."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from zweistimme.media.atomic import written_whole
from zweistimme.media.decode import Sound, SoundReader
from zweistimme.media.probe import opened
from zweistimme.project.languages import english_name, track_code
from zweistimme.project.times import RATE

if TYPE_CHECKING:
    from av import AudioFrame, AudioStream, Packet, VideoStream
    from av.container import InputContainer, OutputContainer
    from av.stream import Stream
    from av.subtitles.stream import SubtitleStream

Timed = tuple[float, "Packet[Any]"]

_ASS_HEADER: Final = (
    "[Script Info]\nScriptType: v4.00+\n\n[V4+ Styles]\n"
    "Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, "
    "Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, "
    "MarginR, MarginV, Encoding\n"
    "Style: Default,Sans,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,1\n\n"
    "[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\n"
)


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


def container_for(source: Path) -> str:
    """The ending of the copy: mp4 stays mp4, everything else becomes mkv."""
    return ".mp4" if source.suffix.lower() in (".mp4", ".m4v", ".mov") else ".mkv"


def mux_copy(
    source: Path,
    target: Path,
    sounds: Sequence[SoundTrackOut],
    captions: Sequence[CaptionTrackOut],
    original_tag: str,
) -> None:
    """Write *target*: the picture of *source* untouched, its first sound track untouched, then the new tracks."""
    import av

    def write(temporary: Path) -> None:
        with opened(source) as given, av.open(str(temporary), "w") as out:
            _fill(given, out, sounds, captions, original_tag, is_mp4=target.suffix == ".mp4")

    written_whole(target, write)


def _fill(
    given: InputContainer,
    out: OutputContainer,
    sounds: Sequence[SoundTrackOut],
    captions: Sequence[CaptionTrackOut],
    original_tag: str,
    *,
    is_mp4: bool,
) -> None:
    origin = Fraction(given.start_time or 0, 1_000_000)
    copied = {
        stream.index: out.add_stream_from_template(stream)
        for stream in (given.streams.video[0], given.streams.audio[0])
    }
    original = copied[given.streams.audio[0].index]
    _name(original, original_tag, f"Original · {english_name(original_tag)}", is_mp4=is_mp4)
    _dispose(original, default=not any(track.default for track in sounds))
    lanes: list[Iterator[Timed]] = []
    for track in sounds:
        stream = out.add_stream("aac" if is_mp4 else "flac", rate=RATE, layout="stereo")
        if is_mp4:
            stream.bit_rate = 192_000
        _name(stream, track.tag, track.title, is_mp4=is_mp4)
        _dispose(stream, default=track.default)
        lanes.append(_encoded(track.path, stream, origin))
    for caption in captions:
        text = out.add_stream("mov_text" if is_mp4 else "subrip")
        text.time_base = Fraction(1, 1000)
        text.codec_context.subtitle_header = _ASS_HEADER.encode()
        _name(text, caption.tag, caption.title, is_mp4=is_mp4)
        _dispose(text, default=False)
        lanes.append(_texts(caption, text, origin, is_mp4=is_mp4))
    out.start_encoding()
    lanes.append(_copied(given, copied))
    for _, packet in heapq.merge(*lanes, key=lambda timed: timed[0]):
        out.mux_one(packet)


def _name(stream: Stream, tag: str, title: str, *, is_mp4: bool) -> None:
    stream.metadata["language"] = track_code(tag)
    stream.metadata["handler_name" if is_mp4 else "title"] = title


def _dispose(stream: Stream, *, default: bool) -> None:
    from av.stream import Disposition

    stream.disposition = Disposition.default if default else Disposition(0)


def _copied(given: InputContainer, copied: dict[int, VideoStream | AudioStream]) -> Iterator[Timed]:
    streams = [stream for stream in given.streams if stream.index in copied]
    latest = 0.0
    for packet in given.demux(streams):
        if packet.dts is None or packet.time_base is None:
            continue
        latest = max(latest, float(packet.dts * packet.time_base))
        packet.stream = copied[packet.stream_index]
        yield latest, packet


def _encoded(path: Path, stream: AudioStream, origin: Fraction) -> Iterator[Timed]:
    import av
    import numpy as np

    shift = round(origin * RATE)
    size = 0
    position = 0
    with SoundReader(path) as reader:
        size = stream.codec_context.frame_size or 4096
        kind = stream.codec_context.format.name
        for start in range(0, reader.length, size):
            sound = reader.read(start, min(size, reader.length - start))
            if len(sound) == 1:
                sound = np.repeat(sound, 2, axis=0)
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound), "fltp", "stereo")
            frame.sample_rate, frame.pts, frame.time_base = RATE, start + shift, Fraction(1, RATE)
            if kind != "fltp":
                frame = _as_whole_numbers(sound, kind, start + shift)
            for packet in stream.encode(frame):
                position = max(position, packet.dts or 0)
                yield position / RATE, packet
    for packet in stream.encode(None):
        position = max(position, packet.dts or 0)
        yield position / RATE, packet


def _as_whole_numbers(sound: Sound, kind: str, pts: int) -> AudioFrame:
    """A frame for a lossless encoder: 24 significant bits where it takes them."""
    import av
    import numpy as np

    planar = sound.astype(np.float64)
    if kind.startswith("s32"):
        steps = (np.clip(np.rint(planar * 2**23), -(2**23), 2**23 - 1).astype(np.int32)) << 8
    else:
        steps = np.clip(np.rint(planar * 2**15), -(2**15), 2**15 - 1).astype(np.int16)
    array = steps if kind.endswith("p") else np.ascontiguousarray(steps.T).reshape(1, -1)
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(array), kind, "stereo")
    frame.sample_rate, frame.pts, frame.time_base = RATE, pts, Fraction(1, RATE)
    return frame


def _texts(track: CaptionTrackOut, stream: SubtitleStream, origin: Fraction, *, is_mp4: bool) -> Iterator[Timed]:
    import av

    shift_ms = round(origin * 1000)
    for start_us, end_us, text in track.cues:
        body = text.encode()
        packet = av.Packet((len(body).to_bytes(2, "big") + body) if is_mp4 else body)
        packet.stream = stream
        packet.time_base = Fraction(1, 1000)
        packet.pts = packet.dts = start_us // 1000 + shift_ms
        packet.duration = (end_us - start_us) // 1000
        packet.is_keyframe = True
        yield float(packet.pts) / 1000, packet
