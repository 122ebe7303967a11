"""A program that takes five seconds to load: resident, and what it costs to start it for every line."""

from __future__ import annotations

import os
import time
from pathlib import Path

from benchmarks.timing import Row, Rows
from zweistimme.engines.program import ProgramEngine
from zweistimme.engines.protocol import SpeechRequest
from zweistimme.engines.request_queue import ask_all
from zweistimme.formats.ssml import ssml_of

EXAMPLES = Path(__file__).parents[1] / "docs" / "examples"
LINES = [f"Guten Morgen, Nummer {number}." for number in range(200)]


def _voiced_s(engine: ProgramEngine, lines: list[str]) -> float:
    """How long it takes to voice lines as a stage does."""
    begun, got = time.monotonic(), []
    failures = ask_all(
        lines,
        lambda line: engine.speak(SpeechRequest(ssml_of(line, "de-DE"), "de-DE", "hum")),
        limits=engine.info().limits,
        took=lambda line, _speech: got.append(line),
        report=lambda _share: None,
    )
    assert not failures
    assert len(got) == len(lines)
    return time.monotonic() - begun


def resident() -> Rows:
    """200 lines by the resident example, loaded and not loaded yet; ten by the one that is run for each."""
    os.environ["HEAVY_LOADS_S"] = "5"
    heavy = ProgramEngine("heavy", EXAMPLES / "resident-engine" / "heavy.toml")
    cold = _voiced_s(heavy, LINES)
    warm = _voiced_s(heavy, [f"{line} Ja." for line in LINES])
    heavy.close()
    yield Row("200 lines, five seconds to load first", f"{cold:.2f} s", f"{warm + 5:.2f} s: 200 lines and five seconds")
    little = ProgramEngine("little", EXAMPLES / "little-engine" / "little.toml")
    each = _voiced_s(little, LINES[:10]) / 10
    yield Row(
        "a program run for each line, nothing to load", f"{each * 1000:.0f} ms a line", f"{warm * 5:.0f} ms resident"
    )
