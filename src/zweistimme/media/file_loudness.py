"""How loud a file's sound is, measured while it is decoded."""

from __future__ import annotations

from pathlib import Path

from zweistimme.media.ahead import ahead
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.sound.loudness import Loudness, LoudnessMeter

_WAITING = 32


def file_loudness(path: Path, notes: DecodeNotes) -> Loudness:
    """Loudness, its range and true peak of a file's sound as it is brought in; what is converted or missing is said in
    *notes*."""
    blocks = ahead(decoded_blocks(path, notes), _WAITING)
    first = next(blocks)
    meter = LoudnessMeter(first.shape[0])
    meter.feed(first)
    for block in blocks:
        meter.feed(block)
    return meter.result()
