"""Speech sent while it is made: lines of JSON, each a speech answer with a part of one WAV file; the last has the words
and the cost.
"""

from __future__ import annotations

import base64
import queue
import threading
from collections.abc import Callable, Iterator
from dataclasses import replace

import msgspec
import numpy as np

from zweistimme.engines.protocol import Hear, Mono
from zweistimme.engines.wav import head_without_length
from zweistimme.engines.wire import SpeechAnswer, written
from zweistimme.project.times import RATE
from zweistimme.server.account import Account
from zweistimme.sound.arrays import steps_24


def spoken_lines(account: Account, key: str | None, answer: Callable[[Hear | None], SpeechAnswer]) -> Iterator[bytes]:
    """The lines as they come. A question answered before under its *key* is answered in one line. Where it fails in the
    middle the connection breaks off."""
    pieces: queue.SimpleQueue[bytes | BaseException | None] = queue.SimpleQueue()
    heard = threading.Event()

    def hear(samples: Mono) -> None:
        head = b"" if heard.is_set() else head_without_length(RATE)
        heard.set()
        pieces.put(head + _bytes_24(samples))

    def work() -> None:
        try:
            whole.append(account.once(key, lambda: answer(hear)))
            pieces.put(None)
        except BaseException as error:  # raised where the lines are read
            pieces.put(error)

    whole: list[bytes] = []
    threading.Thread(target=work, name="speaking", daemon=True).start()
    while (piece := pieces.get()) is not None:
        if isinstance(piece, BaseException):
            raise piece
        yield _line(SpeechAnswer(base64.b64encode(piece).decode()))
    last = msgspec.json.decode(whole[0], type=SpeechAnswer)
    yield _line(replace(last, sound="") if heard.is_set() else last)


def _bytes_24(samples: Mono) -> bytes:
    """Samples as 24 bits each, little-endian."""
    steps = np.ascontiguousarray(steps_24(samples), dtype="<i4")
    return steps.view(np.uint8).reshape(-1, 4)[:, :3].tobytes()


def _line(answer: SpeechAnswer) -> bytes:
    return written(answer) + b"\n"
