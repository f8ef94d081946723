"""The handbook beside the window: its questions with a search, and the page that is read."""

from __future__ import annotations

from PyQt6.QtCore import QUrl, pyqtSignal
from PyQt6.QtGui import QFont, QKeySequence, QShortcut, QTextBlock, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QTextBrowser, QVBoxLayout, QWidget

from wise_cellar.handbook import HandbookPage, folder, glossary, page, pages
from wise_cellar.ui.shell.finder import Findable, matching
from wise_cellar.ui.theme import dress, font
from wise_cellar.ui.widgets.search_line import SearchLine

WIDTH, HEIGHT, LIST = 960, 660, 270
MARGIN, PARAGRAPH = 16, 9
ENDING = ".md"


class HandbookWindow(QDialog):
    """Stays open beside the work; ``keys_wanted`` says that F1 was pressed in it as well."""

    keys_wanted = pyqtSignal()

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner)
        self.setWindowTitle("Handbook")
        self.resize(WIDTH, HEIGHT)
        dress(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 12, 12, 12)
        row.setSpacing(12)
        side = QVBoxLayout()
        self.search = SearchLine()
        self.search.setPlaceholderText("Search the handbook")
        self.search.setAccessibleName("Search the handbook")
        self.search.textChanged.connect(self._filter)
        self.search.returnPressed.connect(self._first)
        side.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("Questions")
        self.list.setFixedWidth(LIST)
        self.list.setWordWrap(True)
        self.list.setFont(font(13))
        self.list.currentRowChanged.connect(self._chosen)
        side.addWidget(self.list, 1)
        row.addLayout(side)
        self.browser = QTextBrowser()
        self.browser.setFont(font(15))
        self.browser.setOpenLinks(False)
        self.browser.setSearchPaths([str(folder())])
        self.browser.setAccessibleName("Page")
        self.browser.anchorClicked.connect(self._follow)
        row.addWidget(self.browser, 1)
        QShortcut(QKeySequence("F1"), self, self.keys_wanted.emit)
        self._listed: list[HandbookPage] = []
        self.shown: HandbookPage | None = None
        self._filter("")

    def show_page(self, name: str, word: str = "") -> None:
        """Show a page, and a word of it; raises ``KeyError`` where there is none."""
        shown = page(name)
        if self.search.text() and shown not in self._listed:
            self.search.clear()
        self.shown = shown
        self.browser.setMarkdown(shown.text)
        _set_type(self.browser)
        if shown in self._listed:
            self.list.setCurrentRow(self._listed.index(shown))
        if word:
            self.browser.find(word)
        self.show()
        self.raise_()
        self.activateWindow()

    def _filter(self, typed: str) -> None:
        """Questions that fit what was typed, in the text of their pages too."""
        things = [Findable("page", one.title, "", lambda: None, f"{one.words} {one.text}") for one in pages()]
        found = matching(things, typed)
        self._listed = [pages()[things.index(thing)] for thing in found]
        self.list.blockSignals(True)
        self.list.clear()
        for one in self._listed:
            self.list.addItem(QListWidgetItem(one.title))
        if self.shown in self._listed:
            self.list.setCurrentRow(self._listed.index(self.shown))
        self.list.blockSignals(False)

    def _first(self) -> None:
        if self._listed:
            self.show_page(self._listed[0].name)

    def _chosen(self, row: int) -> None:
        if 0 <= row < len(self._listed) and self._listed[row] is not self.shown:
            self.show_page(self._listed[row].name)

    def _follow(self, link: QUrl) -> None:
        """To another page; nothing outside is opened."""
        name = link.toString().removesuffix(ENDING)
        if name in {one.name for one in pages()}:
            self.show_page(name)


def _set_type(browser: QTextBrowser) -> None:
    """Room between paragraphs, a title in our size, and the weight that our typeface has for strong words."""
    document = browser.document()
    assert document is not None, "a browser has a document"
    document.setDocumentMargin(MARGIN)
    block = document.begin()
    while block.isValid():
        cursor = QTextCursor(block)
        laid = cursor.blockFormat()
        laid.setBottomMargin(PARAGRAPH)
        title = laid.headingLevel() > 0
        cursor.setBlockFormat(laid)
        cursor.movePosition(QTextCursor.MoveOperation.EndOfBlock, QTextCursor.MoveMode.KeepAnchor)
        if title:
            looks = QTextCharFormat()
            looks.setFont(font(22, strong=True))
            cursor.mergeCharFormat(looks)
        else:
            _soften(block)
        block = block.next()


def _soften(block: QTextBlock) -> None:
    """Strong words of a paragraph in the heavier face that is shipped, not in one that is made up."""
    strong = QTextCharFormat()
    strong.setFontWeight(font(15, strong=True).weight())
    found = []
    step = block.begin()
    while not step.atEnd():
        part = step.fragment()
        if part.charFormat().fontWeight() > QFont.Weight.Normal.value:
            found.append((part.position(), part.length()))
        step += 1
    for start, length in found:
        cursor = QTextCursor(block)
        cursor.setPosition(start)
        cursor.setPosition(start + length, QTextCursor.MoveMode.KeepAnchor)
        cursor.mergeCharFormat(strong)


def handbook_findables(show: object) -> list[Findable]:
    """Its questions and words, for Find; ``show`` is given the page and the word."""
    assert callable(show)
    found = [
        Findable("handbook", one.title, "", lambda name=one.name: show(name, ""), one.words)  # type: ignore[misc]
        for one in pages()
    ]
    return found + [
        Findable("word", word, says, lambda word=word: show("glossary", word))  # type: ignore[misc]
        for word, says in glossary().items()
    ]
