"""The kernels beside the usual media library's filters: the same samples, in turn, in one run."""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path

import numpy as np
import soundfile

from benchmarks.library import decoded, seen_through, through, through_two
from benchmarks.repeated import long_video
from benchmarks.timing import Row, Rows, figure, in_turn
from zweistimme.demo.script import MEDIA, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.file_loudness import file_loudness
from zweistimme.media.peaks import peaks_of
from zweistimme.media.picture_cuts import picture_cuts
from zweistimme.media.probe import opened, probe
from zweistimme.media.working_copy import working_copy
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Sound
from zweistimme.sound.ducking import Ducking, curve_gain, ducking_curve
from zweistimme.sound.limiter import TruePeakLimiter
from zweistimme.sound.stretch import stretch_by_tempo

_SHORT_S, _LONG_S = 60, 600


def kernels() -> Rows:
    """Loudness with true peak from the file, stretching, limiting, peaks, decoding, stereo and mono; cuts."""
    sound = np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1)[:, : _SHORT_S * RATE]
    with tempfile.TemporaryDirectory() as folder:
        for name, given in (("stereo", sound), ("mono", np.ascontiguousarray(sound[:1]))):
            yield _loudness(Path(folder) / f"{name}.wav", name, given)
            yield from _stretching(name, given)
            yield _limiter(name, given)
            yield _peaks(name, given)
        yield _ducking(sound)
        yield from _decoding(Path(folder))
    yield _cuts(data_file(MEDIA))


def _cuts(film: Path) -> Row:
    length_s = probe(film).duration_us / 1e6
    works = {"ours": partial(picture_cuts, film), "theirs": partial(seen_through, str(film), "scdet", "threshold=10")}
    return _row("cuts of the picture", in_turn(works, 3), length_s, "its scene filter")


def _row(what: str, taken: dict[str, float], length_s: float, theirs: str) -> Row:
    ours, their = taken["ours"], taken["theirs"]
    return figure(
        what, length_s / ours, "x real time", f"{theirs} {length_s / their:.0f}; {their / ours:.1f} times its speed"
    )


def _blocks(sound: Sound, seconds: int = 1) -> list[Sound]:
    return [sound[:, start : start + seconds * RATE] for start in range(0, sound.shape[1], seconds * RATE)]


def _loudness(path: Path, name: str, sound: Sound) -> Row:
    soundfile.write(path, np.tile(sound.T, (_LONG_S // _SHORT_S, 1)), RATE, "PCM_24")

    works = {
        "ours": partial(file_loudness, path, DecodeNotes()),
        "theirs": lambda: through(decoded(str(path)), "ebur128", "peak=true"),
    }
    taken = in_turn(works, 3)
    return _row(f"loudness and true peak from the file, {name}", taken, _LONG_S, "its meter")


def _stretching(name: str, sound: Sound) -> Rows:
    for tempo in (0.8, 1.25):
        taken = in_turn(
            {
                "ours": partial(stretch_by_tempo, sound, tempo),
                "even": partial(stretch_by_tempo, sound, tempo, even=True),
                "theirs": partial(through, _blocks(sound), "atempo", str(tempo)),
            }
        )
        yield _row(f"stretch, tempo {tempo}, {name}", taken, _SHORT_S, "its tempo filter")
        yield _row(
            f"at an even tempo, as it does it, {tempo}, {name}", {**taken, "ours": taken["even"]}, _SHORT_S, "it"
        )


def _limiter(name: str, sound: Sound) -> Row:
    loud = _blocks(sound * 3)

    def ours() -> None:
        limiter = TruePeakLimiter(len(sound), -1.0)
        for block in loud:
            limiter.feed(block)
        limiter.finish()

    taken = in_turn({"ours": ours, "theirs": partial(through, loud, "alimiter", "limit=0.9:attack=5:release=50")})
    return _row(f"limiter, {name}", taken, _SHORT_S, "its limiter, of samples alone,")


def _ducking(sound: Sound) -> Row:
    """A bed that gives way to speech, beside a compressor that hears the speech beside it."""
    bed, speech = _blocks(np.stack((sound[0], sound[0]))), _blocks(np.stack((sound[-1], sound[-1])))
    spoken = [(k * 5.0, k * 5.0 + 3.0) for k in range(_SHORT_S // 5)]

    def ours() -> None:
        curve, at = ducking_curve(spoken, float(_SHORT_S), Ducking(-18.0)), 0
        for block in bed:
            block * curve_gain(curve, at, block.shape[1], RATE)
            at += block.shape[1]

    settings = "threshold=0.02:ratio=8:attack=180:release=600"
    taken = in_turn({"ours": ours, "theirs": partial(through_two, bed, speech, "sidechaincompress", settings)})
    return _row("giving way to speech, stereo", taken, _SHORT_S, "its side-chain compressor")


def _peaks(name: str, sound: Sound) -> Row:
    blocks = _blocks(sound)
    works = {"ours": lambda: [peaks_of(block) for block in blocks],
             "theirs": lambda: [(block.min(), block.max()) for block in blocks]}  # fmt: skip
    return _row(f"peaks for drawing, {name}", in_turn(works), _SHORT_S, "one lowest and highest a second")


def _decoding(folder: Path) -> Rows:
    video, copy = folder / "long.mp4", folder / "copy.wav"
    long_video(video, _LONG_S // 86)
    length = probe(video).duration_us / 1_000_000

    def bare() -> None:
        with opened(video) as container:
            for _frame in container.decode(container.streams.audio[0]):
                pass

    taken = in_turn(
        {
            "bare": bare,
            "in step": lambda: [None for _ in decoded_blocks(video, DecodeNotes())],
            "copy": lambda: working_copy(probe(video), SoundPick(), copy, lambda _share: None),
        },
        3,
    )
    for what, name in (("AAC in step with its stamps", "in step"), ("AAC to working copy, with checksum", "copy")):
        against = f"the bare decoder {length / taken['bare']:.0f}; {taken[name] / taken['bare']:.1f} times its time"
        yield figure(what, length / taken[name], "x real time", against)
