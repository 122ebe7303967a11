"""From any media file to sound at 48 kHz, in step with the programme's clock, in blocks of bounded size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.media.align import Aligner
from zweistimme.media.clock import StampClock, may_jump
from zweistimme.media.decode_notes import DecodeNotes, note_clock, note_conversion, note_length
from zweistimme.media.decoded_run import FrameRun, Stamped
from zweistimme.media.downmix import Matrix, downmix, may_exceed
from zweistimme.media.probe import MediaInfo, TrackInfo, opened, probe
from zweistimme.messages import tr
from zweistimme.project.errors import MediaError
from zweistimme.project.findings import Finding, cause
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE, seconds_to_us

if TYPE_CHECKING:
    from av.container import InputContainer

Sound = npt.NDArray[np.float32]
Report = Callable[[float], None]
"""Told how far a job is, 0..1; may raise Cancelled."""

BLOCK = RATE
_BATCH_S: Final = 0.25


def decoded_blocks(
    path: Path, notes: DecodeNotes, pick: SoundPick | None = None, info: MediaInfo | None = None
) -> Iterator[Sound]:
    """What *pick* says of a file's sound at 48 kHz, mono or stereo, in blocks of a second; shape ``(channels, n)``.

    Position 0 is the beginning of the file's own clock. What is converted or missing is said in *notes*. Values
    may go beyond full scale where channels are mixed down, or the file's own do.
    """
    info, pick = info or probe(path), pick or SoundPick()
    tracks = picked_tracks(info, pick)
    lanes = [_track_blocks(info, track, pick.channels, notes if not place else DecodeNotes(), tracks)
             for place, track in enumerate(tracks)]  # fmt: skip
    total = 0
    for block in lanes[0] if len(lanes) == 1 else _side_by_side(lanes):
        total += block.shape[1]
        yield block
    note_length(info, total, notes)


def picked_tracks(info: MediaInfo, pick: SoundPick) -> list[TrackInfo]:
    """The tracks a pick means; MediaError where the file has no such track, or several are not of one channel."""
    sounds = info.sounds
    for number in pick.tracks:
        if not 1 <= number <= len(sounds):
            have = tr("{n:sound track|sound tracks}", n=len(sounds))
            raise MediaError("{path} has {have}; there is no track {number}.", path=info.path, have=have, number=number)
    tracks = [sounds[number - 1] for number in pick.tracks]
    if len(tracks) > 1 and any(len(track.channels) > 1 for track in tracks):
        raise MediaError("Only tracks of one channel each can be put together. Choose one track.")
    return tracks


def channels_of(info: MediaInfo, pick: SoundPick) -> int:
    """How many channels the sound that is picked comes out with."""
    tracks = picked_tracks(info, pick)
    return 2 if len(tracks) > 1 else len(downmix(tracks[0].channels, pick.channels))


def _side_by_side(lanes: list[Iterator[Sound]]) -> Iterator[Sound]:
    """Tracks of one channel as two: left and right, or more of them on both sides."""
    share = 1.0 if len(lanes) == 2 else 0.5**0.5
    while parts := [block for block in (next(lane, None) for lane in lanes) if block is not None]:
        out = np.zeros((2, max(part.shape[1] for part in parts)), dtype=np.float32)
        if len(lanes) == 2 and len(parts) == 2:
            for side, part in enumerate(parts):
                out[side, : part.shape[1]] = part[0]
        else:
            for part in parts:
                out[:, : part.shape[1]] += np.float32(share) * part[0]
        yield out


def _track_blocks(
    info: MediaInfo, track: TrackInfo, channels: str, notes: DecodeNotes, tracks: list[TrackInfo]
) -> Iterator[Sound]:
    """One track, mixed down and at 48 kHz, cut into blocks."""
    note_conversion(info, track, channels, notes, tracks)
    waiting: list[Sound] = []
    held = 0
    with opened(info.path) as container:
        for sound in _converted(_in_step(container, info, track, notes), track, channels):
            if not held and sound.shape[1] == BLOCK:  # as nearly always
                yield sound
                continue
            waiting.append(sound)
            held += sound.shape[1]
            if held >= BLOCK:
                whole = np.concatenate(waiting, axis=1)
                cut = held - held % BLOCK
                for start in range(0, cut, BLOCK):
                    yield whole[:, start : start + BLOCK]
                waiting, held = [whole[:, cut:]], held - cut
    if held:
        yield np.concatenate(waiting, axis=1)


def _in_step(container: InputContainer, info: MediaInfo, track: TrackInfo, notes: DecodeNotes) -> Iterator[Part]:
    """The track's sound at its own rate and channels, as much as its clock says."""
    mended = StampClock(info.origin, may_jump(container))
    aligner: Aligner | None = None
    for piece in _pieces(container, container.streams[track.index], mended, notes):
        if aligner is not None and aligner.rate != piece.rate:
            yield from _parts(aligner.finish(), aligner.rate, track.channels)
            notes.places += aligner.notes
            notes.notes.append(Finding("rate-changes", {"rate": aligner.rate, "to": piece.rate}))
            aligner = Aligner(piece.rate, piece.time_base, at_s=aligner.position_s)
        if aligner is None:
            aligner = Aligner(piece.rate, piece.time_base)
        yield from _parts(aligner.feed(piece.stamp, piece.sound), aligner.rate, piece.names)
    if aligner is not None:
        yield from _parts(aligner.finish(), aligner.rate, track.channels)
        notes.places += aligner.notes
    note_clock(mended, notes)


@dataclass(frozen=True, slots=True)
class Part:
    """Sound as it was decoded, shape ``(channels, n)``, with its rate and the names of its channels."""

    sound: Sound
    rate: int
    names: tuple[str, ...]


def _parts(sounds: Iterator[Sound], rate: int, names: tuple[str, ...]) -> Iterator[Part]:
    for sound in sounds:
        yield Part(sound, rate, names if len(names) == len(sound) else ("FC", *["NONE"] * (len(sound) - 1)))


def _pieces(container: InputContainer, stream: Any, mended: StampClock, notes: DecodeNotes) -> Iterator[Stamped]:
    """What was decoded, a second at a time, or as much as follows without a gap."""
    run: FrameRun | None = None
    moved_by, moved_s = Fraction(0), 0.0
    base_s = float(stream.time_base or 0)
    for frame, shift in _frames(container, stream, mended, notes):
        if shift is not moved_by:
            moved_by, moved_s = shift, float(shift)
        pts = frame.pts
        stamp = None if pts is None or not base_s else round((pts * base_s + moved_s) * frame.sample_rate)
        if run is None or not run.takes(frame, stamp):
            if run is not None:
                yield from run.rest()
            run = FrameRun(frame, stamp, stream.time_base)
        while run.has_second:  # a frame may be longer
            yield run.second()
    if run is not None:
        yield from run.rest()


def _frames(
    container: InputContainer, stream: Any, mended: StampClock, notes: DecodeNotes
) -> Iterator[tuple[Any, Fraction]]:
    """Decoded frames, each with what its stamp must be moved by. Other tracks are watched, for their stamps alone."""
    import av

    shift = -mended.origin
    own, decode = stream.index, stream.codec_context.decode
    bases_s = {
        one.index: float(one.time_base) for one in container.streams if one.type in ("audio", "video") and one.time_base
    }
    try:
        for packet in container.demux():
            index, dts = packet.stream_index, packet.dts
            if dts is not None and index in bases_s:
                base_s = bases_s[index]
                moved = mended.shift(index, dts * base_s, (packet.duration or 0) * base_s)
                shift = moved if index == own else shift
            if index == own:
                for frame in decode(packet):
                    yield frame, shift
    except av.error.EOFError:
        pass  # the end: a decoder that was emptied before, as with a cover behind the sound, says so by an error
    except av.FFmpegError as error:
        notes.notes.append(Finding("file-damaged", {"why": cause(error)}))
    notes.last_us = seconds_to_us(mended.end_s)


def _converted(parts: Iterator[Part], track: TrackInfo, channels: str) -> Iterator[Sound]:
    """Parts mixed down and at 48 kHz, a quarter of a second or more at a time."""
    wanted = downmix(track.channels, channels)
    resampler: _Resampler | None = None
    for batch in _batches(parts):
        if not np.isfinite(batch.sound).all():  # a damaged file of floats
            np.nan_to_num(batch.sound, copy=False, nan=0.0, posinf=1.0, neginf=-1.0)
        sound = _mixed(batch, wanted, track, channels)
        if resampler is None or resampler.rate != batch.rate:
            if resampler is not None:
                yield resampler.feed(np.zeros((len(wanted), 0), np.float32), last=True)
            resampler = _Resampler(batch.rate, len(wanted))
        yield resampler.feed(sound)
    if resampler is not None:
        yield resampler.feed(np.zeros((len(wanted), 0), np.float32), last=True)


def _batches(parts: Iterator[Part]) -> Iterator[Part]:
    held: list[Part] = []
    for part in parts:
        if held and ((part.rate, part.names) != (held[0].rate, held[0].names) or _seconds(held) >= _BATCH_S):
            yield _joined(held)
            held = []
        held.append(part)
    if held:
        yield _joined(held)


def _joined(parts: list[Part]) -> Part:
    if len(parts) == 1:
        return parts[0]
    return Part(np.concatenate([one.sound for one in parts], axis=1), parts[0].rate, parts[0].names)


def _seconds(parts: list[Part]) -> float:
    return sum(part.sound.shape[1] for part in parts) / parts[0].rate


def _mixed(batch: Part, wanted: Matrix, track: TrackInfo, channels: str) -> Sound:
    """A batch with the channels that are wanted, also where the file changes its channels on the way."""
    matrix = wanted
    if len(batch.sound) != wanted.shape[1]:
        matrix = downmix(batch.names, channels if set(channels.strip("-").split("+")) <= set(batch.names) else "")
    if _changes_nothing(matrix):
        mixed = batch.sound
    else:
        mixed = matrix @ batch.sound
    if len(mixed) == len(wanted):
        return mixed
    return np.repeat(mixed, 2, axis=0) if len(mixed) == 1 else mixed.mean(axis=0, keepdims=True)


def _changes_nothing(matrix: Matrix) -> bool:
    return matrix.shape[0] == matrix.shape[1] and np.array_equal(matrix, np.eye(len(matrix), dtype=np.float32))


class _Resampler:
    """A stream from one rate to 48 kHz whose positions are kept to the sample; nothing is done where it is that."""

    def __init__(self, rate: int, channels: int) -> None:
        self.rate = rate
        self._channels = channels
        self._stream: Any = None
        if rate != RATE:
            import soxr

            self._stream = soxr.ResampleStream(rate, RATE, channels, dtype="float32", quality="HQ")

    def feed(self, sound: Sound, *, last: bool = False) -> Sound:
        if self._stream is None:
            return sound
        out = self._stream.resample_chunk(np.ascontiguousarray(sound.T), last=last)
        return np.ascontiguousarray(out.reshape(-1, self._channels).T)


def goes_beyond(info: MediaInfo, pick: SoundPick) -> bool:
    """Whether the sound picked can go beyond full scale: mixed down, or kept in floating point."""
    tracks = picked_tracks(info, pick)
    floating = any(track.codec.startswith(("pcm_f", "wavpack")) for track in tracks)
    return floating or len(tracks) > 2 or may_exceed(downmix(tracks[0].channels, pick.channels))
