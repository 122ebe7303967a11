"""Make the demo's files again: ``python -m zweistimme.demo.make FOLDER``."""

from __future__ import annotations

import json
import sys
from fractions import Fraction
from pathlib import Path

import numpy as np

from zweistimme.demo import picture, sound
from zweistimme.demo.script import BED, MEDIA, SCRIPT, SOURCE, TITLE, TRUTH, placed_lines
from zweistimme.media.atomic import written_text, written_whole
from zweistimme.project.times import RATE, clock


def make(folder: Path) -> None:
    """Write picture and sound, the bed, the script, and the truth about every word."""
    written_whole(folder / MEDIA, _write_video)
    written_whole(folder / BED, _write_bed)
    written_text(folder / SCRIPT, script_text())
    written_text(folder / TRUTH, json.dumps(truth(), ensure_ascii=False, indent=1) + "\n")


def script_text() -> str:
    """The script as people write one: a time, a speaker, the words."""
    rows = [f"[{clock(round(p.start * 1e6), 2)}] {p.line.speaker}: {p.line.text}" for p in placed_lines()]
    return "\n".join(rows) + "\n"


def truth() -> dict[str, object]:
    """When every word is spoken, and by whom."""
    rows = [
        {
            "speaker": p.line.speaker,
            "on_screen": p.line.on_screen,
            "start": round(p.start, 4),
            "end": round(p.end, 4),
            "text": p.line.text,
            "words": [[text, round(a, 4), round(b, 4)] for text, a, b in p.words],
        }
        for p in placed_lines()
    ]
    return {"title": TITLE, "language": SOURCE, "lines": rows}


def _write_video(path: Path) -> None:
    import av

    whole = sound.programme()
    with av.open(str(path), "w", options={"movflags": "faststart"}) as out:
        video = out.add_stream("libx264", rate=picture.FRAMES_PER_SECOND)
        video.width, video.height, video.pix_fmt = picture.WIDTH, picture.HEIGHT, "yuv420p"
        video.options = {"crf": "27", "preset": "slow", "threads": "1", "tune": "animation"}
        audio = out.add_stream("aac", rate=RATE, layout="stereo")
        audio.bit_rate = 144_000
        audio.metadata["language"] = "eng"
        for number, image in enumerate(picture.frames()):
            frame = av.VideoFrame.from_ndarray(image, format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, picture.FRAMES_PER_SECOND)
            out.mux(video.encode(frame))
            step = RATE // picture.FRAMES_PER_SECOND
            part = np.ascontiguousarray(whole[:, number * step : (number + 1) * step])
            heard = av.AudioFrame.from_ndarray(part, "fltp", "stereo")
            heard.sample_rate, heard.pts, heard.time_base = RATE, number * step, Fraction(1, RATE)
            out.mux(audio.encode(heard))
        out.mux(video.encode(None))
        out.mux(audio.encode(None))


def _write_bed(path: Path) -> None:
    import av

    whole = sound.bed()
    with av.open(str(path), "w", format="ogg") as out:
        stream = out.add_stream("libopus", rate=RATE, layout="stereo")
        stream.bit_rate = 96_000
        for start in range(0, whole.shape[1], 960):
            part = np.ascontiguousarray(whole[:, start : start + 960])
            interleaved = np.ascontiguousarray(part.T).reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(interleaved, "flt", "stereo")
            frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


if __name__ == "__main__":
    make(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent / "data")
