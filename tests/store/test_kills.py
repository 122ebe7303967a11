"""Killed a hundred times at any moment (a thousand times in the benchmarks): nothing that was committed is lost."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

STORM = Path(__file__).parents[2] / "tools" / "kill_storm.py"


def test_killed_a_hundred_times(tmp_path: Path) -> None:
    ended = subprocess.run([sys.executable, STORM, "100", "7", tmp_path], capture_output=True, text=True, check=False)
    assert ended.returncode == 0, ended.stderr
    found = json.loads(ended.stdout)
    assert found["lost"] == []
    assert found["same"]
    assert found["packed"]
    assert found["left"] == []
    assert found["killed"] > 60
