"""Listening to a programme that was just brought in, beside the work: nothing waits for it, it stops when the desk
closes, and what it finds is kept with the project."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from zweistimme.engines.jobs import Job
from zweistimme.sentences import sentence_of
from zweistimme.store.document import NOT_UNDONE
from zweistimme.window.bridge import Desk


class Listener(QObject):
    """One programme at a time."""

    heard = pyqtSignal(list)
    """Sentences a person should know."""
    _woken = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._job: Job | None = None
        self._woken.connect(self._take)

    def listen(self) -> None:
        """Listen to the programme as it is now."""
        self.close()
        from zweistimme.stages.work import Work

        run = Work.on(self._desk.document, lambda _label, _edit: None)

        def work(job: Job) -> None:
            from zweistimme.stages.advice import listen

            listen(
                replace(
                    run,
                    deliver=lambda label, edit: job.give((label, edit)),
                    report=job.report,
                    say=lambda finding: job.give(sentence_of(finding)),
                )
            )

        self._job = Job("Listen", work, self._woken.emit)
        self._job.start()

    @property
    def busy(self) -> bool:
        """Whether somebody is listening."""
        return self._job is not None and not self._job.finished

    def _take(self) -> None:
        if self._job is None:
            return
        said: list[str] = []
        edits: list[tuple[str, Callable[..., object]]] = []
        for result in self._job.take():
            said += [result] if isinstance(result, str) else []
            edits += [result] if isinstance(result, tuple) else []
        for label, edit in edits:
            assert label == NOT_UNDONE
            self._desk.store(label, edit)  # type: ignore[arg-type]
        if said:
            self.heard.emit(said)

    def close(self) -> None:
        """Stop listening."""
        if self._job is not None:
            self._job.cancel()
            self._job.wait(10.0)
            self._job = None
