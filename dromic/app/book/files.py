"""Opening, saving and keeping aside: everything between the open songbook and the disk, and what the player is asked."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QFileSystemWatcher, QObject, QSettings, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from dromic.app.book.open_book import DOCUMENT, OpenBook, Opened, open_leftover, open_path
from dromic.app.kit import stored
from dromic.app.kit.timers import once
from dromic.app.kit.worker import Worker
from dromic.core.music.songbook import Songbook
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.formats.document.document import read_songbook, songbook_bytes
from dromic.formats.table import FORMATS, readable
from dromic.store.recovery import Leftover, Slot, looked_through
from dromic.store.saving import clear_leftovers, save
from dromic.store.stamp import has_changed, stamp_after

KEEP_ASIDE_MS = 1500
"""how long after the first change not kept yet unsaved work is kept aside"""
LOOK_AGAIN_MS = 300
"""how long after a file has changed on disk it is looked at: who writes it may not be done"""
SAVE_AS, RELOAD, OVERWRITE, LEAVE = "Save as…", "Reload it", "Overwrite it", "Cancel"
Read = tuple[Opened, Leftover | None]


class Files(QObject):
    """Reads on a thread of its own, writes whole files, asks before anything is lost."""

    noticed = pyqtSignal(str, bool)
    saved = pyqtSignal(object)
    """the path of a songbook that has been saved"""
    refused = pyqtSignal()
    """a file was asked for and does not stand open"""

    def __init__(self, open_book: OpenBook, settings: QSettings, recovery: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.open_book, self.settings, self.folder = open_book, settings, recovery
        self.window = parent
        self.reader, self.keeper = Worker(self), Worker(self)
        self.reader.answered.connect(self._was_read)
        self.reader.refused.connect(self._was_refused)
        self.keeper.refused.connect(self._was_not_kept)
        self._slot: Slot | None = None
        self._making_slot = threading.Lock()
        self._kept_for = 0
        """changes whenever all is saved: what was to be kept before then is not wanted any more"""
        self._agreed: Songbook | None = None
        """the songbook whose loss the player has been asked about, if it was so"""
        self._aside = once(self, KEEP_ASIDE_MS, self._keep_beside)
        self._look = once(self, LOOK_AGAIN_MS, self._look_at_file)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(lambda _: self._look.start())
        self._watcher.directoryChanged.connect(lambda _: self._look.start())
        self.may_interrupt: Callable[[], bool] = lambda: True
        """whether what runs beside the songbook may end for another one; it asks the player"""
        self._told_of: Opened | None = None
        """the opened file of which it has been said that it changed on disk"""
        for signal in (open_book.phrase_changed, open_book.choices_changed, open_book.opened):
            signal.connect(self._changed)
        open_book.saved_changed.connect(self._watch)
        places = {self.folder, *(p.parent for p in self.recent)}
        self.keeper.start(lambda progress: [clear_leftovers(place) for place in places])

    # reading

    def ask_open(self) -> None:
        """The open dialog, its filters from the table of file kinds."""
        if not self.may_interrupt():
            return
        every = " ".join(f"*{e}" for e in readable())
        kinds = [f"{f.label} ({' '.join('*' + e for e in f.extensions)})" for f in FORMATS if f.read]
        name, _ = QFileDialog.getOpenFileName(
            self.window, "Open a phrase", stored.text(self.settings, "folder"), ";;".join([f"All of these ({every})", *kinds])
        )  # fmt: skip
        if name:
            self.settings.setValue("folder", str(Path(name).parent))
            self.open(Path(name))

    def open(self, path: Path, tune: int = 1) -> None:
        """Read a file; the phrase on screen stays until it is read. Asks about unsaved work first."""
        self._read(lambda progress: (open_path(path, tune, progress), None))

    def recover(self, left: Leftover) -> None:
        """Open what a lost window left; it is kept until it is saved."""
        self._read(lambda progress: (open_leftover(left), left))

    def open_book_of(self, data: bytes) -> None:
        """Open a songbook that has no file of its own, unsaved."""
        self._read(lambda progress: (Opened(None, read_songbook(data), unsaved=True), None))

    def _read(self, job: object) -> None:
        if self.may_interrupt() and self.may_discard():
            self._agreed = self.open_book.book
            self.reader.start(job)  # type: ignore[arg-type]
        else:
            self.refused.emit()

    def _was_read(self, answer: object) -> None:
        opened, left = cast("tuple[Opened, Leftover | None]", answer)
        # what was done while the file was read has not been asked about
        if self.open_book.book is not self._agreed and not self.may_discard():
            self.noticed.emit("Not opened: you went on working meanwhile, and that is not saved", True)
            self.refused.emit()
            return
        self.open_book.open(opened)
        if left is not None:
            if self.keep_aside():
                left.forget()
                self.noticed.emit("This is work that was not saved; save it to keep it", True)
        elif opened.path is not None:
            self._remember(opened.path)

    def _was_refused(self, sentence: str) -> None:
        self.noticed.emit(sentence, False)
        self.refused.emit()

    def leftovers(self) -> list[Leftover]:
        found, damaged = looked_through(self.folder)
        if damaged:
            self.noticed.emit(f"Copies of unsaved work in {self.folder} that cannot be read: {len(damaged)}", False)
        return found

    @property
    def recent(self) -> list[Path]:
        return stored.recent(self.settings)

    def _remember(self, path: Path) -> None:
        try:
            stored.remember(self.settings, path.resolve())
        except (OSError, RuntimeError):
            return

    # writing

    def save(self) -> bool:
        """Save to the songbook's own file, or ask for one; whether it is saved. A file that somebody else has changed
        meanwhile is not written over unasked."""
        path = self.open_book.path
        if path is None:
            return self.ask_save()
        if has_changed(path, self.open_book.stamp):
            answer = self.ask_changed(path)
            if answer == RELOAD:
                self.reload()
            if answer != OVERWRITE:
                return self.ask_save() if answer == SAVE_AS else False
        return self.save_to(path)

    def reload(self) -> None:
        """Read the songbook's file again; what is here is kept aside first and can be taken back at the next start."""
        path = self.open_book.path
        if path is not None and (not self.open_book.unsaved or self._leave_copy()):
            self._agreed = self.open_book.book
            number = self.open_book.number
            self.reader.start(lambda progress: (open_path(path, number, progress), None))

    def _leave_copy(self) -> bool:
        """Leave what is unsaved as a lost window would: the next start offers it. Whether it is on the disk."""
        if not self.keep_aside():
            return False
        assert self._slot is not None
        self._slot.leave()
        self._slot = None
        return True

    def ask_changed(self, path: Path) -> str:
        """What to do about a file that has changed on disk since it was opened."""
        box = QMessageBox(QMessageBox.Icon.Warning, "Changed on disk", "", parent=self.window)
        box.setText(f"{path.name} was changed by something else since you opened it.")
        box.setInformativeText(
            "Overwrite it with what is here, save this under another name, or reload it. If you reload, what is here is "
            "kept and offered at the next start."
        )
        roles = QMessageBox.ButtonRole
        kinds = {SAVE_AS: roles.AcceptRole, RELOAD: roles.ResetRole, OVERWRITE: roles.DestructiveRole}
        buttons = {name: box.addButton(name, role) for name, role in kinds.items()}
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.setDefaultButton(buttons[SAVE_AS])
        box.exec()
        box.deleteLater()
        return next((name for name, button in buttons.items() if button is box.clickedButton()), LEAVE)

    def ask_save(self) -> bool:
        opened = self.open_book.source
        source = opened.path if opened is not None else None
        beside = source is not None and opened is not None and not opened.shipped
        folder = source.parent if beside and source is not None else Path(stored.text(self.settings, "folder"))
        offer = folder / f"{source.stem if source else self.open_book.book.title}{DOCUMENT}"
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Save the songbook", str(offer), f"Dromic songbook (*{DOCUMENT})"
        )
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix.lower() == DOCUMENT else path.with_name(path.name + DOCUMENT))

    def save_to(self, path: Path) -> bool:
        book = self.open_book.book
        try:
            data = songbook_bytes(book)
            save(path, data)
        except DromicError as error:
            # the work is safe aside whatever the disk says
            self.keep_aside()
            self.noticed.emit(str(error), False)
            return False
        self.settings.setValue("folder", str(path.parent))
        self.open_book.was_saved(path, book, stamp_after(path, data))
        self._let_go()
        self._remember(path)
        self.noticed.emit(f"Saved {path.name}", True)
        self.saved.emit(path)
        return True

    def may_discard(self) -> bool:
        """Whether unsaved work is saved or may go; asks the player."""
        if not self.open_book.unsaved:
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
            f"{self.open_book.name} has changes that are not saved. Save them?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )

    # a file that others write too

    def _watch(self) -> None:
        """Hear of changes of the songbook's own file, and of its folder: who saves whole files puts a new one there."""
        path = self.open_book.path
        wanted = {str(path), str(path.parent)} if path is not None else set()
        watched = {*self._watcher.files(), *self._watcher.directories()}
        if watched - wanted:
            self._watcher.removePaths(list(watched - wanted))
        if wanted - watched:
            self._watcher.addPaths([p for p in wanted - watched if Path(p).exists()])

    def _look_at_file(self) -> None:
        path, source = self.open_book.path, self.open_book.source
        self._watch()  # a file that was put in the place of another is watched anew
        if path is None or source is None or self._told_of is source or not has_changed(path, source.stamp):
            return
        self._told_of = source
        self.noticed.emit(
            f"{path.name} was changed on disk by something else. Save (Ctrl+S) asks what to do; the songbook's menu "
            "reloads it",
            False,
        )

    # keeping aside

    def _changed(self) -> None:
        if not self.open_book.unsaved:
            self._let_go()
        elif not self._aside.isActive():  # never put off: steady work is kept steadily
            self._aside.start()

    def _keep_beside(self) -> None:
        """Keep unsaved work aside on a thread of its own."""
        if not self.open_book.unsaved:
            return
        book, path, stamp, number = self.open_book.book, self.open_book.path, self.open_book.stamp, self._kept_for

        def job(progress: Progress) -> None:
            self._own_slot().keep(songbook_bytes(book), path, stamp, lambda: number == self._kept_for)

        self.keeper.start(job)

    def keep_aside(self) -> bool:
        """Put a copy of unsaved work where the next start finds it, should this one be lost; whether it is on the disk.
        There is nothing to do where all is saved."""
        if not self.open_book.unsaved:
            return True
        self._aside.stop()
        try:
            self._own_slot().keep(songbook_bytes(self.open_book.book), self.open_book.path, self.open_book.stamp)
        except DromicError as error:
            self._was_not_kept(str(error))
            return False
        return True

    def _own_slot(self) -> Slot:
        with self._making_slot:
            if self._slot is None:
                self._slot = Slot(self.folder)
            return self._slot

    def _was_not_kept(self, sentence: str) -> None:
        self.noticed.emit(f"Unsaved work cannot be kept aside ({sentence}); save it yourself", False)

    def _let_go(self) -> None:
        self._aside.stop()
        self._kept_for += 1
        if self._slot is not None:
            self._slot.clear()

    def close(self) -> None:
        """The window closes in good order."""
        self._aside.stop()
        self._look.stop()
        self.reader.close()
        self.keeper.close()
        if self._slot is not None:
            self._slot.close()
            self._slot = None
