"""A packed project made a folder again, with a bar to watch and a way to stop."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QProgressDialog, QWidget

from zweistimme.engines.jobs import Job, JobState
from zweistimme.store.names import DATABASE

_STEPS = 1000


def folder_for(package: Path) -> Path:
    """Where a package is unpacked: beside itself, under its name."""
    return package.absolute().with_suffix("")


class UnpackingDialog(QProgressDialog):
    """Unpacks on a thread of its own; ``exec`` returns once it is done, has failed or was stopped."""

    _woken = pyqtSignal()

    def __init__(self, package: Path, parent: QWidget | None = None) -> None:
        super().__init__(f"{package.name} is unpacked …", "Stop", 0, _STEPS, parent)
        self.setWindowTitle("Unpack a project")
        self.setAutoClose(False)
        self.setAutoReset(False)
        self.setMinimumDuration(0)
        self.folder, self.problem = folder_for(package), ""
        self._woken.connect(self._look)
        self._job = Job("Unpack", partial(self._unpack, package), self._woken.emit)
        self.canceled.connect(self._job.cancel)

    @property
    def needed(self) -> bool:
        """Whether there is no project yet where it would be unpacked."""
        return not (self.folder / DATABASE).is_file()

    def run(self) -> bool:
        """Unpack; whether there is a project now."""
        if self.needed:
            self._job.start()
            self.exec()
            self._job.wait(30.0)
            self._look()
        return not self.problem and not self.needed

    def _unpack(self, package: Path, job: Job) -> None:
        from zweistimme.store.packing import unpack

        unpack(package, self.folder, job.report)

    def _look(self) -> None:
        self.setValue(round(self._job.progress * _STEPS))
        if self._job.finished:
            self.problem = self._job.message if self._job.state is not JobState.DONE else ""
            self.accept()
