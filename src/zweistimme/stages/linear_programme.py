"""Linear programmes, solved by HiGHS without a wrapper between: rows are collected in whole arrays and handed over in
one call. Presolving costs more than it gains here, so that it is off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
import numpy.typing as npt

from zweistimme.sound.arrays import Floats, Ints

Terms = list[tuple[Ints, Floats | float]]
"""Columns and their values, one of each for every row."""
_BY_ROWS, _LEAST = 2, 1
"""HiGHS's numbers for a matrix given row by row, and for seeking the least."""
_OPTIONS: Final[dict[str, Any]] = {
    "output_flag": False,
    "presolve": "off",
    "solver": "simplex",
    "simplex_strategy": 1,
    "threads": 1,
}


class Rows:
    """Sparse rows ``low <= A z <= high`` collected in whole arrays."""

    def __init__(self) -> None:
        self._rows: list[Ints] = []
        self._columns: list[Ints] = []
        self._values: list[Floats] = []
        self._low: list[Floats] = []
        self._high: list[Floats] = []
        self.count = 0

    def add(self, terms: Terms, high: Floats) -> None:
        """At most *high*, one row for each of its elements; each term gives a column and a value for every row."""
        self._add(terms, np.full(len(high), -np.inf), high)

    def add_equal(self, terms: Terms, value: Floats) -> None:
        """Just *value*, one row for each of its elements."""
        self._add(terms, value, value)

    def _add(self, terms: Terms, low: Floats, high: Floats) -> None:
        index = np.arange(self.count, self.count + len(high))
        for columns, values in terms:
            self._rows.append(index)
            self._columns.append(columns)
            self._values.append(values if isinstance(values, np.ndarray) else np.full(len(high), float(values)))
        self._low.append(low)
        self._high.append(high)
        self.count += len(high)

    def bounds(self) -> tuple[Floats, Floats]:
        """The least and the most of each row."""
        return np.concatenate(self._low), np.concatenate(self._high)

    def matrix(self) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32], Floats]:
        """Where each row begins among the entries (one more than rows), their columns and values. No row may name a
        column twice."""
        rows = np.concatenate(self._rows)
        order = np.argsort(rows, kind="stable")
        starts = np.searchsorted(rows[order], np.arange(self.count + 1))
        columns = np.concatenate(self._columns)[order]
        return starts.astype(np.int32), columns.astype(np.int32), np.concatenate(self._values)[order]


@dataclass(frozen=True, slots=True)
class Optimum:
    """The cheapest values of the columns and what they cost; no values and a *status* in words where there are none.
    *duals*: by how much the cost would change with the bound of each row."""

    values: Floats | None
    cost: float
    status: str = ""
    duals: Floats | None = None


def cheapest(prices: Floats, low: Floats, high: Floats, rows: Rows) -> Optimum:
    """The values within *low* and *high*, shape ``(columns,)``, that keep the rows and cost least."""
    from highspy import HighsModelStatus
    from highspy._core import _Highs  # what is built upon it greets everybody on standard output

    solver = _Highs()
    for name, value in _OPTIONS.items():
        solver.setOptionValue(name, value)
    least, most = rows.bounds()
    starts, columns, values = rows.matrix()
    solver.passModel(
        len(prices), rows.count, len(values), _BY_ROWS, _LEAST, 0.0,
        prices, low, high, least, most, starts, columns, values, np.zeros(len(prices), dtype=np.int32),
    )  # fmt: skip
    solver.run()
    status = solver.getModelStatus()
    if status != HighsModelStatus.kOptimal:
        return Optimum(None, float("inf"), str(solver.modelStatusToString(status)))
    solution = solver.getSolution()
    return Optimum(np.array(solution.col_value), float(solver.getObjectiveValue()), duals=np.array(solution.row_dual))
