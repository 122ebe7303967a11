"""How much befalls a project and nothing is lost: killed a thousand times, twenty thousand spoilt files read."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

TOOLS = Path(__file__).parents[1] / "tools"
Row = tuple[str, str, str]


def _told(*arguments: str | Path) -> tuple[dict[str, object], float]:
    begun = time.monotonic()
    ended = subprocess.run([sys.executable, *arguments], capture_output=True, text=True, check=True)
    return json.loads(ended.stdout), time.monotonic() - begun


def kills() -> Iterator[Row]:
    """Dubbing, importing, editing, handing over and packing, killed at random moments."""
    with tempfile.TemporaryDirectory() as folder:
        found, seconds = _told(TOOLS / "kill_storm.py", "1000", "1", folder)
    lost, left = found["lost"], found["left"]
    yield "killed at any moment", f"{found['killed']} of {found['rounds']} rounds, {seconds:.0f} s", "-"
    yield "what was committed and lost", f"{len(lost)} {lost[:2] if lost else ''}", "0"  # type: ignore[arg-type, index]
    yield "a hand-over afterwards is the same, sample for sample", str(found["same"]), "True"
    yield "unfinished files left over", f"{len(left)}", "0"  # type: ignore[arg-type]


def mutated() -> Iterator[Row]:
    """Files of every kind that is read, spoilt at random."""
    found, seconds = _told(TOOLS / "mutated_files.py", "20000", "1")
    yield "spoilt files", f"{found['read']} read, {found['refused']} refused in a sentence, {seconds:.0f} s", "-"
    yield "neither", f"{found['count_wrong']} {found['wrong'] or ''}", "0"
    yield "the slowest took", f"{found['slowest']}", "under 10 s"
