"""The bundled engines."""

from __future__ import annotations

import numpy as np

from benchmarks.timing import Row, Rows, seconds
from zweistimme.demo.script import LINES, MEDIA, SOURCE, data_file
from zweistimme.engines.protocol import RecognitionQuestion, SoundSource, SpeechRequest
from zweistimme.engines.registry import engine
from zweistimme.formats.ssml import ssml_of
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.times import RATE


def voice() -> Rows:
    """Speaking the demo's lines."""
    bundled = engine()
    requests = [SpeechRequest(ssml_of(line.text, SOURCE), SOURCE, "dario") for line in LINES]
    length = sum(len(bundled.speak(request).samples) for request in requests) / RATE
    taken = seconds(lambda: [bundled.speak(request) for request in requests])
    yield Row("18 lines", f"{length / taken:.0f} x real time", "wanted: 50 x")


def recogniser() -> Rows:
    """Hearing the demo with its bed."""
    sound = np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1).mean(axis=0)
    source = SoundSource(lambda start, count: sound[start : start + count], len(sound))
    taken = seconds(lambda: engine().recognise(source, RecognitionQuestion((SOURCE,)), lambda _share: None), 1)
    yield Row("the demo", f"{85 / taken:.1f} x real time", "wanted: 10 x")
