"""The window: the welcome page or a project on the desk, and the actions."""

from __future__ import annotations

import gc
from importlib import import_module
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QEvent, QLocale
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMainWindow, QMessageBox, QStackedWidget

from zweistimme.messages import msg, tr, tr_act
from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.names import DATABASE, PACKED
from zweistimme.window.actions import ACTIONS, BY_ID, bind, holds_on, key_words
from zweistimme.window.commands import handlers
from zweistimme.window.corner import Corner
from zweistimme.window.desktop_notice import tell_of_run
from zweistimme.window.finder import CommandFinder
from zweistimme.window.menus import Menus
from zweistimme.window.outfit import Outfit
from zweistimme.window.own_keys import is_its_own
from zweistimme.window.recent import recent_projects, remember
from zweistimme.window.remembered import bring_back, read_remembered, remember_desk, write_remembered
from zweistimme.window.sheet import ShortcutSheet
from zweistimme.window.welcome import WelcomePage

if TYPE_CHECKING:
    from zweistimme.store.document import Document
    from zweistimme.window.desk_view import DeskView
    from zweistimme.window.new_project import NewProject

_ABOUT = msg(
    "A desk for dubbing, free software under the GNU General Public License, version 3 or later. The bundled engines "
    "are stand-ins: they show the way, and real ones are connected on the Engines page."
)


def load_the_rest() -> None:
    """Import what a project on the desk needs, and the names of languages, while the welcome page is already there to
    be read."""
    for module in (
        "zweistimme.window.desk_view",
        "zweistimme.stages.bring_in",
        "zweistimme.stages.fit",
    ):
        import_module(module)
    import_module("zweistimme.project.languages").own_name("de")


class MainWindow(QMainWindow):
    """Holds the pages; what happens on them is theirs. What is slow to import is imported where it is used."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Zweistimme")
        self.remembered = read_remembered()
        self.resize(1280, 800)
        self.restoreGeometry(QByteArray.fromBase64(self.remembered.geometry.encode()))
        self._stack = QStackedWidget()
        self.setCentralWidget(self._stack)
        self.view: DeskView | None = None
        self.outfit = Outfit(self, self)
        self.dress()

    def dress(self) -> None:
        """Make what has words, in the language there is."""
        self.setLocale(QLocale())  # what is made in it has this one's
        self.welcome = WelcomePage()
        self._stack.addWidget(self.welcome)
        self.welcome.demo_wanted.connect(self.open_demo)
        self.welcome.media_wanted.connect(self.ask_media)
        self.welcome.opening_wanted.connect(self.ask_project)
        self.welcome.media_dropped.connect(self.ask_new)
        self.welcome.project_wanted.connect(self.open_project)
        self.actions_by_id = bind(self, handlers(self))
        speakers, language = self._speakers, self.outfit.choose_language
        self.menus = Menus(self.actions_by_id, recent_projects, self.open_project, speakers, language)
        bar = self.menuBar()
        assert bar is not None
        bar.clear()
        self.menus.fill_bar(bar)
        before = bar.cornerWidget()
        if before is not None:
            before.hide()
            before.deleteLater()
        corner = Corner(self.actions_by_id, bar)
        bar.setCornerWidget(corner)
        corner.show()
        self._enable_on("")

    def undress(self) -> None:
        """Let go of what has words; ``dress`` makes it anew."""
        for dialog in self.findChildren(QDialog):
            dialog.close()
            dialog.deleteLater()
        for action in self.actions_by_id.values():
            self.removeAction(action)
            action.deleteLater()
        self._stack.removeWidget(self.welcome)
        self.welcome.deleteLater()

    def _enable_on(self, page: str) -> None:
        for spec in ACTIONS:
            self.actions_by_id[spec.id].setEnabled(holds_on(spec, page))
        self._name_steps()

    def say_error(self, sentence: str) -> None:
        """Say what went wrong where the person looks."""
        if self.view is not None:
            self.view.desk.notice("error", sentence)
        else:
            self.welcome.say(sentence)

    def show_manual(self) -> None:
        """The manual, open beside the work, where it is about what one sees."""
        from zweistimme.window.manual_view import Manual, place_of

        manual = self.findChild(Manual) or Manual(self)
        manual.show()
        manual.show_place(*place_of(self.view))
        manual.raise_()
        manual.activateWindow()

    def show_sheet(self) -> None:
        """All shortcuts."""
        ShortcutSheet(self).exec()

    def show_about(self) -> None:
        """What this is."""
        QMessageBox.about(self, "Zweistimme", f"<b>Zweistimme {version('zweistimme')}</b><p>{tr(_ABOUT)}</p>")

    def find_command(self) -> None:
        """Find a command by its words, and do it."""
        finder = CommandFinder(self.actions_by_id, self)
        if finder.exec():
            self.actions_by_id[finder.chosen].trigger()

    def ask_media(self) -> None:
        """Ask for a programme, and make a project of it."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Bring in a programme"))
        if name:
            self.ask_new(Path(name))

    def ask_project(self) -> None:
        """Ask for a project, and open it."""
        name = QFileDialog.getExistingDirectory(self, tr("Open a project"))
        if name:
            self.open_project(Path(name))

    def _speakers(self) -> list[str]:
        speakers = self.view.desk.project.speakers if self.view else {}
        return [speaker.name for speaker in speakers.values()][:9]

    def _name_steps(self) -> None:
        """Undo and redo say what they would do."""
        document = self.view.desk.document if self.view else None
        for action_id, label in (
            ("undo", document.undo_label() if document else None),
            ("redo", document.redo_label() if document else None),
        ):
            action, spec = self.actions_by_id[action_id], BY_ID[action_id]
            action.setText(f"{spec.words}: {tr_act(label)}" if label else spec.words)
            action.setToolTip(f"{action.text()} ({key_words(spec.key)})")
            action.setEnabled(bool(label))

    # opening and closing

    def open_path(self, path: Path) -> None:
        """Open what a person named: a project folder, or a file to bring in."""
        if path.is_dir() and not (path / DATABASE).is_file():
            self.say_error(
                tr("{path} is a folder without a project. Give a project folder or a media file.", path=path)
            )
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
            self.say_error(dialog.problem)

    def open_project(self, folder: Path) -> None:
        """Put a project on the desk."""
        from zweistimme.store.document import Document

        if self.view is not None and self.view.desk.document.folder.resolve() == folder.resolve():
            self.view.desk.notice("note", tr("This project is on the desk already."))
            return
        try:
            document = Document.open(folder)
        except ZweistimmeError as error:
            self.say_error(str(error))
            return
        self._show(document).desk.notice_findings(document.repairs, "warning")

    def ask_new(self, media: Path) -> None:
        """Ask what a new project needs, then make it."""
        from zweistimme.window.new_project import NewProjectDialog

        try:
            dialog = NewProjectDialog(media, self)
        except ZweistimmeError as error:
            self.say_error(str(error))
            return
        if dialog.exec() and dialog.answer is not None:
            self.make_project(dialog.answer)

    def make_project(self, wanted: NewProject, title: str = "") -> None:
        """Make a project and bring in its programme as its first job."""
        from zweistimme.window.new_project import begun_document

        try:
            document = begun_document(wanted, title)
        except ZweistimmeError as error:
            self.say_error(str(error))
            return
        view = self._show(document)
        view.programme.bring_in(wanted.intake)

    def open_demo(self) -> None:
        """A new project with the demo programme in it."""
        from zweistimme.window.new_project import demo_wanted

        wanted, title = demo_wanted()
        self.make_project(wanted, title)

    def _show(self, document: Document) -> DeskView:
        from zweistimme.window.bridge import Desk
        from zweistimme.window.desk_view import DeskView

        self.close_project()
        remember(document.folder)
        self.view = DeskView(Desk(document))
        self.view.welcome_to(self.actions_by_id)
        self.view.pages.shown.connect(self._enable_on)
        self.view.desk.jobs.ended.connect(lambda run: tell_of_run(self, run))
        self.view.desk.jobs.ended.connect(lambda _run: self.outfit.catch_up())
        self.view.desk.changed.connect(lambda _change: self._name_steps())
        self.view.menu_wanted.connect(lambda kind, at: self.menus.offer(kind, at, self))
        self._enable_on("Score")
        self._stack.addWidget(self.view)
        self._stack.setCurrentWidget(self.view)
        self.setWindowTitle(f"{document.project.title} – Zweistimme")
        bring_back(self.view, self.remembered)
        if self.view.pages.current == "Score":
            self.view.page.take_keyboard()
        self.view.desk.recover_writing()
        gc.freeze()  # a project's own data holds no cycles: the collector need not walk through it every time
        return self.view

    def close_project(self) -> None:
        """Back to the welcome page; everything is stored already."""
        view, self.view = self.view, None
        if view is None:
            return
        remember_desk(view, self.remembered)
        view.close_parts()
        gc.unfreeze()
        self._stack.setCurrentWidget(self.welcome)
        self._stack.removeWidget(view)
        view.deleteLater()
        self._enable_on("")
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
        geometry = self.saveGeometry().toBase64().data().decode()
        self.remembered.geometry = geometry
        write_remembered(self.remembered)
        super().closeEvent(event)
