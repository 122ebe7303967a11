"""How much befalls a project and nothing is lost: killed a thousand times, twenty thousand spoilt files read."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.timing import Row, Rows

TOOLS = Path(__file__).parents[1] / "tools"


def _told(*arguments: str | Path) -> tuple[dict[str, object], float]:
    begun = time.monotonic()
    ended = subprocess.run([sys.executable, *arguments], capture_output=True, text=True, check=True)
    return json.loads(ended.stdout), time.monotonic() - begun


def kills() -> Rows:
    """Dubbing, importing, editing, handing over and packing, killed at random moments."""
    with tempfile.TemporaryDirectory() as folder:
        found, seconds = _told(TOOLS / "kill_storm.py", "1000", "1", folder)
    lost, left = found["lost"], found["left"]
    yield Row("killed at any moment", f"{found['killed']} of {found['rounds']} rounds, {seconds:.0f} s", "-")
    yield Row("what was committed and lost", f"{len(lost)} {lost[:2] if lost else ''}", "0")  # type: ignore[arg-type, index]
    yield Row("a hand-over afterwards is the same, sample for sample", str(found["same"]), "True")
    yield Row("unfinished files left over", f"{len(left)}", "0")  # type: ignore[arg-type]


def edit_storms() -> Rows:
    """Fifty programmes, each edited at random ten thousand times, with undo, redo and reopening."""
    made = refused = 0
    wrong: list[str] = []
    begun = time.monotonic()
    for seed in range(50):
        with tempfile.TemporaryDirectory() as folder:
            found, _ = _told(TOOLS / "edit_storm.py", "10000", str(seed), f"{folder}/p")
        made, refused = made + int(str(found["made"])), refused + int(str(found["refused"]))
        wrong += list(found["wrong"])  # type: ignore[call-overload]
    yield Row("random edits", f"{made} made, {refused} refused in a sentence, {time.monotonic() - begun:.0f} s", "-")
    yield Row("written and not read", f"{len(wrong)} {wrong[:2] or ''}", "0")


def mutated() -> Rows:
    """Files of every kind that is read, spoilt at random."""
    found, seconds = _told(TOOLS / "mutated_files.py", "20000", "1")
    yield Row("spoilt files", f"{found['read']} read, {found['refused']} refused in a sentence, {seconds:.0f} s", "-")
    yield Row("neither", f"{found['count_wrong']} {found['wrong'] or ''}", "0")
    yield Row("the slowest took", f"{found['slowest']}", "under 10 s")
