"""Cells of tables that spreadsheets open: they take what begins with certain signs for something to be counted."""

from __future__ import annotations

import re
from typing import Final

_COUNTED: Final = re.compile(r"'*[=+\-@]")
_FORMULA: Final = re.compile(r"^'('*[=+\-@])")


def no_formula(cell: str) -> str:
    """A cell that no spreadsheet takes for something to be counted, such as “- No.”: one more apostrophe before it.

    >>> no_formula("- No."), no_formula("'- No."), no_formula("No.")
    ("'- No.", "''- No.", 'No.')
    """
    return f"'{cell}" if _COUNTED.match(cell) else cell


def as_meant(cell: str) -> str:
    """The same cell read again.

    >>> as_meant(no_formula("- No.")), as_meant("'Tis")
    ('- No.', "'Tis")
    """
    return _FORMULA.sub(r"\1", cell)
