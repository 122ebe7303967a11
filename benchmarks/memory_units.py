"""The translation memory with 10,000, 100,000 and 1,000,000 units: opening, looking up, taking in, memory."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from benchmarks.start import environment
from benchmarks.timing import Row, Rows, figure, once
from zweistimme.memory.likeness import likeness, normal
from zweistimme.memory.memory import Memory
from zweistimme.project.units import Unit

_COUNTS = (10_000, 100_000, 1_000_000)
_ASKED = 200
_ROOT = Path(__file__).parents[1]
_LOOK_UP = """
import sys, time
began = time.perf_counter()
from pathlib import Path
from zweistimme.memory.memory import Memory
imported = time.perf_counter()
memory = Memory(Path(sys.argv[1]))
opened = time.perf_counter()
asked = Path(sys.argv[2]).read_text(encoding="utf-8").splitlines()
taken, found = [], []
for text in asked:
    start = time.perf_counter()
    matches = memory.matches(text, "en-GB", "de-DE")
    taken.append(time.perf_counter() - start)
    found.append(str(matches[0].percent if matches else 0))
start = time.perf_counter()
memory.holding("ferryman 77")
stretch = time.perf_counter() - start
high = int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0]) / 1024
print(opened - imported, sorted(taken)[len(taken) // 2], sorted(taken)[int(len(taken) * 0.95)], stretch, high)
print(" ".join(found))
"""


def sentences(count: int, dice: np.random.Generator) -> Iterator[str]:
    """Sentences of 3 to 15 words out of 30,000, as often as words are (Zipf 1949)."""
    words = np.array([f"{stem}{number}" for stem in ("ferry", "tide", "wheel") for number in range(10_000)])
    share = 1 / np.arange(1, len(words) + 1)
    for _ in range(0, count, 1_000):
        lengths = dice.integers(3, 16, 1_000)
        drawn = dice.choice(words, int(lengths.sum()), p=share / share.sum())
        for part in np.split(drawn, np.cumsum(lengths)[:-1]):
            yield " ".join(part.tolist()).capitalize() + "."


def changed(text: str, dice: np.random.Generator) -> str:
    """A sentence with one word of it another."""
    words = text.split()
    words[int(dice.integers(len(words)))] = "ferryman"
    return " ".join(words)


def memory_units() -> Rows:
    """A look-up each for sentences that are there but for a word, in a process of its own."""
    for count in _COUNTS:
        dice = np.random.default_rng(4)
        with tempfile.TemporaryDirectory() as folder:
            file, asked = Path(folder) / "memory.sqlite", Path(folder) / "asked.txt"
            said = list(sentences(count, dice))
            taken, single = _filled(file, said)
            texts = [changed(said[int(k)], dice) for k in dice.integers(0, count, _ASKED)]
            asked.write_text("\n".join(texts), encoding="utf-8")
            command = [sys.executable, "-c", _LOOK_UP, str(file), str(asked)]
            ended = subprocess.run(command, check=True, capture_output=True, text=True, env=environment(), cwd=_ROOT)
            figures, found = ended.stdout.splitlines()
            opened, median, most, stretch, high = map(float, figures.split())
        name = f"{count:,} units"
        yield figure(f"{name}: taken in and indexed", taken, "s", f"{count / taken:,.0f} a second")
        yield figure(f"{name}: one more", 1000 * single, "ms", "with its place on the disk")
        yield figure(f"{name}: opening", 1000 * opened, "ms", "wanted: 200 ms")
        yield figure(f"{name}: a look-up", 1000 * median, "ms", f"95 %: {1000 * most:.1f}; wanted: 10 ms")
        yield figure(f"{name}: any stretch of text", stretch, "s", "every unit read")
        yield figure(f"{name}: memory", high, "MB", "wanted: 300 MB")
        yield _recall(texts[:40], said, [int(one) for one in found.split()][:40], name)


def _filled(file: Path, said: list[str]) -> tuple[float, float]:
    """A memory of sentences; how many seconds that took, and one unit more."""
    blank = Unit("en-GB", "de-DE", "", "", origin="Harbour Notices", made="2026-05-01")
    more = [replace(blank, source=f"Again {k}.", target=f"Wieder {k}.") for k in range(200)]
    units = (replace(blank, source=text, target=f"{k}. {text}") for k, text in enumerate(said))
    with Memory(file) as memory:
        taken = once(lambda: memory.put(units))
        return taken, once(lambda: [memory.put([unit]) for unit in more]) / len(more)


def _recall(texts: list[str], said: list[str], found: list[int], name: str) -> Row:
    """How many of the asked have a match of the percentage that comparing with a stretch of everything finds."""
    known = [normal(one) for one in said[:50_000]]
    best = [max(likeness(normal(text), one) for one in known) for text in texts]
    asked = [(b, f) for b, f in zip(best, found, strict=True) if b >= 0.7]
    hits = sum(f >= int(100 * b) for b, f in asked)
    return figure(
        f"{name}: found of what is 70 % like", 100 * hits / max(1, len(asked)), "%", "compared one by one with 50,000"
    )
