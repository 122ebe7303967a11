"""Run all benchmarks, or those named: ``python -m benchmarks plan stretch``."""

from __future__ import annotations

import sys

from rich.console import Console
from rich.table import Table

from benchmarks import clock, engines, hearing, human, long, numeric, reliability, resident, storm, transcript, whole

GROUPS = {
    "plan": numeric.plan,
    "stretch": numeric.stretching,
    "loudness": numeric.loudness,
    "decode": numeric.decoding,
    "clock": clock.clock,
    "voice": engines.voice,
    "recogniser": engines.recogniser,
    "hearing": hearing.hearing,
    "transcript": transcript.transcript,
    "human": human.human,
    "resident": resident.resident,
    "storm": storm.storm,
    "kills": reliability.kills,
    "mutated": reliability.mutated,
    "mix": whole.mix,
    "demo": whole.demo,
    "window": whole.window,
    "long": long.long,
    "memory": whole.memory,
}


def main() -> None:
    """Print a table; a row a figure."""
    wanted = sys.argv[1:] or list(GROUPS)
    unknown = [name for name in wanted if name not in GROUPS]
    if unknown:
        raise SystemExit(f"There is no benchmark {', '.join(unknown)}. There are: {', '.join(GROUPS)}.")
    table = Table("Benchmark", "What", "Figure", "Against")
    for name in wanted:
        for what, figure, against in GROUPS[name]():
            table.add_row(name, what, figure, against)
    Console(width=130).print(table)


main()
