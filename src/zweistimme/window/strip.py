"""The strip at the top: programme, versions, the six steps, and the one button that goes on."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import tr, tr_act
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import language_name
from zweistimme.project.progress import Progress, Step, progress
from zweistimme.project.times import clock
from zweistimme.stages.pipeline import ORDER, VERBS
from zweistimme.window.actions import tip
from zweistimme.window.bridge import Desk
from zweistimme.window.clipped_text import ClippedText
from zweistimme.window.estimates import next_estimates
from zweistimme.window.sign import Sign
from zweistimme.window.theme import SMALL_PT, TITLE_PT, colour, font, px
from zweistimme.window.version_choice import VersionChoice

_MANY = 1_000
_REST_MS = 60


class StepButton(QAbstractButton):
    """A step of the work: its name, done of total, a bar; what is stale is hatched."""

    def __init__(self, step: Step, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.step = step
        self._progress = Progress(step, 0, 0, 0)
        words = QFontMetrics(font(SMALL_PT, bold=True)).horizontalAdvance(tr(step.value)) + 8
        self.setMinimumSize(px(70), px(42))
        self.setMaximumWidth(max(px(82), min(words, px(110))))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(self.maximumWidth(), px(42))

    def show_progress(self, state: Progress) -> None:
        self._progress = state
        parts = [tr("{done} done", done=state.done), *([tr("{stale} stale", stale=state.stale)] if state.stale else [])]
        parts += [tr("{missing} missing", missing=state.missing)] if state.missing else []
        parts += [_clashes(state.clashes)] if state.clashes else []
        self.setAccessibleName(f"{tr(self.step.value)}: {', '.join(parts)}")
        self.setToolTip(
            tr(
                "{step}: {state}. Press to go to the first that needs a person.",
                step=tr(self.step.value),
                state=", ".join(parts),
            )
        )
        self.update()

    @property
    def words(self) -> str:
        """What stands under the step's name."""
        state = self._progress
        if self.step is Step.HANDOVER:
            if not state.total:
                return tr("left out")
            return tr("done") if state.done else tr("older") if state.stale else tr("not yet")
        if not state.total:
            return "–"
        more = (
            tr("{stale} stale", stale=state.stale) if state.stale else _clashes(state.clashes) if state.clashes else ""
        )
        return f"{state.done}/{state.total}" + (f" · {more}" if more else "")

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        state = self._progress
        painter.setPen(colour("ink"))
        painter.setFont(font(SMALL_PT, bold=True))
        name = painter.fontMetrics().elidedText(tr(self.step.value), Qt.TextElideMode.ElideRight, self.width() - 4)
        painter.drawText(QPointF(2, px(14)), name)
        painter.setFont(font(SMALL_PT))
        painter.setPen(colour("firm" if state.stale or state.clashes else "faded"))
        painter.drawText(QPointF(2, px(28)), self.words)
        width = self.width() - 6
        painter.fillRect(QRectF(2, px(35), width, 3), colour("rule"))
        if state.total:
            done, stale = (width * part / state.total for part in (state.done, state.stale))
            painter.fillRect(QRectF(2, px(35), done, 3), colour("calm" if state.complete else "original"))
            painter.fillRect(QRectF(2 + done, px(35), stale, 3), Qt.BrushStyle.Dense4Pattern)
        if self.hasFocus():
            painter.setPen(QPen(colour("original"), 1))
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))


def _clashes(count: int) -> str:
    return tr("{n:clash|clashes}", n=count)


class TopStrip(QWidget):
    """The top of the desk."""

    continue_wanted = pyqtSignal()
    step_pressed = pyqtSignal(object)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 14, 6)
        row.setSpacing(8)
        row.addWidget(Sign())
        row.addLayout(self._titles())
        self.versions = VersionChoice(desk)
        row.addSpacing(8)
        row.addWidget(self.versions, 1)
        self.steps = {step: StepButton(step) for step in ORDER}
        for step, button in self.steps.items():
            button.clicked.connect(lambda _on=False, step=step: self.step_pressed.emit(step))
            row.addWidget(button)
        row.addSpacing(4)
        self.go_on = QPushButton("Continue  ▸")
        self.go_on.setObjectName("continue")
        self.go_on.clicked.connect(self.continue_wanted)
        row.addWidget(self.go_on)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.refresh)
        for signal in (desk.changed, desk.version_changed, desk.jobs.changed, desk.book.changed):
            signal.connect(self._refresh_soon)
        self._refresh_soon()

    def _refresh_soon(self) -> None:
        """At once; in a long programme once the Score has been painted, so that counting holds up no edit."""
        if len(self._desk.project.segments) > _MANY:
            self._rest.start()
        else:
            self.refresh()

    def _titles(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(0)
        self._title, self._about = ClippedText(1), ClippedText(1)
        self._title.setFont(font(TITLE_PT, bold=True))
        self._about.setFont(font(SMALL_PT))
        self._about.setProperty("faded", True)
        for words in (self._title, self._about):
            words.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
            words.setMinimumWidth(px(110))
            words.setMaximumWidth(px(290))
        column.addWidget(self._title)
        column.addWidget(self._about)
        return column

    def refresh(self) -> None:
        """Show the project as it is."""
        project, version = self._desk.project, self._desk.version
        self._title.setText(project.title)
        parts = [language_name(project.source_tag)]
        if project.programme:
            parts.append(clock(project.programme.sound.duration_us, 0))
        if project.speakers:
            parts.append(tr("{n:speaker|speakers}", n=len(project.speakers)))
        self._about.setText(" · ".join(parts))
        self.versions.refresh()
        if version is not None:
            for step, state in progress(project, version).items():
                self.steps[step].show_progress(state)
        self._refresh_continue()
        self.go_on.setMinimumWidth(0)
        self.go_on.setMinimumWidth(max(px(112), self.go_on.sizeHint().width()))

    def _refresh_continue(self) -> None:
        running = self._desk.jobs.busy
        if self._desk.version is None:
            self.go_on.setText(tr("Continue  ▸"))
            self.go_on.setEnabled(False)
            self.go_on.setToolTip(tr("Add a version first."))
            return
        coming = next_estimates(self._desk)
        step = coming.step
        if step is None and self._desk.project.segments and not spoken_segments(self._desk.project):
            self.go_on.setText(tr("Write  ▸"))
            self.go_on.setEnabled(not running)
            self.go_on.setToolTip(tr("Nobody's words are written down yet: go to the first segment without any."))
            return
        self.go_on.setEnabled(step is not None and not running)
        if step is None:
            self.go_on.setText(tr("All done"))
            self.go_on.setToolTip(tr("Every step of this version is done."))
            return
        price = "\n" + tr("about {price}", price=coming.price) if coming.price else ""
        self.go_on.setText(f"{tr_act(VERBS[step])}{f' {coming.count}' if coming.count else ''}  ▸{price}")
        self.go_on.setToolTip(
            f"<p>{tr('The next thing that is missing: {act}.', act=tr_act(VERBS[step]))} "
            f"{escape(coming.sentence)} {tip('continue')}</p>"
        )
