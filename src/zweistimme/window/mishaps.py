"""What nobody foresaw: said in a sentence, with the details in a file. Without this, Qt would end the program."""

from __future__ import annotations

import sys
import threading
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

import platformdirs
from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.media.atomic import written_text
from zweistimme.messages import tr
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
    said = tr(
        "A defect in Zweistimme: {kind}: {error}. What you did before it is saved.", kind=kind.__name__, error=error
    )
    file = report_file()
    try:
        written_text(file, "".join(traceback.format_exception(kind, error, trace)))
    except OSError:
        return said
    return tr("{said} Where it happened stands in {file}; please report it.", said=said, file=file)


class _Teller(QObject):
    """Brings a sentence from a worker to the thread of the window."""

    said = pyqtSignal(str)


def catch(say: Say) -> None:
    """Have everything that nobody foresaw said by *say*, a method of the window; on whatever thread it happens."""
    sys.excepthook = catcher(say)
    teller = _Teller()
    teller.said.connect(say)
    caught = catcher(lambda sentence: teller.said.emit(sentence))  # a bound signal alone would not keep its teller

    def on_worker(happened: threading.ExceptHookArgs) -> None:
        if happened.exc_value is not None:
            caught(happened.exc_type, happened.exc_value, happened.exc_traceback)

    threading.excepthook = on_worker


def tell_defect() -> None:
    """On a worker that goes on afterwards: have the error that is being handled said."""
    threading.excepthook(threading.ExceptHookArgs((*sys.exc_info(), threading.current_thread())))
