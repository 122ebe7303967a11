"""What nobody foresaw: said in a sentence, with the details in a file. Without this, Qt would end the program."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

import platformdirs

from zweistimme.media.atomic import written_text
from zweistimme.project.errors import ZweistimmeError

Say = Callable[[str], None]
_Hook = Callable[[type[BaseException], BaseException, TracebackType | None], None]


def report_file() -> Path:
    """Where the details of the latest defect are."""
    return Path(platformdirs.user_state_dir("zweistimme")) / "defect.txt"


def catcher(say: Say) -> _Hook:
    """A hook for errors that nothing else caught."""

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if isinstance(error, ZweistimmeError):
            say(str(error))
        elif issubclass(kind, Exception):
            say(_sentence(kind, error, trace))
        else:
            sys.__excepthook__(kind, error, trace)

    return caught


def _sentence(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> str:
    said = f"A defect in Zweistimme: {kind.__name__}: {error}. What you did before it is saved."
    file = report_file()
    try:
        written_text(file, "".join(traceback.format_exception(kind, error, trace)))
    except OSError:
        return said
    return f"{said} Where it happened stands in {file}; please report it."


def catch(say: Say) -> None:
    """Have everything that nobody foresaw said by *say*."""
    sys.excepthook = catcher(say)
