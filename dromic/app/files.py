"""Opening, saving and keeping aside: everything between the session and the disk, and what the player is asked."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from dromic.app.session import DOCUMENT, Opened, Session, open_leftover, open_path
from dromic.app.worker import Worker
from dromic.core.errors import DromicError
from dromic.core.planner import Progress
from dromic.formats.document import songbook_bytes
from dromic.formats.table import FORMATS, readable
from dromic.store.recovery import Leftover, Slot, leftovers
from dromic.store.saving import save

MOST_RECENT = 8
KEEP_ASIDE_MS = 3000
"""how long after a change unsaved work is kept aside"""


class Files(QObject):
    """Reads on a thread of its own, writes whole files, asks before anything is lost."""

    noticed = pyqtSignal(str, bool)
    recent_changed = pyqtSignal()

    def __init__(self, session: Session, settings: QSettings, recovery: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.settings, self.folder = session, settings, recovery
        self.window = parent
        self.reader = Worker(self)
        self.reader.answered.connect(self._was_read)
        self.reader.refused.connect(lambda sentence: self.noticed.emit(sentence, False))
        self._slot: Slot | None = None
        self._aside = QTimer(self)
        self._aside.setSingleShot(True)
        self._aside.setInterval(KEEP_ASIDE_MS)
        self._aside.timeout.connect(self.keep_aside)
        session.phrase_changed.connect(self._changed)
        session.opened.connect(self._changed)

    # reading

    def ask_open(self) -> None:
        """The open dialog, its filters from the table of file kinds."""
        every = " ".join(f"*{e}" for e in readable())
        kinds = [f"{f.label} ({' '.join('*' + e for e in f.extensions)})" for f in FORMATS if f.read]
        folder = str(self.settings.value("folder", ""))
        name, _ = QFileDialog.getOpenFileName(
            self.window, "Open a phrase", folder, ";;".join([f"All of these ({every})", *kinds])
        )
        if name:
            self.settings.setValue("folder", str(Path(name).parent))
            self.open(Path(name))

    def open(self, path: Path, tune: int = 1) -> None:
        """Read a file; the phrase on screen stays until it is read. Asks about unsaved work first."""
        if self.settled():
            self.reader.start(lambda progress: open_path(path, tune))

    def recover(self, left: Leftover) -> None:
        """Open what a lost window left; it is kept until it is saved."""
        if not self.settled():
            return

        def job(progress: Progress) -> tuple[Opened, Leftover]:
            return open_leftover(left), left

        self.reader.start(job)

    def _was_read(self, answer: object) -> None:
        if isinstance(answer, tuple):
            opened, left = answer
            self.session.take(opened)
            self.keep_aside()
            left.forget()
            self.noticed.emit("This is work that was not saved; save it to keep it", True)
        else:
            assert isinstance(answer, Opened)
            self.session.take(answer)
            if answer.path is not None:
                self._remember(answer.path)

    def leftovers(self) -> list[Leftover]:
        return leftovers(self.folder)

    @property
    def recent(self) -> list[Path]:
        names = self.settings.value("recent", [])
        return [Path(n) for n in names if Path(n).exists()] if isinstance(names, list) else []

    def _remember(self, path: Path) -> None:
        path = path.resolve()
        kept = [path, *(p for p in self.recent if p != path)][:MOST_RECENT]
        self.settings.setValue("recent", [str(p) for p in kept])
        self.recent_changed.emit()

    # writing

    def save(self) -> bool:
        """Save to the songbook's own file, or ask for one; whether it is saved."""
        path = self.session.path
        return self.save_to(path) if path is not None else self.ask_save()

    def ask_save(self) -> bool:
        folder = str(self.settings.value("folder", ""))
        source = self.session.source.path if self.session.source else None
        offer = (
            source.parent if source else Path(folder)
        ) / f"{source.stem if source else self.session.book.title}{DOCUMENT}"
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Save the songbook", str(offer), f"Dromic songbook (*{DOCUMENT})"
        )
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix.lower() == DOCUMENT else path.with_name(path.name + DOCUMENT))

    def save_to(self, path: Path) -> bool:
        try:
            save(path, songbook_bytes(self.session.book))
        except DromicError as error:
            # the work is safe aside whatever the disk says
            self.keep_aside()
            self.noticed.emit(str(error), False)
            return False
        self.settings.setValue("folder", str(path.parent))
        self.session.was_saved(path)
        self._let_go()
        self._remember(path)
        self.noticed.emit(f"Saved {path.name}", True)
        return True

    def settled(self) -> bool:
        """Whether unsaved work is saved or may go; asks the player."""
        if not self.session.unsaved:
            return True
        answer = self.ask_unsaved()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

    def ask_unsaved(self) -> QMessageBox.StandardButton:
        buttons = QMessageBox.StandardButton
        return QMessageBox.question(
            self.window,
            "Unsaved changes",
            f"{self.session.name} has changes that are not saved. Save them?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )

    # keeping aside

    def _changed(self) -> None:
        if self.session.unsaved:
            self._aside.start()
        else:
            self._let_go()

    def keep_aside(self) -> None:
        """Put a copy of unsaved work where the next start finds it, should this one be lost."""
        if not self.session.unsaved:
            return
        try:
            if self._slot is None:
                self._slot = Slot(self.folder)
            self._slot.keep(songbook_bytes(self.session.book), self.session.path)
        except (DromicError, OSError) as error:
            self.noticed.emit(f"Unsaved work cannot be kept aside ({error}); save it yourself", False)

    def _let_go(self) -> None:
        self._aside.stop()
        if self._slot is not None:
            self._slot.clear()

    def close(self) -> None:
        """The window closes in good order."""
        self.reader.close()
        self._aside.stop()
        if self._slot is not None:
            self._slot.close()
            self._slot = None
