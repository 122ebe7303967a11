"""Whether sound keeps to its stamps for hours: clicks at every minute of a three-hour recording off the air, with a
hole of 30 ms in each second and stamps that wrap on the way."""

from __future__ import annotations

import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from benchmarks.timing import Row, Rows
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.times import RATE

_HOURS = 3
_WRAPS_AFTER_S = (1 << 33) // 90_000 - 3_600
_HOLE = 1_440
_FRAME = 1_152
_CLICK = (0.5 * np.sin(np.arange(48) * 2 * np.pi * 3000 / RATE)).astype(np.float32)


def clock() -> Rows:
    """The worst click, and how fast it is decoded."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "air.ts"
        _write(path)
        notes = DecodeNotes()
        begun = time.perf_counter()
        errors = _errors_ms(path, notes)
        seconds = time.perf_counter() - begun
    off = [error - errors[0] for error in errors]  # an encoder's own delay moves them all alike
    yield Row(
        "clicks of 3 h with holes and a wrap", f"{max(map(abs, off)):.2f} ms off at worst", f"{len(off)} clicks; 1 ms"
    )
    holes = sum(place.kind == "hole" for place in notes.places)
    yield Row("holes noted", f"{holes:,}", f"{_HOURS * 3600:,}")
    yield Row("decoding in step", f"{_HOURS * 3600 / seconds:.0f} x real time", "one core")


def _stamp(sample: int) -> int:
    """Holes lie in the middle of each second of the clock: an encoder's delay must not carry a click across one."""
    return sample + (sample + RATE // 2 - _HOLE) // (RATE - _HOLE) * _HOLE


def _write(path: Path) -> None:
    """Sound whose clicks stand wherever its stamps reach a whole minute."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mp2", rate=RATE, layout="mono")
        stream.bit_rate = 64_000
        start = 0
        while (stamp := _stamp(start)) < _HOURS * 3600 * RATE:
            sound = np.zeros(_FRAME, np.float32)
            click = -stamp % (60 * RATE)
            part = _CLICK[: max(0, _FRAME - click)]
            sound[click : click + len(part)] = part
            frame = av.AudioFrame.from_ndarray((sound * 32767).astype(np.int16)[None], "s16", "mono")
            frame.sample_rate, frame.pts, frame.time_base = RATE, stamp + _WRAPS_AFTER_S * RATE, Fraction(1, RATE)
            out.mux(stream.encode(frame))
            start += _FRAME
        out.mux(stream.encode(None))


def _errors_ms(path: Path, notes: DecodeNotes) -> list[float]:
    errors, at = [], 0
    before = np.zeros(4_800, np.float32)
    for block in decoded_blocks(path, notes):
        joined = np.concatenate((before, block[0]))
        first = at - len(before)
        minute = -(-(first + 2_400) // (60 * RATE)) * 60 * RATE
        if minute and first + 2_400 <= minute < first + len(joined) - 2_400:
            near = joined[minute - first - 2_400 : minute - first + 2_400]
            match = np.abs(np.correlate(near, _CLICK, "valid"))
            errors.append((int(match.argmax()) - 2_400) / RATE * 1000)
        at += block.shape[1]
        before = joined[-4_800:]
    return errors
