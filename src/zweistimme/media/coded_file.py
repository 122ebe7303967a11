"""Sound in a coded form in a file of its own, block by block: Opus, AAC, MP3."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any, Final

import numpy as np

from zweistimme.media.coded_sound import ENCODER_OPTIONS, as_kind
from zweistimme.media.decode import Sound
from zweistimme.project.languages import track_code
from zweistimme.project.sound_delivery import SoundForm

_CODECS: Final = {
    SoundForm.OPUS: ("opus", "libopus", 96),
    SoundForm.AAC: ("ipod", "aac", 128),
    SoundForm.MP3: ("mp3", "libmp3lame", 128),
}
"""Container, encoder, and the usual bit rate in kbit a second for each two channels."""
_LAYOUTS: Final = {1: "mono", 2: "stereo", 6: "5.1"}
_FRAME_SAMPLES: Final = 1152


class CodedFile:
    """A file that is being coded."""

    def __init__(
        self, path: Path, channels: int, rate: int, form: SoundForm, bit_rate_kbit: int, title: str, language: str
    ) -> None:
        import av
        from av.audio.fifo import AudioFifo

        container, codec, usual_kbit = _CODECS[form]
        self._channels, self._rate = channels, rate
        self._out: Any = av.open(str(path), "w", format=container)
        layout, options = _LAYOUTS[channels], ENCODER_OPTIONS.get(codec, {})
        stream: Any = self._out.add_stream
        self._stream: Any = stream(codec, rate=rate, layout=layout, options=options)
        self._stream.bit_rate = 1_000 * (bit_rate_kbit or usual_kbit * (channels + 1) // 2)
        if title:
            self._out.metadata["title"] = title
        if language:
            self._stream.metadata["language"] = track_code(language)
        self._out.start_encoding()
        self._queue = AudioFifo()

    def write(self, sound: Sound) -> None:
        """Append a block, shape ``(channels, n)``."""
        from av import AudioFrame

        if not sound.shape[1]:
            return
        kind, layout = self._stream.codec_context.format.name, _LAYOUTS[self._channels]
        values = as_kind(sound, kind)
        array = values if kind.endswith("p") else values.T.reshape(1, -1)
        frame = AudioFrame.from_ndarray(np.ascontiguousarray(array), kind, layout)
        frame.sample_rate, frame.pts, frame.time_base = self._rate, self._queue.samples_written, Fraction(1, self._rate)
        self._queue.write(frame)
        self._code(self._queue.read_many(self._stream.codec_context.frame_size or _FRAME_SAMPLES))

    def close(self) -> None:
        """Code what is left, and end the file."""
        if self._queue.samples:
            size = self._stream.codec_context.frame_size or _FRAME_SAMPLES
            self._code(self._queue.read_many(size, partial=True))
        for packet in self._stream.encode(None):
            self._out.mux(packet)
        self._out.close()

    def _code(self, frames: list[Any]) -> None:
        for frame in frames:
            for packet in self._stream.encode(frame):
                self._out.mux(packet)
