"""What differs between two phrases of the songbook, asked and told."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QInputDialog, QMessageBox, QWidget

from dromic.app.book.open_book import OpenBook
from dromic.core.music.differences import differences

MOST_DIFFERENCES = 20
"""lines shown at once; the rest are a click away"""


def ask_differences(open_book: OpenBook, window: QWidget, say: Callable[[str], None]) -> QMessageBox | None:
    """Ask for another phrase of the book and tell what differs."""
    others = [f"{n}. {t}" for n, t in enumerate(open_book.book.titles, start=1) if n != open_book.index + 1]
    if not others:
        say("The songbook holds only this phrase; add another to compare it with")
        return None
    chosen, sure = QInputDialog.getItem(window, "What differs", "Compare this phrase with", others, 0, False)
    return show_differences(open_book, window, int(chosen.split(".")[0]) - 1) if sure else None


def show_differences(open_book: OpenBook, window: QWidget, index: int) -> QMessageBox:
    """The differences from a phrase of the book, in a list."""
    phrase, other = open_book.phrase, open_book.book.phrases[index]
    found = differences(phrase, other)
    box = QMessageBox(QMessageBox.Icon.NoIcon, "What differs", "", QMessageBox.StandardButton.Close, window)
    box.setText(f"“{phrase.title}” against “{other.title}”: {len(found)} differences")
    box.setInformativeText("\n".join(found[:MOST_DIFFERENCES]) or "They are the same.")
    if len(found) > MOST_DIFFERENCES:
        box.setDetailedText("\n".join(found))
    box.setModal(False)
    box.open()
    return box
