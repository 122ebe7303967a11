"""The manual inside the window: opened where one is, and searched."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from typing import Final

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from zweistimme.messages import language, tr
from zweistimme.window.desk_view import DeskView
from zweistimme.window.theme import px

PAGES: Final = ("desk", "transcript", "translation", "voices", "fit-and-mix")
_FOLDER: Final = Path(__file__).parent / "manual"
_PLACES: Final = {
    "Score": ("desk", "The Score"),
    "Speakers": ("transcript", "Speakers"),
    "Cast": ("voices", "The voice map"),
    "Fit": ("fit-and-mix", "The whole fit"),
    "Mix": ("fit-and-mix", "The mix"),
    "Hand-over": ("desk", "Hand-over"),
    "Engines": ("desk", "Engines"),
    "Cut anew": ("transcript", "One segment or two"),
    "Find and replace": ("transcript", "Words"),
    "Have the speech recognised": ("transcript", "Four ways to begin"),
    "Record": ("transcript", "Recording"),
    "Choose what fits": ("translation", "Wordings on offer"),
    "Takes heard back": ("voices", "Takes heard back"),
    "How words are said": ("voices", "How words are said"),
    "Directions proposed": ("voices", "Directions from the original"),
    "Said back": ("translation", "Without knowing the language"),
    "Take back a version": ("translation", "Others look it over"),
    "Search the translation memory": ("translation", "The memory"),
    "What was said": ("desk", "What runs"),
}
"""Where it is written of what one sees: by page or panel, the page of the manual and the heading in English."""
_PICTURE: Final = re.compile(r"^!\[.*\]\(.*\)\n", re.MULTILINE)
_PLACE: Final = Qt.ItemDataRole.UserRole


@lru_cache(maxsize=8)
def manual_text(page: str, tag: str) -> str:
    """A page of the manual as Markdown; in English where there is none in a language."""
    path = _FOLDER / tag / f"{page}.md"
    text = (path if path.is_file() else _FOLDER / "en" / f"{page}.md").read_text(encoding="utf-8")
    return _PICTURE.sub("", text)  # what they show is on the desk


def headings(text: str) -> list[str]:
    """The headings of a page, in order.

    >>> headings("# One\\n\\ntext\\n\\n## Two\\n")
    ['One', 'Two']
    """
    return [section.splitlines()[0].lstrip("#").strip() for section in _sections(text)]


def place_of(view: DeskView | None) -> tuple[str, int]:
    """What to show to somebody who asks for the manual: the page, and which of its headings. The same headings stand
    in the same order in every language."""
    if view is None:
        return "desk", 0
    seen = view.pages.current
    page, title = _PLACES.get((seen == "Score" and view.page.drawer.shown) or seen, ("desk", ""))
    if seen == "Score" and not view.desk.project.segments:
        page, title = "transcript", "Four ways to begin"
    titles = headings(manual_text(page, "en"))
    return page, titles.index(title) if title in titles else 0


class Manual(QDialog):
    """Headings at the left, the text at the right; what is typed shows the headings below which it stands, and Return
    goes from one place to the next."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Manual"))
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Search"))
        self.search.setAccessibleName(tr("Search"))
        self.search.textChanged.connect(self._narrow)
        self.search.returnPressed.connect(self.find_next)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Headings"))
        self.list.setMaximumWidth(px(250))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._follow)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._link)
        self.text.setAccessibleName(tr("Manual"))
        self.said = QLabel()
        self._page = ""
        self._sections: list[str] = []
        """The text below each heading, of all pages."""
        left = QVBoxLayout()
        for widget in (self.search, self.list, self.said):
            left.addWidget(widget)
        row = QHBoxLayout(self)
        row.addLayout(left)
        row.addWidget(self.text, 1)
        self.resize(px(960), px(680))
        self._fill()

    def _fill(self) -> None:
        for page in PAGES:
            text = manual_text(page, language())
            for number, section in enumerate(_sections(text)):
                title = headings(section)[0]
                item = QListWidgetItem(title if number == 0 else f"    {title}")
                item.setData(_PLACE, (page, number))
                self.list.addItem(item)
                self._sections.append(section.casefold())

    def show_place(self, page: str, heading: int) -> None:
        """Go to a heading of a page."""
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None and item.data(_PLACE) == (page, heading):
                self.list.setCurrentRow(row)
                self._go(page, heading)

    def _follow(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._go(*item.data(_PLACE))

    def _go(self, page: str, heading: int) -> None:
        if page != self._page:
            self._page = page
            self.text.setMarkdown(manual_text(page, language()))
        document = self.text.document()
        assert document is not None
        document.setDocumentMargin(px(14))
        found, block = -1, document.begin()
        while block.isValid():
            found += block.blockFormat().headingLevel() > 0
            if found == heading and block.blockFormat().headingLevel() > 0:
                self.text.setTextCursor(QTextCursor(block))
                layout, bar = document.documentLayout(), self.text.verticalScrollBar()
                assert layout is not None
                assert bar is not None
                bar.setValue(round(layout.blockBoundingRect(block).top()) - px(6))
                return
            block = block.next()

    def _narrow(self, words: str) -> None:
        wanted = words.casefold().split()
        shown = 0
        for row, section in enumerate(self._sections):
            item = self.list.item(row)
            meant = all(word in section for word in wanted)
            shown += meant
            if item is not None:
                item.setHidden(not meant)
        self.said.setText("" if shown else tr("Found nowhere."))

    def find_next(self) -> None:
        """Go to the next place that has what is typed, from page to page and from the end to the beginning."""
        words = self.search.text().strip()
        if not words or self.text.find(words):
            return
        pages = [page for page in (*PAGES[PAGES.index(self._page) + 1 :], *PAGES) if self._has(page, words)]
        if pages:
            self._page = pages[0]
            self.text.setMarkdown(manual_text(self._page, language()))
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            self.text.find(words, QTextDocument.FindFlag(0))

    @staticmethod
    def _has(page: str, words: str) -> bool:
        return words.casefold() in manual_text(page, language()).casefold()

    def _link(self, url: QUrl) -> None:
        page, file = Path(url.path()).stem, (_FOLDER / "en" / url.path()).resolve()
        if page in PAGES:
            self.show_place(page, 0)
        elif url.scheme() or file.is_file():
            QDesktopServices.openUrl(url if url.scheme() else QUrl.fromLocalFile(str(file)))
        else:
            self.said.setText(tr("{file} comes with the source of the desk.", file=file.name))


def _sections(text: str) -> list[str]:
    """A page cut before each of its headings."""
    found: list[list[str]] = []
    fenced = False
    for line in text.splitlines():
        fenced ^= line.startswith("```")
        if line.startswith("#") and not fenced:
            found.append([])
        if found:
            found[-1].append(line)
    return ["\n".join(lines) for lines in found]
