"""Everything about the selected line: who, what was said, what will be said, with which voice, and why it fits so."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr
from zweistimme.project.conversation import address_to, listener_at
from zweistimme.project.facts import line_is_stale
from zweistimme.project.languages import own_name
from zweistimme.project.line_edits import take_offer
from zweistimme.project.model import Line, Project, Segment
from zweistimme.project.speaker_edits import assign_speaker
from zweistimme.project.text_changes import changes
from zweistimme.project.transcript import set_on_screen
from zweistimme.project.wordings import Origin
from zweistimme.sentences import ADDRESSES, sentences_of
from zweistimme.stages.fit.slot import measured_length
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.choices import fill
from zweistimme.window.noticing import Noticing
from zweistimme.window.panel.gauge import LengthGauge
from zweistimme.window.panel.hand_row import HandRow
from zweistimme.window.panel.helps import Helps
from zweistimme.window.panel.marked_text import marked_changes
from zweistimme.window.panel.offers import offer_rows
from zweistimme.window.panel.place import PlaceButton
from zweistimme.window.panel.remarks import Remarks
from zweistimme.window.panel.standing import StandingRow
from zweistimme.window.panel.takes import TakeRow
from zweistimme.window.panel.terms_here import TermsHere
from zweistimme.window.panel.voice_row import VoiceRow
from zweistimme.window.panel.wording import WordingEdit
from zweistimme.window.panel.wording_offers import WordingOffers
from zweistimme.window.recollection import Recollection
from zweistimme.window.shown_line import locked_words
from zweistimme.window.theme import SMALL_PT, TITLE_PT, font, tint, tint_ground
from zweistimme.window.writing import Kind, Place


def _caption(text: str, role: str = "faded") -> QLabel:
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)  # names may stand in it
    label.setFont(font(SMALL_PT, bold=role != "faded"))
    tint(label, role)
    return label


class LinePanel(QWidget):
    """The selected line."""

    left = pyqtSignal()
    """Whoever wrote here wants to be elsewhere."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self.recollection, self.noticing = Recollection(desk, self), Noticing(desk, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 10)
        column.setSpacing(4)
        self._make_head(column)
        self.said_to = _caption("", "original")
        column.addWidget(self.said_to)
        self.source = WordingEdit(desk, tr("The original's words"), 2)
        column.addWidget(self.source)
        self.terms = TermsHere(desk)
        column.addWidget(self.terms)
        self.changed = QLabel()
        self.changed.setWordWrap(True)
        self.changed.setTextFormat(Qt.TextFormat.RichText)
        self.changed.setFont(font(SMALL_PT))
        column.addWidget(self.changed)
        row = QHBoxLayout()
        self.tag_label = _caption("", "dub")
        self.other_wordings = QToolButton()
        self.other_wordings.setText(tr("ask again"))
        self.other_wordings.setFont(font(SMALL_PT))
        self.other_wordings.setToolTip(tip("other_wordings"))
        self.other_wordings.setAccessibleName(tr("Ask for other wordings"))
        row.addWidget(self.tag_label)
        row.addWidget(self.other_wordings)
        row.addStretch(1)
        column.addLayout(row)
        self.wording = WordingEdit(desk, tr("The line's wording"), 3)
        column.addWidget(self.wording)
        self.gauge = LengthGauge()
        column.addWidget(self.gauge)
        self.helps = Helps(desk)
        column.addWidget(self.helps)
        self.standing = StandingRow(desk)
        column.addWidget(self.standing)
        self.remarks = Remarks(desk, self.noticing)
        column.addWidget(self.remarks)
        self.offers = WordingOffers()
        column.addWidget(self.offers)
        self.spoken = VoiceRow(desk)
        column.addWidget(self.spoken)
        self.takes = TakeRow(desk)
        column.addWidget(self.takes)
        self.failure = QLabel()
        self.failure.setWordWrap(True)
        self.failure.setTextFormat(Qt.TextFormat.PlainText)
        tint(self.failure, "hard")
        column.addWidget(self.failure)
        column.addSpacing(4)
        self._why_title = _caption(tr("Why this fit"))
        column.addWidget(self._why_title)
        self.why = QLabel()
        self.why.setWordWrap(True)
        self.why.setTextFormat(Qt.TextFormat.PlainText)
        self.why.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.why)
        self.hand = HandRow(desk)
        column.addWidget(_caption(tr("By hand")))
        column.addWidget(self.hand)
        column.addStretch(1)
        self._connect()
        self.refresh()

    def _make_head(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.swatch = QLabel()
        self.swatch.setFixedSize(9, 18)
        self.speaker = QComboBox()
        self.speaker.setAccessibleName(tr("Speaker of this line"))
        self.speaker.setToolTip(tr("Who says this; names are changed on the Speakers page"))
        self.speaker.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.speaker.setFont(font(TITLE_PT - 1, bold=True))
        self.seen = QToolButton()
        self.seen.setFont(font(SMALL_PT))
        self.seen.setToolTip(tip("screen"))
        self.heard, self.place = PlaceButton(self._desk), _caption("")
        for widget in (self.swatch, self.speaker, self.seen, self.heard):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.place)
        column.addLayout(row)

    def _connect(self) -> None:
        desk = self._desk
        desk.changed.connect(lambda _change: self.refresh())
        desk.version_changed.connect(lambda _tag: self.refresh())
        desk.selected.connect(lambda _id: self.refresh())
        desk.book.changed.connect(self.refresh)
        self.seen.clicked.connect(self.flip_screen)
        self.wording.textChanged.connect(lambda: self.measure(self.wording.toPlainText()))
        self.offers.wanted.connect(self.use_offer)
        self.recollection.found.connect(self.refresh)
        self.speaker.activated.connect(self._assign)
        for draft in (self.source.draft, self.wording.draft, self.spoken.draft, self.standing.draft):
            draft.escaped.connect(self.left)

    # what is shown

    def refresh(self) -> None:
        """Show the selected line as it is now."""
        segment, line, version = self._desk.segment(), self._desk.line(), self._desk.version
        self.setVisible(segment is not None)
        if segment is None:
            return
        self._refresh_head(segment)
        place = Place(Kind.WORDING, segment.id, self._desk.tag)
        self.source.draft.show(Place(Kind.ORIGINAL, segment.id), segment.text)
        self.wording.draft.show(place, line.text if line else "")
        self.wording.setEnabled(version is not None)
        self.other_wordings.setEnabled(version is not None)
        if version is not None:
            self.tag_label.setText(own_name(version.tag))
        locked = line is not None and line.locked
        self.wording.setReadOnly(locked)
        self.wording.setToolTip(locked_words() if locked else "")
        self.standing.refresh(segment, line)
        self._show_changes(segment, line)
        self.remarks.refresh()
        self.terms.refresh()
        self.measure(self.wording.toPlainText())
        self._show_offers(segment)
        self.spoken.refresh()
        self.takes.refresh()
        failure = self._desk.failure(segment)
        self.failure.setText(failure)
        self.failure.setVisible(bool(failure))
        placed = self._desk.placed()
        self.why.setText(sentences_of(placed[0].why) if placed else tr("Not placed yet."))
        self.helps.refresh()
        self.hand.refresh()

    def _show_changes(self, segment: Segment, line: Line | None) -> None:
        """What is another word in the original than when the line was made."""
        shown = line if line is not None and line.original and line_is_stale(segment, line) else None
        self.changed.setVisible(shown is not None)
        if shown is not None:
            tag = self._desk.project.source_tag
            self.changed.setText(marked_changes(changes(shown.original, segment.text, tag)))

    def _refresh_head(self, segment: Segment) -> None:
        project = self._desk.project
        tint_ground(self.swatch, list(project.speakers).index(segment.speaker_id))
        fill(self.speaker, [(who.name, key, "") for key, who in project.speakers.items()], segment.speaker_id)
        place = self._desk.place(segment.id) or 0
        self.said_to.setText(_said_to(project, place))
        self.seen.setText(tr("on screen") if segment.on_screen else tr("off screen"))
        self.heard.show_segment(segment)
        self.place.setText(tr("line {number} of {count}", number=place + 1, count=len(project.segments)))

    def measure(self, text: str) -> None:
        """Move the gauge for a wording, kept or not."""
        segment, version = self._desk.segment(), self._desk.version
        known = segment is not None and version is not None and bool(text.strip())
        self.gauge.show_length(
            measured_length(self._desk.project, version, segment, text) if known and version and segment else None
        )

    def _show_offers(self, segment: Segment) -> None:
        """What the memory has, and what engines have given."""
        line, version, project = self._desk.line(), self._desk.version, self._desk.project
        rows = offer_rows(project, version, segment, line, self.recollection.matches) if version is not None else []
        self.offers.show_offers(rows)

    # what a hand changes

    def flip_screen(self) -> None:
        """Everything that is chosen goes where the selected line is not."""
        segment, ids = self._desk.segment(), self._desk.chosen_ids()
        if segment is not None:
            seen = not segment.on_screen
            self._desk.apply("On or off screen", lambda project: set_on_screen(project, ids, seen))

    def use_shorter(self) -> None:
        """Take the next shorter wording on offer."""
        line = self._desk.line()
        offers = [offer.text for offer in line.offers if len(offer.text) < len(line.text)] if line else []
        if offers:
            self._use(max(offers, key=len))
        else:
            self._desk.notice("note", tr("There is no shorter wording on offer for this line."))

    def use_offer(self, number: int) -> None:
        """Take a wording on offer by its number from 0."""
        if number < len(self.offers.rows):
            row = self.offers.rows[number]
            self._use(row.text, row.origin)
        else:
            self._desk.notice("note", tr("There is no wording {number} on offer for this line.", number=number + 1))

    def _use(self, wording: str, origin: Origin | None = None) -> None:
        tag, segment_id = self._desk.tag, self._desk.segment_id
        self._desk.apply("Take a wording on offer", lambda p: take_offer(p, tag, segment_id, wording, origin))

    def _assign(self) -> None:
        segment_id, speaker = self._desk.segment_id, self.speaker.currentData()
        self._desk.apply("Give a line to a speaker", lambda project: assign_speaker(project, [segment_id], speaker))

    def close_parts(self) -> None:
        """End every thread; what was settled goes into the memory."""
        self.noticing.close()
        self.helps.close_parts()
        self.terms.close_parts()
        self.recollection.close()


def _said_to(project: Project, place: int) -> str:
    """To whom the original is said, and how they are addressed, as far as that is known."""
    listener = project.speakers.get(listener_at(project.segments, place))
    if listener is None:
        return tr("Original")
    how = address_to(project, project.segments[place].speaker_id, listener.id)
    words = tr("Original, to {listener}", listener=listener.name)
    return f"{words} ({tr(ADDRESSES[how])})" if how else words
