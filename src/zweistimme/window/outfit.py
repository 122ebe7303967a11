"""How the window is dressed: language, keys and colours, changed as everything stands."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Final, Protocol

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication, QWidget

from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.settings import LANGUAGE, THEME, Setting, read_settings, write_settings
from zweistimme.window.actions import give_keys
from zweistimme.window.remembered import Spot
from zweistimme.window.speech import speak
from zweistimme.window.theme import DAY, NIGHT, Theme, apply_theme, theme, theme_for

if TYPE_CHECKING:
    from zweistimme.window.desk_view import DeskView


_AGAIN_MS: Final = 300


class Dressed(Protocol):
    """The window, as far as it is dressed."""

    view: DeskView | None

    def dress(self) -> None: ...
    def undress(self) -> None: ...
    def close_project(self) -> None: ...
    def open_project(self, folder: Path) -> None: ...
    def say_error(self, sentence: str) -> None: ...


class Outfit(QObject):
    """Dresses the *window*, whose widgets are those of *frame*."""

    def __init__(self, window: Dressed, frame: QWidget) -> None:
        super().__init__(frame)  # so that what it listens to ends with the window
        self._window, self._frame = window, frame
        self._waits = False
        """Whether the window is to be made anew once nothing writes any more."""
        hints = _app().styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self._follow_system)  # that of contrast is no signal in the binding

    def _follow_system(self, _wish: object = None) -> None:
        """Other colours as soon as the system asks for others, where none were chosen."""
        wanted = theme_for(_app(), read_settings().text(THEME))
        if wanted is not theme():
            self.dress_in(wanted)

    def show_settings(self) -> None:
        """What is set for the whole desk."""
        from zweistimme.window.caches import Caches
        from zweistimme.window.settings_dialog import SettingsDialog

        view = self._window.view
        folder = view.desk.document.folder if view is not None else None
        caches = Caches(folder, lambda: _needed(view) if view is not None else "")
        dialog = SettingsDialog(self.dress_in, caches, self._frame)
        dialog.exec()
        if dialog.makes_anew:
            self.make_anew()

    def choose_language(self, tag: str) -> None:
        """Speak another language from now on."""
        if self._kept(LANGUAGE, tag):
            self.make_anew()

    def make_anew(self) -> None:
        """Make the window anew as it is set now, everything as it stands; once nothing writes in the project."""
        window, view = self._window, self._window.view
        self._waits = view is not None and view.desk.jobs.busy
        if view is not None and self._waits:
            view.desk.notice("note", tr("What was set holds as soon as nothing runs any more."))
            return
        spot = Spot.of(view) if view is not None else None
        window.close_project()
        settings = read_settings()
        speak(_app(), settings.text(LANGUAGE))
        give_keys(settings.keys)
        window.undress()
        window.dress()
        if spot is not None:
            window.open_project(spot.folder)
            if window.view is not None:
                spot.show(window.view)

    def catch_up(self) -> None:
        """Do what has waited for a run to end; not under the hands of somebody who writes or answers a question."""
        view = self._window.view
        if not self._waits or view is None:
            return
        if view.desk.writing.going_on or QApplication.activeModalWidget() is not None:
            QTimer.singleShot(_AGAIN_MS, self.catch_up)
        else:
            QTimer.singleShot(0, self.make_anew)

    def flip_theme(self) -> None:
        """Day to night, night to day."""
        wanted = NIGHT if theme() is not NIGHT else DAY
        self._kept(THEME, wanted.name)
        self.dress_in(wanted)

    def _kept(self, setting: Setting, value: str) -> bool:
        """Keep a setting; False, with a sentence, where it cannot be."""
        try:
            write_settings(read_settings().having(setting, value))
        except ZweistimmeError as error:
            self._window.say_error(str(error))
            return False
        return True

    def dress_in(self, wanted: Theme) -> None:
        """Other colours, in place."""
        apply_theme(_app(), wanted)
        view = self._window.view
        if view is not None:
            view.desk.writing.keep()
            view.page.score.forget_text()
            view.page.overview.draw_anew()


def _needed(view: DeskView) -> str:
    """Why the working copies of a project cannot go just now; empty if they can."""
    from zweistimme.stages.work import within_reach

    programme, cache = view.desk.project.programme, view.desk.document.cache
    if view.desk.jobs.runs:
        return tr("Something is running that may need it. Wait for it, or stop it.")
    tracks = (programme.sound, programme.bed) if programme is not None else ()
    away = [track.path for track in tracks if track is not None and not within_reach(cache, track)]
    if away:
        return tr("{file} is not where it was, so its sound could not be read again. It was not removed.", file=away[0])
    return ""


def _app() -> QApplication:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    return app
