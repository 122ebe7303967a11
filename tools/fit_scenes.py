"""Pictures of the fit and of the mix: a take in the hand, the whole fit, the mix."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from camera import grab, settle

if TYPE_CHECKING:
    from zweistimme.window.main_window import MainWindow


def pictures_of_fit_and_mix(app: QApplication, window: MainWindow) -> None:
    """A take while it is dragged, the Fit page, the Mix page."""
    view = window.view
    assert view is not None
    _picture_of_dragging(app, window)
    view.navigation.show_page("Fit")
    from zweistimme.window.fitting.page import FitPage

    page = view.pages.of("Fit", FitPage)
    page.fields.boxes["comfort"][1].setValue(1.08)
    settle(app, 3)
    grab(window, "fit")
    page.refresh()
    view.navigation.show_page("Mix")
    from zweistimme.window.mix.page import MixPage

    view.pages.of("Mix", MixPage).measure.click()
    settle(app, 1)
    while view.desk.jobs.busy or view.desk.jobs.runs:
        settle(app, 0.2)
    settle(app, 2)
    grab(window, "mix")
    view.navigation.show_page("Score")


def _picture_of_dragging(app: QApplication, window: MainWindow) -> None:
    view = window.view
    assert view is not None
    desk, score = view.desk, view.page.score
    key = desk.project.segments[4].id
    desk.select(key)
    score.centre_on(22_000_000)
    settle(app)
    card, scene = score.dubs.find(key), score.scene()
    assert card is not None
    x, y = scene.columns.dub_wave[0] + 20, (scene.scale.y(card.start_us) + scene.scale.y(card.end_us)) / 2
    score.mousePressEvent(_mouse(QEvent.Type.MouseButtonPress, x, y))
    for by in (6, 16, 26, 36):
        score.mouseMoveEvent(_mouse(QEvent.Type.MouseMove, x, y + by))
        settle(app, 0.1)
    grab(window, "dragging")
    score.mouseReleaseEvent(_mouse(QEvent.Type.MouseButtonRelease, x, y + 36))
    desk.undo()


def _mouse(kind: QEvent.Type, x: float, y: float) -> QMouseEvent:
    at, left = QPointF(x, y), Qt.MouseButton.LeftButton
    return QMouseEvent(kind, at, at, left, left, Qt.KeyboardModifier.NoModifier)
