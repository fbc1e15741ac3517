"""Side by side for these hands: a folder or a book chosen, planned on all cores, ranked as a picture, a tune opened from it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from dromic.app.collection.ranked_list import RankedList
from dromic.app.kit.theme import Theme
from dromic.app.kit.worker import Worker
from dromic.collection import Wanted, placed, rank, rank_phrases, tunes_of
from dromic.core.editing.variants import VARIANTS, variants_of
from dromic.core.music.phrase import Phrase
from dromic.core.reports.comparison import NUMBERED
from dromic.core.reports.ranking import Ranked, ranking, summary_words
from dromic.core.values.progress import Progress
from dromic.store.folders import ranking_file

_SIZE = (900, 640)
"""Width and height of the dialog, px."""
_LOOK_MS = 100
"""How often it is looked how far the ranking is, ms."""
_THOUSAND = 1000
"""Parts that the bar of progress counts in."""
_BY = (
    ("The fastest first", "ceiling"),
    ("The least work first", "work"),
    ("What asks for least first", "needs"),
    *((measure.label.split(",")[0], name) for name, measure in NUMBERED.items() if name != "ceiling"),
)
BOOK = "book"
_OF = (
    ("Of this phrase, or book…", ""),
    ("The phrases of this songbook", BOOK),
    *((w, k) for k, (w, _) in VARIANTS.items()),
)


class RankingDialog(QDialog):
    """Asks `wanted` for the hands and choices of the moment; what it ranks is kept, and taken up again where it stopped."""

    open_asked = pyqtSignal(object, int)
    """a file, and the number of a tune in it"""
    page_asked = pyqtSignal(int)
    """a phrase of the open songbook, counted from 0"""
    phrase_asked = pyqtSignal(object)
    """a part or a moved shape, as a phrase of its own"""

    def __init__(
        self,
        wanted: Callable[[float | None], Wanted],
        theme: Theme,
        kept: Path | None = None,
        phrases: Sequence[Phrase] = (),
        open_at: int = 0,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Side by side for these hands")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(*_SIZE)
        self.wanted, self.kept = wanted, kept or ranking_file()
        self.place: Path | None = None
        self.phrases, self.open_at = tuple(phrases), open_at
        self.kind = ""
        """what is ranked of the open songbook; empty where it is a place on disk"""
        self.named: list[tuple[str, Phrase]] = []
        self.asked: float | None = None
        """the tempo that what is shown was ranked for"""
        self.found: list[Ranked] = []
        self.folder, self.book, self.cancel = (
            QPushButton("A folder…"),
            QPushButton("A book of tunes…"),
            QPushButton("Stop"),
        )
        self.of = QComboBox()
        self.tempo, self.by, self.list = QSpinBox(), QComboBox(), RankedList()
        self.told, self.bar = (
            QLabel("Choose a folder or a book of tunes: every tune in it is planned for your hands."),
            QProgressBar(),
        )
        self.list.set_theme(theme)
        self.tempo.setRange(0, 500)
        self.tempo.setSpecialValueText("each at its own tempo")
        self.tempo.setPrefix("at ")
        self.tempo.setAccessibleName("the tempo asked for")
        for words, value in _BY:
            self.by.addItem(words, value)
        self.by.setAccessibleName("what is ranked by")
        for words, value in _OF:
            self.of.addItem(words, value)
        self.of.setAccessibleName("what of the open songbook is set side by side")
        self.of.setEnabled(any(phrase.events for phrase in self.phrases))
        self.bar.setRange(0, _THOUSAND)
        self.bar.setTextVisible(False)
        self.told.setWordWrap(True)
        self.told.setObjectName("section")
        top = QHBoxLayout()
        for widget in (self.folder, self.book, self.of, self.tempo, self.by):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.cancel)
        whole = QVBoxLayout(self)
        whole.addLayout(top)
        whole.addWidget(self.bar)
        whole.addWidget(self.told)
        whole.addWidget(self.list, 1)
        self.worker = Worker(self)
        self.worker.answered.connect(self._ranked)
        self.worker.refused.connect(self._refused)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(lambda: self.bar.setValue(round(_THOUSAND * self.worker.share)))
        self.folder.clicked.connect(self._ask_folder)
        self.book.clicked.connect(self._ask_book)
        self.cancel.clicked.connect(self._stop)
        self.of.activated.connect(lambda _: self.rank_of(self.of.currentData()))
        self.tempo.editingFinished.connect(lambda: self._again() if self.target != self.asked else None)
        self.by.currentIndexChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self._open())
        self.finished.connect(lambda _: self.close_down())
        self._working(False)

    def rank_place(self, place: Path) -> None:
        """Rank what lies there."""
        self.place, self.kind = place, ""
        self.of.setCurrentIndex(0)
        self._again()

    def rank_of(self, kind: str) -> None:
        """Rank the phrases of the open songbook, or the parts or other places of the phrase that stands open."""
        if kind:
            self.place, self.kind = None, kind
            self.of.setCurrentIndex(self.of.findData(kind))
            self._again()

    def close_down(self) -> None:
        """The dialog closes; what was ranked is kept."""
        self._timer.stop()
        self.worker.close()

    @property
    def target(self) -> float | None:
        """The tempo asked for; None for each tune's own."""
        return float(self.tempo.value()) or None

    def _ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "A folder of tunes")
        if name:
            self.rank_place(Path(name))

    def _ask_book(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A book of tunes")
        if name:
            self.rank_place(Path(name))

    def _again(self) -> None:
        place, kind = self.place, self.kind
        if place is None and not kind:
            return
        self.asked = self.target
        wanted, kept = self.wanted(self.asked), self.kept

        def job(progress: Progress) -> tuple[list[Ranked], list[tuple[str, Phrase]]]:
            if place is not None:
                return rank(tunes_of(place), wanted, kept, progress), []
            named = self._named(kind, wanted)
            return rank_phrases(named, wanted, progress), named

        self.told.setText(f"Planning {place.name}…" if place is not None else "Planning…")
        self._working(True)
        self.worker.start(job)

    def _named(self, kind: str, wanted: Wanted) -> list[tuple[str, Phrase]]:
        """What is to be ranked, each with its name; asked from the worker."""
        if kind == BOOK:
            return [(phrase.title, phrase) for phrase in self.phrases if phrase.events]
        phrase, instrument = placed(self.phrases[self.open_at], wanted)
        return variants_of(phrase, kind, instrument)

    def _working(self, on: bool) -> None:
        self.bar.setVisible(on)
        self.cancel.setVisible(on)
        self._timer.start() if on else self._timer.stop()

    def _stop(self) -> None:
        self.worker.cancel()
        self._working(False)
        self.told.setText("Stopped. What is planned already is kept: choose it again to go on.")

    def _ranked(self, found: object) -> None:
        assert isinstance(found, tuple)
        self.found, self.named = found
        self._working(False)
        self._show()

    def _refused(self, sentence: str) -> None:
        self._working(False)
        self.told.setText(sentence)

    def _show(self) -> None:
        if self.found:
            takes = "opens a tune" if not self.kind or self.kind == BOOK else "adds one to the songbook"
            self.told.setText(f"{summary_words(self.found, self.asked)}. Ceilings are estimates; Enter {takes}.")
            by = self.by.currentData()
            self.list.show_tunes(ranking(self.found, by), self.asked, NUMBERED.get(by))

    def _open(self) -> None:
        item = self.list.currentItem()
        one = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if isinstance(one, Ranked):
            if not self.kind:
                self.open_asked.emit(Path(one.file), one.tune)
            elif self.kind == BOOK:
                pages = [n for n, phrase in enumerate(self.phrases) if phrase.events]
                self.page_asked.emit(pages[one.tune - 1])
            else:
                self.phrase_asked.emit(self.named[one.tune - 1][1])
            self.accept()
