"""A thousand spoilt files of every kind that is read (twenty thousand in the benchmarks): a sentence, or a reading."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_spoilt_files_are_read_or_refused_in_a_sentence() -> None:
    command = [sys.executable, ROOT / "tools" / "mutated_files.py", "1000", "1"]
    ended = subprocess.run(command, capture_output=True, text=True, check=False, cwd=ROOT)
    assert ended.returncode == 0, ended.stderr
    found = json.loads(ended.stdout)
    assert found["wrong"] == []
    assert found["left"] == []
    assert found["read"] > 150
    assert found["refused"] > 300
