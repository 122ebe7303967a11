"""Who says what, and when, in the demo programme."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Final

from zweistimme.sound.arrays import Mono
from zweistimme.standin.voice import speak, voice_by_id

TITLE: Final = "The Tide Clock of Varnholm"
SOURCE: Final = "en-GB"
TARGETS: Final = ("de-DE", "es-ES")
DURATION_S: Final = 85.0
VOICE_OF: Final = {"Mira": "alva", "Tobin": "brandt", "Juna": "cosma"}


@dataclass(frozen=True, slots=True)
class DemoLine:
    """A line of the script. *gap_s* is the time since the end of the line before; negative for cross-talk."""

    speaker: str
    text: str
    gap_s: float
    on_screen: bool = True
    direction: str = ""


LINES: Final = (
    DemoLine("Mira", "Twice a day the sea walks up these steps, and twice a day it leaves again.", 3.4, False),
    DemoLine("Tobin", "The clock has to know that before we do.", 1.1),
    DemoLine("Juna", "And if it doesn't?", 0.55),
    DemoLine("Tobin", "Then the ferry sits on the mud, and the whole harbour blames the clockmaker.", 0.7),
    DemoLine(
        "Mira",
        "This winter its great wheel cracked, for the first time in a hundred and forty years.",
        1.4,
        False,
    ),
    DemoLine("Juna", "I heard it go.", 0.6),
    DemoLine("Tobin", "My grandfather cast that wheel in 1884, with 36 teeth.", 0.9),
    DemoLine("Juna", "Listen, it is still ticking.", 1.3, direction="whispering"),
    DemoLine("Mira", "In Varnholm nobody asks what time it is.", 9.0, False),
    DemoLine("Mira", "They ask how high the water stands.", 0.7, False),
    DemoLine("Tobin", "Hand me the lantern.", 3.0),
    DemoLine("Juna", "Careful, the steps are wet.", 0.7),
    DemoLine("Tobin", "I know every one of these steps.", -0.45),
    DemoLine("Tobin", "Lift it now.", 2.2),
    DemoLine("Juna", "It turns!", 0.75),
    DemoLine("Mira", "At four minutes past six the bell rang across the Alder Quay.", 4.4, False),
    DemoLine("Tobin", "There, now the sea may come.", 1.2),
    DemoLine("Mira", "And the sea came, as it always does.", 3.0, False),
)


@dataclass(frozen=True, slots=True)
class PlacedLine:
    """A line spoken and put in its place; times in seconds, words as (text, start, end)."""

    line: DemoLine
    start: float
    end: float
    words: tuple[tuple[str, float, float], ...]
    samples: Mono
    clip_start: float


@lru_cache(maxsize=1)
def placed_lines() -> tuple[PlacedLine, ...]:
    """All lines, spoken by the bundled voices and laid out one behind the other."""
    placed: list[PlacedLine] = []
    end = 0.0
    for line in LINES:
        voice = voice_by_id(VOICE_OF[line.speaker])
        assert voice is not None
        spoken = speak(line.text, SOURCE, voice, direction=line.direction)
        first, last = spoken.words[0][1], spoken.words[-1][2]
        start = end + line.gap_s
        shift = start - first
        words = tuple((text, a + shift, b + shift) for text, a, b in spoken.words)
        end = start + last - first
        placed.append(PlacedLine(line, start, end, words, spoken.samples, shift))
    return tuple(placed)


def data_file(name: str) -> Path:
    """A finished file of the demo, as shipped in the package."""
    return Path(str(files("zweistimme.demo") / "data" / name))


MEDIA: Final = "tide-clock.mp4"
BED: Final = "tide-clock-bed.ogg"
SCRIPT: Final = "tide-clock-script.txt"
TRUTH: Final = "tide-clock-truth.json"
