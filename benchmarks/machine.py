"""What the machine is and how fast it is just now: a figure is worth little without it."""

from __future__ import annotations

import os
import platform
from pathlib import Path

import numpy as np

from benchmarks.timing import seconds


def description() -> str:
    """Processor, cores, and the versions of what does the counting."""
    model = next(
        (
            line.partition(":")[2].strip()
            for line in Path("/proc/cpuinfo").read_text().splitlines()
            if "model name" in line
        ),
        platform.machine(),
    )
    return f"{model}, {len(os.sched_getaffinity(0))} cores; Python {platform.python_version()}, NumPy {np.__version__}"


def calibration() -> float:
    """How fast the machine is: the geometric mean of a loop in Python, passes over memory and a matrix product, each
    against what a quiet core of 2.5 GHz does."""
    array = np.ones(4_000_000, dtype=np.float32)
    square = np.ones((400, 400), dtype=np.float32)
    loop = seconds(lambda: sum(k & 7 for k in range(300_000)))
    passes = seconds(lambda: np.multiply(array, 1.0001, out=array))
    product = seconds(lambda: square @ square)
    return float((_LOOP_S / loop * _PASS_S / passes * _PRODUCT_S / product) ** (1 / 3))


_LOOP_S, _PASS_S, _PRODUCT_S = 0.0145, 0.0018, 0.0015
