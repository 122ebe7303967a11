"""A project made one file, and a folder again, with a bar to watch and a way to stop."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressDialog,
    QPushButton,
    QWidget,
)

from zweistimme.engines.jobs import Job, JobState
from zweistimme.messages import tr
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE, PACKED

_STEPS = 1000


def folder_for(package: Path) -> Path:
    """Where a package is unpacked: beside itself, under its name."""
    return package.absolute().with_suffix("")


class PackageProgress(QProgressDialog):
    """Does *work* on a thread of its own; ``run`` returns once it is done, has failed or was stopped."""

    _woken = pyqtSignal()

    def __init__(self, title: str, words: str, work: Callable[[Job], None], parent: QWidget | None = None) -> None:
        super().__init__(words, tr("Stop"), 0, _STEPS, parent)
        self.setWindowTitle(title)
        self.setAutoClose(False)
        self.setAutoReset(False)
        self.setMinimumDuration(0)
        self.problem = ""
        self._woken.connect(self._look)
        self._job = Job(title, work, self._woken.emit)
        self.canceled.connect(self._job.cancel)

    def run(self) -> bool:
        """Do it; whether it is done."""
        self._job.start()
        self.exec()
        self._job.wait(30.0)
        self._look()
        return not self.problem

    def _look(self) -> None:
        self.setValue(round(self._job.progress * _STEPS))
        if self._job.finished:
            self.problem = self._job.message if self._job.state is not JobState.DONE else ""
            self.accept()


class UnpackingDialog(PackageProgress):
    """Makes a package a folder beside it, if it is none yet."""

    def __init__(self, package: Path, parent: QWidget | None = None) -> None:
        super().__init__(
            tr("Unpack a project"),
            tr("{name} is unpacked …", name=package.name),
            partial(self._unpack, package),
            parent,
        )
        self.folder = folder_for(package)

    @property
    def needed(self) -> bool:
        """Whether there is no project yet where it would be unpacked."""
        return not (self.folder / DATABASE).is_file()

    def run(self) -> bool:
        """Unpack; whether there is a project now."""
        return (not self.needed or super().run()) and not self.needed

    def _unpack(self, package: Path, job: Job) -> None:
        from zweistimme.store.packing import unpack

        unpack(package, self.folder, job.report)


class PackingDialog(QDialog):
    """Asks where an open project is to go as one file, and whether its media come along; then writes it. *said* is what
    is to be told of it afterwards, *problem* why it is not there."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.said, self.problem = "", ""
        self.setWindowTitle(tr("Write the project as one file"))
        self.setMinimumWidth(520)
        form = QFormLayout(self)
        folder = document.folder.absolute()
        self.place = QLineEdit(str(folder.with_name(f"{folder.name}{PACKED}")))
        choose = QPushButton(tr("Choose …"))
        choose.setToolTip(tr("Choose where the file goes"))
        choose.clicked.connect(self._choose)
        row = QHBoxLayout()
        row.addWidget(self.place, 1)
        row.addWidget(choose)
        form.addRow(tr("File"), row)
        self.media = QCheckBox(tr("With the programme and its bed"))
        self.media.setEnabled(document.project.programme is not None)
        form.addRow(self.media)
        note = QLabel(tr("Transcript, versions, takes and all that engines answered come along. Tokens never do."))
        note.setProperty("faded", True)
        note.setWordWrap(True)
        form.addRow(note)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._write)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    @property
    def target(self) -> Path:
        """The file, whose name ends as packed projects' do."""
        wanted = Path(self.place.text().strip()).expanduser()
        return wanted if wanted.suffix == PACKED else wanted.with_name(f"{wanted.name}{PACKED}")

    def _choose(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, tr("Write the project to"), self.place.text(), tr("Projects") + f" (*{PACKED})"
        )
        if path:
            self.place.setText(path)

    def _write(self) -> None:
        words = tr("{name} is written …", name=self.target.name)
        progress = PackageProgress(tr("Write the project as one file"), words, self._pack, self)
        if progress.run():
            self.accept()
        else:
            self.problem = progress.problem
            self.reject()

    def _pack(self, job: Job) -> None:
        from zweistimme.store.packing import pack_open

        document, target = self._document, self.target
        missing = pack_open(document.folder, document.project, target, media=self.media.isChecked(), report=job.report)
        size = target.stat().st_size / 1e6
        left = (
            tr(" Not in it, since they are not where they were: {files}.", files=", ".join(map(str, missing)))
            if missing
            else ""
        )
        self.said = tr("{target} has {size:,.1f} MB.{left}", target=target, size=size, left=left)
