"""The guide, opened in a window of its own: docs/guide.md with its pictures, which are packed with the data."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImageReader, QTextCursor, QTextDocument
from PyQt6.QtWidgets import QDialog, QTextBrowser, QVBoxLayout, QWidget

from dromic.presets import DATA

GUIDE = DATA / "guide" / "guide.md"
_SIZE = (820, 680)
"""Width and height of the guide's window, px."""
_MARGIN = 24
"""Room around its text, px."""
_APART = 8
"""Room over and under its paragraphs, px."""
MOST_WIDE = 720
"""px of a picture"""
_MISSING = "# The guide is not here\n\nThis copy of Dromic came without it; installing Dromic again brings it back."


class Guide(QDialog):
    """Reads the file when it is opened."""

    def __init__(self, path: Path = GUIDE, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("The first five minutes")
        self.resize(*_SIZE)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.page = QTextBrowser()
        self.page.setAccessibleName("guide")
        self.page.setOpenLinks(False)
        self.page.anchorClicked.connect(self._follow)
        self.path = path
        self.page.setSearchPaths([str(path.parent)])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.page)
        self._show(path)

    def _follow(self, url: QUrl) -> None:
        """A link: a place on this page, another page, or a picture with the way back under it."""
        name = url.path()
        if not name:
            self.page.scrollToAnchor(url.fragment())
        elif name.endswith(".md"):
            self._show(self.path.parent / name)
        else:
            self._show(self.path, f"![]({name})\n\n[Back to the guide]({self.path.name})\n")

    def _show(self, path: Path, text: str = "") -> None:
        try:
            text = text or path.read_text("utf-8")
        except OSError:
            text = _MISSING
        document = self.page.document()
        assert document is not None
        document.setBaseUrl(QUrl.fromLocalFile(f"{path.parent}/"))
        self.page.setMarkdown(text)
        document.setDocumentMargin(_MARGIN)
        _fit_pictures(document, path.parent)


def open_guide(window: QWidget) -> Guide:
    """The guide of a window: the one that stands open, or a new one."""
    guide = window.findChild(Guide) or Guide(parent=window)
    guide.show()
    guide.activateWindow()
    return guide


def _fit_pictures(document: QTextDocument, folder: Path) -> None:
    """Pictures no wider than the page, and room between paragraphs."""
    block = document.begin()
    while block.isValid():
        cursor, apart = QTextCursor(block), block.blockFormat()
        apart.setTopMargin(_APART)
        apart.setBottomMargin(_APART)
        cursor.setBlockFormat(apart)
        part = block.begin()
        while not part.atEnd():
            fragment = part.fragment()
            shape = fragment.charFormat().toImageFormat()
            if shape.isValid():
                own = QImageReader(str(folder / shape.name())).size().width()
                shape.setWidth(min(MOST_WIDE, own) if own > 0 else MOST_WIDE)
                cursor = QTextCursor(document)
                cursor.setPosition(fragment.position())
                cursor.setPosition(fragment.position() + fragment.length(), QTextCursor.MoveMode.KeepAnchor)
                cursor.setCharFormat(shape)
            part += 1
        block = block.next()
