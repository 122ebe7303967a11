"""A file and what of it is used: facts, its sounds with a proposal, and a bed from there or from another file."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zweistimme.media.probe import MediaInfo, probe
from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import clock
from zweistimme.stages.intake import Intake, Proposal, propose
from zweistimme.window.background import Latest
from zweistimme.window.intake.sounds import SoundTable


def facts_of(info: MediaInfo) -> str:
    """What a file holds, in a line.

    >>> from fractions import Fraction
    >>> facts_of(MediaInfo(Path("a.wav"), "wav", 62_000_000, Fraction(0), None, None, ()))
    '1:02 · sound alone'
    """
    picture = tr("sound alone")
    if info.picture is not None:
        p = info.picture
        picture = tr(
            "{width} × {height}, {rate:.5g} pictures a second",
            width=p.width,
            height=p.height,
            rate=p.rate_numerator / p.rate_denominator,
        )
        picture += tr(", interlaced") if p.interlaced else ""
    counts = [
        tr("{n:sound track|sound tracks}", n=len(info.sounds)) if info.sounds else "",
        tr("{n:caption track|caption tracks}", n=len(info.captions)) if info.captions else "",
        tr("{n:chapter|chapters}", n=len(info.chapters)) if info.chapters else "",
    ]
    parts = [clock(info.duration_us, 0), picture]
    parts += filter(None, counts)
    return " · ".join([*parts, *([tr("begins at {timecode}", timecode=info.timecode)] if info.timecode else [])])


class IntakeForm(QWidget):
    """Shows what is known at once, then what was heard; what a person has chosen is left as it is."""

    def __init__(self, media: Path, source_tag: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.media, self._source_tag = media, source_tag
        self._chosen = False
        self.table: SoundTable | None = None
        self.facts = QLabel()
        self.facts.setWordWrap(True)
        self.facts.setTextFormat(Qt.TextFormat.PlainText)
        self.bed = QLineEdit()
        self.bed.setPlaceholderText(tr("none: the original is turned down"))
        self.bed.setToolTip(tr("A file with the programme's sound without speech, if there is one"))
        button = QPushButton(tr("Choose …"))
        button.clicked.connect(self._choose_bed)
        row = QHBoxLayout()
        row.addWidget(QLabel(tr("Bed from another file")))
        row.addWidget(self.bed, 1)
        row.addWidget(button)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 4)
        self._column.setSpacing(12)
        self._column.addWidget(self.facts)
        self._column.addLayout(row)
        self._listener = Latest("intake", self)
        self._listener.ready.connect(self._show_proposal)
        self.show_media(media)

    def show_media(self, media: Path) -> None:
        """Another file: what it holds at once, what is heard in it soon. MediaError where it cannot be read."""
        info = probe(media)
        self.media, self._chosen = media, False
        self.facts.setText(facts_of(info))
        if self.table is not None:
            self._column.removeWidget(self.table)
            self.table.deleteLater()
            self.table = None
        if len(info.sounds) > 1 or len(info.sounds[0].channels) > 2:
            self.table = SoundTable(info.sounds)
            self.table.choose(SoundPick(), None)
            self.table.changed.connect(self._remember_choice)
            self._column.insertWidget(1, self.table)
            tag = self._source_tag
            self._listener.want(lambda: propose(media, tag))

    def _remember_choice(self) -> None:
        self._chosen = True

    def _show_proposal(self, proposal: object) -> None:
        assert isinstance(proposal, Proposal)
        if self.table is None or proposal.info.path != self.media:
            return
        self.table.show_heard(proposal.candidates)
        if not self._chosen:
            self.table.blockSignals(True)
            here = proposal.intake.bed == self.media
            self.table.choose(proposal.intake.sound, proposal.intake.bed_sound if here else None)
            self.table.blockSignals(False)

    def show_intake(self, intake: Intake) -> None:
        """Show what is used now."""
        if self.table is not None:
            here = intake.bed is not None and intake.bed == intake.media
            self.table.choose(intake.sound, intake.bed_sound if here else None)
        if intake.bed is not None and intake.bed != intake.media:
            self.bed.setText(str(intake.bed))

    def intake(self) -> Intake:
        """What is chosen."""
        chosen = Intake(self.media, self.table.dialogue if self.table else SoundPick())
        if self.bed.text().strip():
            return replace(chosen, bed=Path(self.bed.text().strip()).expanduser())
        bed = self.table.bed if self.table else None
        return replace(chosen, bed=self.media, bed_sound=bed) if bed else chosen

    def problem(self) -> str:
        """Why what is chosen cannot be brought in; empty if it can."""
        from zweistimme.stages.intake import check

        intake = self.intake()
        if intake.bed == intake.media and intake.bed_sound == intake.sound:
            return tr("The same sound cannot be the dialogue and the bed. Choose another for one of them.")
        try:
            check(intake)
        except ZweistimmeError as error:
            return str(error)
        return ""

    def _choose_bed(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("The programme's sound without speech"))
        if name:
            self.bed.setText(name)

    def close_parts(self) -> None:
        """End the thread that listens."""
        self._listener.close()
