"""The window: the welcome page or a project on the desk, and the actions."""

from __future__ import annotations

import gc
import threading
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QStackedWidget, QWidget

from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.model import Pin, Project, Style
from zweistimme.store.names import DATABASE, PACKED
from zweistimme.window.actions import ACTIONS, bind, holds_on
from zweistimme.window.own_keys import is_its_own
from zweistimme.window.recent import free_folder, remember
from zweistimme.window.sheet import ShortcutSheet
from zweistimme.window.theme import DAY, NIGHT, apply_theme, theme
from zweistimme.window.welcome import WelcomePage

_IN_TRANSCRIBING = frozenset(
    ["from_word", "slower", "faster", "next_word", "previous_word", "next_doubt", "previous_doubt", "next_wordless",
     "choose_next", "choose_previous", "choose_all"]
)  # fmt: skip
"""Actions of other groups whose handlers are the transcript's."""

if TYPE_CHECKING:
    from zweistimme.store.document import Document
    from zweistimme.window.desk_view import DeskView
    from zweistimme.window.new_project import NewProject


def load_the_rest() -> None:
    """Import what a project on the desk needs, while the welcome page is already there to be read."""

    def load() -> None:
        for module in (
            "zweistimme.window.desk_view",
            "zweistimme.stages.bring_in",
            "zweistimme.stages.fit",
        ):
            import_module(module)

    threading.Thread(target=load, daemon=True).start()


class MainWindow(QMainWindow):
    """Holds the pages; what happens on them is theirs. What is slow to import is imported where it is used."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Zweistimme")
        self.resize(1280, 800)
        self._stack = QStackedWidget()
        self.setCentralWidget(self._stack)
        self.welcome = WelcomePage()
        self._stack.addWidget(self.welcome)
        self.view: DeskView | None = None
        self.welcome.demo_wanted.connect(self.open_demo)
        self.welcome.media_wanted.connect(self.ask_new)
        self.welcome.project_wanted.connect(self.open_project)
        self.actions_by_id = bind(self, self._handlers())

    def _handlers(self) -> dict[str, Callable[[], None]]:
        def on_desk(act: Callable[[DeskView], object]) -> Callable[[], None]:
            def handler() -> None:
                if self.view is not None:
                    self.view.desk.writing.keep()  # whatever is done is done to the text as it stands
                    act(self.view)

            return handler

        def of_transcript(action_id: str) -> Callable[[], None]:
            return on_desk(lambda v: {**v.transcribing.handlers(), **v.files.handlers()}[action_id]())

        from_transcript = {
            spec.id: of_transcript(spec.id)
            for spec in ACTIONS
            if spec.group.startswith("Transcript") or spec.id in _IN_TRANSCRIBING
        }

        def showing(page: str) -> Callable[[], None]:
            return on_desk(lambda v: v.navigation.show_page(page))

        pages = {spec.id: showing(spec.id.removeprefix("page_")) for spec in ACTIONS if spec.group == "Pages"}
        return {
            **from_transcript,
            **pages,
            "recut": on_desk(lambda v: v.navigation.open_panel("Cut anew")),
            "find": on_desk(lambda v: v.navigation.open_panel("Find and replace")),
            "recognise": on_desk(lambda v: v.navigation.open_panel("Have the speech recognised")),
            "record": on_desk(lambda v: v.navigation.record()),
            "pitch": on_desk(lambda v: v.page.closeup.pitch.flip()),
            "play": on_desk(lambda v: v.playback.player.toggle()),
            "loop": on_desk(lambda v: v.transport.loop.toggle()),
            "play_take": on_desk(lambda v: v.playback.hear_take()),
            "to_selection": on_desk(self._to_selection),
            "next_line": on_desk(lambda v: v.desk.step_selection(1)),
            "previous_line": on_desk(lambda v: v.desk.step_selection(-1)),
            "next_open": on_desk(lambda v: v.navigation.next_open()),
            "closer": on_desk(lambda v: v.page.score.zoom(1.25)),
            "wider": on_desk(lambda v: v.page.score.zoom(0.8)),
            "next_version": on_desk(lambda v: v.navigation.next_version()),
            "edit_line": on_desk(lambda v: v.page.score.edit("dub")),
            "edit_source": on_desk(lambda v: v.page.score.edit("original")),
            "shorter": on_desk(lambda v: v.page.line.use_shorter()),
            "another_take": on_desk(lambda v: v.again.takes()),
            "other_wordings": on_desk(lambda v: v.again.wordings()),
            "pin": on_desk(self._pin),
            "screen": on_desk(lambda v: v.page.line.flip_screen()),
            "programme": on_desk(lambda v: v.programme.ask()),
            "pack": on_desk(lambda v: v.programme.pack()),
            "timecode": on_desk(lambda v: v.flip_timecode()),
            "continue": on_desk(lambda v: v.steps.go_on()),
            "stop": on_desk(lambda v: v.navigation.close_or_stop()),
            "undo": on_desk(lambda v: v.desk.undo()),
            "redo": on_desk(lambda v: v.desk.redo()),
            "theme": self.flip_theme,
            "sheet": self.show_sheet,
            "close": self.close_project,
        }

    def _enable_on(self, page: str) -> None:
        for spec in ACTIONS:
            self.actions_by_id[spec.id].setEnabled(holds_on(spec, page))

    def say_error(self, sentence: str) -> None:
        """Say what went wrong where the person looks."""
        if self.view is not None:
            self.view.desk.notice("error", sentence)
        else:
            self.welcome.say(sentence)

    def show_sheet(self) -> None:
        """All shortcuts."""
        ShortcutSheet(self).exec()

    # opening and closing

    def open_path(self, path: Path) -> None:
        """Open what a person named: a project folder, or a file to bring in."""
        if path.is_dir() and not (path / DATABASE).is_file():
            self.welcome.say(f"{path} is a folder without a project. Give a project folder or a media file.")
        elif path.is_dir():
            self.open_project(path)
        elif path.suffix == PACKED:
            self.unpack(path)
        else:
            self.ask_new(path)

    def unpack(self, package: Path) -> None:
        """Make a packed project a folder beside it, if it is none yet, and open that."""
        from zweistimme.window.package_dialogs import UnpackingDialog

        dialog = UnpackingDialog(package, self)
        if dialog.run():
            self.open_project(dialog.folder)
        else:
            self.welcome.say(dialog.problem)

    def open_project(self, folder: Path) -> None:
        """Put a project on the desk."""
        from zweistimme.store.document import Document

        try:
            document = Document.open(folder)
        except ZweistimmeError as error:
            self.welcome.say(str(error))
            return
        self._show(document)

    def ask_new(self, media: Path) -> None:
        """Ask what a new project needs, then make it."""
        from zweistimme.window.new_project import NewProjectDialog

        try:
            dialog = NewProjectDialog(media, self)
        except ZweistimmeError as error:
            self.welcome.say(str(error))
            return
        if dialog.exec() and dialog.answer is not None:
            self.make_project(dialog.answer)

    def make_project(self, wanted: NewProject, title: str = "") -> None:
        """Make a project and bring in its programme as its first job."""
        from zweistimme.media.probe import title_from
        from zweistimme.project.edits import add_version
        from zweistimme.store.document import Document

        begun = Project(title or title_from(wanted.intake.media), wanted.source_tag)
        try:
            for tag in wanted.tags:
                begun = add_version(begun, tag, wanted.style)
            document = Document.create(wanted.folder, begun)
        except ZweistimmeError as error:
            self.welcome.say(str(error))
            return
        view = self._show(document)
        view.programme.bring_in(wanted.intake)

    def open_demo(self) -> None:
        """A new project with the demo programme in it."""
        from zweistimme.demo.script import BED, MEDIA, SOURCE, TARGETS, TITLE, data_file
        from zweistimme.stages.intake import Intake
        from zweistimme.window.new_project import NewProject

        folder = free_folder(TITLE)
        intake = Intake(data_file(MEDIA), bed=data_file(BED))
        wanted = NewProject(folder, SOURCE, TARGETS, Style.PHRASE_SYNC, intake)
        self.make_project(wanted, TITLE)

    def _show(self, document: Document) -> DeskView:
        from zweistimme.window.bridge import Desk
        from zweistimme.window.desk_view import DeskView

        self.close_project()
        remember(document.folder)
        self.view = DeskView(Desk(document))
        offered = [spec.id for spec in ACTIONS if spec.group in ("Transcript files", "Programme")]
        offered += [spec.id for spec in ACTIONS if spec.group == "Transcript" and spec.listed]
        self.view.transport.show_actions([self.actions_by_id[action_id] for action_id in offered])
        self.view.welcome_to(self.actions_by_id)
        self.view.pages.shown.connect(self._enable_on)
        self._enable_on("Score")
        self._stack.addWidget(self.view)
        self._stack.setCurrentWidget(self.view)
        self.setWindowTitle(f"{document.project.title} – Zweistimme")
        self.view.page.score.setFocus()
        self.view.desk.recover_writing()
        gc.freeze()  # a project's own data holds no cycles: the collector need not walk through it every time
        return self.view

    def close_project(self) -> None:
        """Back to the welcome page; everything is stored already."""
        view, self.view = self.view, None
        if view is None:
            return
        view.close_parts()
        gc.unfreeze()
        self._stack.setCurrentWidget(self.welcome)
        self._stack.removeWidget(view)
        view.deleteLater()
        self.setWindowTitle("Zweistimme")
        self.welcome.say("")
        self.welcome.refresh()

    def event(self, event: QEvent | None) -> bool:
        """Shortcuts give way to the keys of the widget that has the keyboard."""
        asked = event is not None and event.type() == QEvent.Type.ShortcutOverride
        if asked and isinstance(event, QKeyEvent) and is_its_own(QApplication.focusWidget(), event):
            event.accept()
            return True
        return super().event(event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.close_project()
        super().closeEvent(event)

    # actions that need more than one part

    def _to_selection(self, view: DeskView) -> None:
        view.playback.to_selection()
        view.pages.show_segment(view.desk.segment_id)

    def _pin(self, view: DeskView) -> None:
        from zweistimme.stages.fit import pin_and_plan

        desk = view.desk
        line, placed, tag = desk.line(), desk.placed(), desk.tag
        if line is None or placed is None:
            desk.notice("note", "Only a placed take can be pinned. Fit this version first.")
            return
        pin = None if line.pin else Pin(placed[0].start_us)
        segment_id = desk.segment_id
        desk.apply(
            "Unpin a take" if line.pin else "Pin a take", lambda project: pin_and_plan(project, tag, segment_id, pin)
        )

    def flip_theme(self) -> None:
        """Day to night, night to day."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, NIGHT if theme() is DAY else DAY)
        if self.view is not None:
            self.view.page.score.forget_text()
        if self.view is not None:
            folder, selected, tag = self.view.desk.document.folder, self.view.desk.segment_id, self.view.desk.tag
            if self.view.desk.job is not None:
                self.view.desk.notice("note", "The new colours show everywhere once this job is done and reopened.")
                return
            self.close_project()
            self.open_project(folder)
            if self.view is not None:
                self.view.desk.show_version(tag)
                self.view.desk.select(selected)
        for widget in self.findChildren(QWidget):
            widget.update()
