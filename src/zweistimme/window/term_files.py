"""Terms brought in from files and written to files, beside the work that goes on."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from zweistimme.media.atomic import written_bytes
from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.findings import Finding
from zweistimme.project.term_edits import merged
from zweistimme.project.terms import Term
from zweistimme.sentences import sentences_of
from zweistimme.window.background import Latest
from zweistimme.window.bridge import Desk


@dataclass(frozen=True, slots=True)
class _FromFile:
    """The terms of a file, and what is to be known of it."""

    file: Path
    terms: list[Term]
    odd: tuple[Finding, ...]


class TermFiles(QObject):
    """Files are read on a thread of their own: one of ten thousand terms takes a second."""

    reads = pyqtSignal(bool)
    """A file is being read, or is so no more."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent)
        self._desk, self._frame = desk, parent
        self._reading = Latest("terms from a file", self)
        self._reading.ready.connect(self._take_in)

    def ask_file(self) -> None:
        """Ask for a file, and take in its terms."""
        kinds = tr("Terms (*.tbx *.xml *.csv *.tsv)")
        name, _ = QFileDialog.getOpenFileName(self._frame, tr("Bring in terms"), "", kinds)
        if name:
            self.bring_in(Path(name))

    def bring_in(self, file: Path) -> None:
        """Take in the terms of a file; what is here stays, and is added to."""
        source_tag = self._desk.project.source_tag
        self.reads.emit(True)
        self._reading.want(lambda: _read(file, source_tag))

    def _take_in(self, found: _FromFile | str) -> None:
        self.reads.emit(False)
        if isinstance(found, str):
            self._desk.notice("error", found)
            return
        try:
            _, new, more = merged(self._desk.project, found.terms)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        if self._desk.apply("Take in terms", lambda project: merged(project, found.terms)[0]):
            count = {"file": found.file.name, "n": len(found.terms), "new": new, "more": more}
            words = tr("{file}: {n:term|terms}, {new:,} of them new, {more:,} added to.", **count)
            self._desk.notice("done", f"{words} {sentences_of(found.odd)}".strip())

    def ask_target(self) -> None:
        """Ask where to, and write the terms there."""
        kinds = f"{tr('Terms as TBX')} (*.tbx);;{tr('Terms as a table')} (*.csv)"
        usual = f"{self._desk.project.title}.tbx"
        name, _ = QFileDialog.getSaveFileName(self._frame, tr("Write the terms"), usual, kinds)
        if name:
            self.write_to(Path(name))

    def write_to(self, file: Path) -> None:
        """Write the terms to a file."""
        from zweistimme.stages.translate.term_files import written_terms

        try:
            written_bytes(file, written_terms(self._desk.project, file.suffix))
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        self._desk.notice("done", tr("{file} is written.", file=file))

    def close(self) -> None:
        """End the thread."""
        self._reading.close()


def _read(file: Path, source_tag: str) -> _FromFile | str:
    """What stands in a file, or why it cannot be read."""
    from zweistimme.stages.translate.term_files import read_terms

    try:
        return _FromFile(file, *read_terms(file, source_tag))
    except ZweistimmeError as error:
        return str(error)
