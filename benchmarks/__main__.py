"""Run all benchmarks, or those named: ``python -m benchmarks plan kernels``.

A row is printed as soon as it is there. How fast the machine is just now is measured before and after each group; the
figures are kept in ``benchmarks/results`` and compared with the last of their group.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Callable, Iterator
from importlib import import_module
from typing import Final

from rich.console import Console

from benchmarks.machine import calibration, description
from benchmarks.results import Results
from benchmarks.timing import Row

GROUPS: Final = {
    "plan": "plan:plan",
    "kernels": "kernels:kernels",
    "clock": "clock:clock",
    "voice": "engines:voice",
    "recogniser": "engines:recogniser",
    "hearing": "hearing:hearing",
    "transcript": "transcript:transcript",
    "human": "human:human",
    "resident": "resident:resident",
    "storm": "storm:storm",
    "kills": "reliability:kills",
    "edits": "reliability:edit_storms",
    "mutated": "reliability:mutated",
    "start": "start:start",
    "long": "long:long",
    "mix": "whole:mix",
    "import": "whole:importing",
    "recall": "memory_units:memory_units",
    "choose": "choosing:choosing",
    "phrases": "phrases:phrases",
    "takes": "phrases:real_takes",
    "rooms": "rooms:rooms",
    "casting": "casting:casting",
    "heard": "hearing_back:hearing_back",
    "lengths": "lengths:lengths",
    "terms": "term_finding:term_finding",
    "demo": "whole:demo",
    "memory": "whole:memory",
    "handover": "whole:two_hours",
    "doubling": "whole:doubling",
}
_WIDTHS: Final = (58, 24)


def main() -> None:
    """Measure, print, keep."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks", description=__doc__)
    parser.add_argument("groups", nargs="*", metavar="GROUP", help=f"of {', '.join(GROUPS)}; default: all of them")
    parser.add_argument("--beside", metavar="REVISION", default="", help="an older revision to run the demo with, too")
    given = parser.parse_args()
    unknown = [name for name in given.groups if name not in GROUPS]
    if unknown:
        parser.error(f"there is no group {', '.join(unknown)}; there are: {', '.join(GROUPS)}")
    console = Console(highlight=False, soft_wrap=True)
    console.print(description(), markup=False)
    results = Results(description())
    for name in given.groups or GROUPS:
        before, began = calibration(), time.monotonic()
        console.print(f"\n[bold]{name}[/bold], the machine at {before:.2f} of a quiet 2.5 GHz core")
        for row in rows_of(name, given.beside):
            _print(console, row)
            results.add(name, row, before)
        after, slower = calibration(), results.finished(name)
        console.print(f"  {time.monotonic() - began:.0f} s; the machine at {after:.2f} when it was done", style="dim")
        for sentence in slower:
            console.print(f"  slower than the last time: {sentence}", style="yellow", markup=False)


def rows_of(name: str, beside: str) -> Iterator[Row]:
    """The rows of a group; the demo's also of the revision *beside*."""
    module, _, function = GROUPS[name].partition(":")
    measure: Callable[..., Iterator[Row]] = getattr(import_module(f"benchmarks.{module}"), function)
    return measure(beside) if name == "demo" else measure()


def _print(console: Console, row: Row) -> None:
    what, figure = row.what.ljust(_WIDTHS[0]), row.figure.rjust(_WIDTHS[1])
    console.print(f"  {what} {figure}  {row.against}", markup=False)


main()
