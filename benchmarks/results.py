"""Figures of former runs: a file a group, with the last figures and how fast the machine was when they were taken."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any, Final

from benchmarks.timing import GREATER_IS_BETTER, Row

FOLDER: Final = Path(__file__).parent / "results"
_APART: Final = 1.3
"""What is within this factor of the last figure, once the machine's speed is taken into account, is no news."""


class Results:
    """The figures of this run, beside those of the last."""

    def __init__(self, machine: str) -> None:
        self._machine = machine
        self._rows: dict[str, list[dict[str, Any]]] = {}

    def add(self, group: str, row: Row, speed: float) -> None:
        """Take in a row that was measured while the machine ran at *speed*."""
        self._rows.setdefault(group, []).append({**row._asdict(), "speed": round(speed, 3)})

    def finished(self, group: str) -> list[str]:
        """Keep the figures of a group; what became slower than the last time, in words."""
        file = FOLDER / f"{group}.json"
        rows, before = self._rows.get(group, []), _read(file)
        FOLDER.mkdir(exist_ok=True)
        content = {"machine": self._machine, "at": time.strftime("%Y-%m-%d %H:%M"), "rows": rows}
        file.write_text(json.dumps(content, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
        last = {row["what"]: row for row in before.get("rows", []) if row.get("value")}
        return [
            _sentence(row, last[row["what"]]) for row in rows if row["what"] in last and _slower(row, last[row["what"]])
        ]


def _read(file: Path) -> dict[str, Any]:
    try:
        content = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return content if isinstance(content, dict) else {}


def _slower(now: dict[str, Any], last: dict[str, Any]) -> bool:
    if now["value"] is None or now["unit"] != last["unit"]:
        return False
    speed = 1.0 if now["unit"] == "MB" else now["speed"] / last["speed"]
    factor = last["value"] / now["value"] if now["unit"] in GREATER_IS_BETTER else now["value"] / last["value"]
    # as it stands, and as it would on the machine of the last time
    return bool(min(factor, factor * speed) > _APART)


def _sentence(now: dict[str, Any], last: dict[str, Any]) -> str:
    machine = f"the machine at {now['speed']:.2f}, then at {last['speed']:.2f}"
    return f"{now['what']}: {now['figure']}, it was {last['figure']} ({machine})"
