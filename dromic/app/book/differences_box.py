"""What differs between two phrases of the songbook, asked and told."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import combinations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog, QMessageBox, QWidget

from dromic.app.book.open_book import OpenBook
from dromic.core.editing.differences import differences, parts_differ
from dromic.core.music.phrase import Phrase, Section

MOST_DIFFERENCES = 20
"""lines shown at once; the rest are a click away"""


def ask_differences(open_book: OpenBook, window: QWidget, say: Callable[[str], None]) -> QMessageBox | None:
    """Ask for another phrase of the book and tell what differs."""
    titles = open_book.book.titles
    pairs: dict[str, Callable[[], QMessageBox]] = {
        f"{n + 1}. {title}": partial(show_differences, open_book, window, n)
        for n, title in enumerate(titles) if n != open_book.index
    }  # fmt: skip
    for one, other in combinations(open_book.phrase.sections, 2):
        pairs[f"{one.name} against {other.name}"] = partial(show_parts_differ, open_book.phrase, one, other, window)
    if not pairs:
        say("The songbook holds only this phrase, and it has no two parts; add one to compare it with")
        return None
    chosen, sure = QInputDialog.getItem(window, "What differs", "Compare this phrase with, or", list(pairs), 0, False)
    return pairs[chosen]() if sure else None


def show_parts_differ(phrase: Phrase, one: Section, other: Section, window: QWidget) -> QMessageBox:
    """The differences between two parts of a phrase, in a list."""
    found = parts_differ(phrase, (one.first, one.last), (other.first, other.last))
    return _box(window, f"{one.name} against {other.name}", found)


def show_differences(open_book: OpenBook, window: QWidget, index: int) -> QMessageBox:
    """The differences from a phrase of the book, in a list."""
    phrase, other = open_book.phrase, open_book.book.phrases[index]
    return _box(
        window,
        f"\N{LEFT DOUBLE QUOTATION MARK}{phrase.title}\N{RIGHT DOUBLE QUOTATION MARK} against "
        f"\N{LEFT DOUBLE QUOTATION MARK}{other.title}\N{RIGHT DOUBLE QUOTATION MARK}",
        differences(phrase, other),
    )


def _box(window: QWidget, what: str, found: list[str]) -> QMessageBox:
    box = QMessageBox(QMessageBox.Icon.NoIcon, "What differs", "", QMessageBox.StandardButton.Close, window)
    box.setText(f"{what}: {len(found)} {'difference' if len(found) == 1 else 'differences'}")
    box.setInformativeText("\n".join(found[:MOST_DIFFERENCES]) or "They are the same.")
    if len(found) > MOST_DIFFERENCES:
        box.setDetailedText("\n".join(found))
    box.setModal(False)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    box.open()
    return box
