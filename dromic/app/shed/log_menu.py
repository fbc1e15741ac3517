"""The log in and out of files: export, import, a safe copy."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from dromic.app.kit.worker import Worker
from dromic.store.log.exchange import read_passes, taken_words, write_passes

if TYPE_CHECKING:
    from dromic.app.book.claims import Claims
    from dromic.app.book.log_keeper import LogKeeper

_KINDS = "Passes, CSV (*.csv);;Passes, JSON (*.json)"


class LogMenu(QObject):
    """Asks where, then works off the interface's thread and says what came of it."""

    noticed = pyqtSignal(str, bool)
    changed = pyqtSignal()
    """passes came in"""

    def __init__(self, keeper: LogKeeper, window: QWidget) -> None:
        super().__init__(window)
        self.keeper, self.window = keeper, window
        self.menu = QMenu("Log", window)
        for words, act in (
            ("Export the log…", self.ask_export),
            ("Import passes…", self.ask_import),
            ("Back the log up…", self.ask_copy),
        ):
            entry = self.menu.addAction(words)
            assert entry is not None
            entry.triggered.connect(act)
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_done)
        self.worker.refused.connect(lambda words: self.noticed.emit(words, False))

    def offer(self, claims: Claims) -> None:
        """What stands under the title of the open phrase can be given to it, and put back."""
        self.menu.addSeparator()
        take, back = self.menu.addAction(""), self.menu.addAction("")
        assert take is not None and back is not None
        take.triggered.connect(claims.take)
        back.triggered.connect(claims.put_back)

        def show() -> None:
            contested, claimed = claims.contested.get(claims.name.id), claims.done.get(claims.name.id)
            take.setVisible(contested is not None)
            back.setVisible(claimed is not None)
            if contested is not None:
                take.setText(f"What stands under this title is of this phrase: {contested.words}")
            if claimed is not None:
                back.setText(f"Put {claimed.words} back under the title alone")

        show()
        self.menu.aboutToShow.connect(show)
        claims.changed.connect(self.changed)

    def ask_export(self) -> None:
        name, chosen = QFileDialog.getSaveFileName(self.window, "Export the log", "practice.csv", _KINDS)
        if name:
            path = Path(name)
            self.export(path if path.suffix else path.with_suffix(".json" if "JSON" in chosen else ".csv"))

    def export(self, path: Path) -> None:
        """Write every pass to a file."""

        def job(_progress: object) -> str:
            passes = self.keeper.settle().passes()
            write_passes(path, passes)
            return f"{len(passes)} passes written to {path.name}"

        self.worker.start(job)

    def ask_import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.window, "Import passes", "", "Passes (*.csv *.json)")
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Take the passes of a file into the log, those that are there already left out."""

        def job(_progress: object) -> str:
            found = read_passes(path)
            return taken_words(self.keeper.settle().take_in(found.passes), found)

        self.worker.start(job)

    def ask_copy(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self.window, "Back the log up", "practice-log.sqlite", "Log (*.sqlite)")
        if name:
            self.copy(Path(name))

    def copy(self, path: Path) -> None:
        """A safe copy of the whole log."""

        def job(_progress: object) -> str:
            self.keeper.settle().copy_to(path)
            return f"The log is copied to {path.name}"

        self.worker.start(job)

    def _was_done(self, words: object) -> None:
        self.noticed.emit(str(words), True)
        self.changed.emit()

    def stop(self) -> None:
        """The window closes."""
        self.worker.close()
