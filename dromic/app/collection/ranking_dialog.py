"""A collection for these hands: a folder or a book chosen, planned on all cores, ranked as a picture, a tune opened from it."""

from __future__ import annotations

from collections.abc import Callable
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
from dromic.collection import Wanted, rank, tunes_of
from dromic.core.reports.ranking import Ranked, ranking, summary_words
from dromic.core.values.progress import Progress
from dromic.store.folders import ranking_file

_SIZE, _LOOK_MS, _THOUSAND = (900, 640), 100, 1000
_BY = (("The fastest first", "ceiling"), ("The least work first", "work"), ("What asks for least first", "needs"))


class RankingDialog(QDialog):
    """Asks `wanted` for the hands and choices of the moment; what it ranks is kept, and taken up again where it stopped."""

    open_asked = pyqtSignal(object, int)
    """a file, and the number of a tune in it"""

    def __init__(
        self,
        wanted: Callable[[float | None], Wanted],
        theme: Theme,
        kept: Path | None = None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("A collection for these hands")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(*_SIZE)
        self.wanted, self.kept = wanted, kept or ranking_file()
        self.place: Path | None = None
        self.asked: float | None = None
        """the tempo that what is shown was ranked for"""
        self.found: list[Ranked] = []
        self.folder, self.book, self.cancel = (
            QPushButton("A folder…"),
            QPushButton("A book of tunes…"),
            QPushButton("Stop"),
        )
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
        self.bar.setRange(0, _THOUSAND)
        self.bar.setTextVisible(False)
        self.told.setWordWrap(True)
        self.told.setObjectName("section")
        top = QHBoxLayout()
        for widget in (self.folder, self.book, self.tempo, self.by):
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
        self.tempo.editingFinished.connect(lambda: self._again() if self.target != self.asked else None)
        self.by.currentIndexChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self._open())
        self.finished.connect(lambda _: self.close_down())
        self._working(False)

    def rank_place(self, place: Path) -> None:
        """Rank what lies there."""
        self.place = place
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
        place = self.place
        if place is None:
            return
        self.asked = self.target
        wanted, kept = self.wanted(self.asked), self.kept

        def job(progress: Progress) -> list[Ranked]:
            return rank(tunes_of(place), wanted, kept, progress)

        self.told.setText(f"Planning {place.name}…")
        self._working(True)
        self.worker.start(job)

    def _working(self, on: bool) -> None:
        self.bar.setVisible(on)
        self.cancel.setVisible(on)
        self._timer.start() if on else self._timer.stop()

    def _stop(self) -> None:
        self.worker.cancel()
        self._working(False)
        self.told.setText("Stopped. What is planned already is kept: choose it again to go on.")

    def _ranked(self, found: object) -> None:
        assert isinstance(found, list)
        self.found = found
        self._working(False)
        self._show()

    def _refused(self, sentence: str) -> None:
        self._working(False)
        self.told.setText(sentence)

    def _show(self) -> None:
        if self.found:
            self.told.setText(f"{summary_words(self.found, self.asked)}. Ceilings are estimates; Enter opens a tune.")
            self.list.show_tunes(ranking(self.found, self.by.currentData()), self.asked)

    def _open(self) -> None:
        item = self.list.currentItem()
        one = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if isinstance(one, Ranked):
            self.open_asked.emit(Path(one.file), one.tune)
            self.accept()
