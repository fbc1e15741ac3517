"""What differs between two phrases of the songbook, asked and told."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import combinations

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QMessageBox, QWidget

from dromic.app.book.open_book import OpenBook
from dromic.app.kit.worker import Worker
from dromic.core.editing.differences import differences, parts_differ
from dromic.core.music.phrase import Section

MOST_DIFFERENCES = 20
"""lines shown at once; the rest are a click away"""


class Differences(QObject):
    """Asks for what to compare with, works it out off the interface's thread and shows it."""

    noticed = pyqtSignal(str, bool)

    def __init__(self, open_book: OpenBook, window: QWidget) -> None:
        super().__init__(window)
        self.open_book, self.window = open_book, window
        self.box: QMessageBox | None = None
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_worked_out)
        self.worker.refused.connect(lambda words: self.noticed.emit(words, False))

    def ask(self) -> None:
        """Ask for another phrase of the book, or two parts, and tell what differs."""
        pairs: dict[str, Callable[[], None]] = {
            f"{n + 1}. {title}": partial(self.from_phrase, n)
            for n, title in enumerate(self.open_book.book.titles) if n != self.open_book.index
        }  # fmt: skip
        for one, other in combinations(self.open_book.phrase.sections, 2):
            pairs[f"{one.name} against {other.name}"] = partial(self.between_parts, one, other)
        if not pairs:
            self.noticed.emit(
                "The songbook holds only this phrase, and it has no two parts; add one to compare it with", False
            )
            return
        chosen, sure = QInputDialog.getItem(
            self.window, "What differs", "Compare this phrase with, or", list(pairs), 0, False
        )
        if sure:
            pairs[chosen]()

    def between_parts(self, one: Section, other: Section) -> None:
        """The differences between two parts of the open phrase, in a list."""
        phrase, what = self.open_book.phrase, f"{one.name} against {other.name}"
        self.worker.start(lambda _: (what, parts_differ(phrase, (one.first, one.last), (other.first, other.last))))

    def from_phrase(self, index: int) -> None:
        """The differences from a phrase of the book, in a list."""
        phrase, other = self.open_book.phrase, self.open_book.book.phrases[index]
        what = (
            f"\N{LEFT DOUBLE QUOTATION MARK}{phrase.title}\N{RIGHT DOUBLE QUOTATION MARK} against "
            f"\N{LEFT DOUBLE QUOTATION MARK}{other.title}\N{RIGHT DOUBLE QUOTATION MARK}"
        )
        self.worker.start(lambda _: (what, differences(phrase, other)))

    def _was_worked_out(self, answer: object) -> None:
        assert isinstance(answer, tuple)
        self.box = _box(self.window, *answer)

    def close(self) -> None:
        """The window closes."""
        self.worker.close()


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
