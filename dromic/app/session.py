"""What the window holds: one songbook, which phrase of it is open, where it is kept, and every step back."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from dromic import presets
from dromic.core.instrument import Instrument
from dromic.core.phrase import Phrase
from dromic.core.songbook import Songbook, empty_phrase, empty_songbook
from dromic.formats.document import read_songbook
from dromic.formats.table import read, songbook_of, titles
from dromic.store.recovery import Leftover

DOCUMENT = ".dromic"


@dataclass(frozen=True, slots=True)
class Opened:
    """A file as it was read. A foreign book of tunes is read a tune at a time: `tunes` lists them all, `tune` is the
    one read; a songbook is read whole, and `tune` is the phrase to show."""

    path: Path | None
    book: Songbook
    tune: int = 1
    tunes: tuple[str, ...] = field(default=())
    unsaved: bool = False

    @property
    def document(self) -> bool:
        return self.path is not None and self.path.suffix.lower() == DOCUMENT


def open_path(path: Path, tune: int = 1) -> Opened:
    """Read a file of any kind; DromicError says what is wrong."""
    if path.suffix.lower() == DOCUMENT:
        return Opened(path, songbook_of(path), tune)
    names = tuple(titles(path))
    phrase = read(path, tune)
    return Opened(path, Songbook(path.stem, (phrase,)), tune, names if len(names) > 1 else ())


def open_leftover(left: Leftover) -> Opened:
    """What a lost window left behind."""
    return Opened(left.path, read_songbook(left.data), unsaved=True)


class _Edit(QUndoCommand):
    """One change of the songbook; `merge` joins it to the step before if that has the same."""

    def __init__(self, session: Session, text: str, after: tuple[Songbook, int], merge: object) -> None:
        super().__init__(text)
        self.session, self.before, self.after, self.key = session, (session.book, session.index), after, merge

    def redo(self) -> None:
        self.session.show(*self.after)

    def undo(self) -> None:
        self.session.show(*self.before)

    def id(self) -> int:
        return -1 if self.key is None else 1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        if not isinstance(other, _Edit) or other.key != self.key:
            return False
        self.after = other.after
        return True


class Session(QObject):
    """The songbook in hand. Every change makes a new value and is a step on the undo stack."""

    phrase_changed = pyqtSignal()
    """another phrase, or the same one edited"""
    opened = pyqtSignal()
    """a file, or another phrase of the book, stands open"""
    saved_changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.book: Songbook = empty_songbook(presets.instruments()["guitar"])
        self.index = 0
        self.source: Opened | None = None
        self.undo = QUndoStack(self)
        self._saved = self.book

    @property
    def phrase(self) -> Phrase:
        return self.book.phrases[self.index]

    @property
    def path(self) -> Path | None:
        """The songbook's own file, if it has one yet."""
        return self.source.path if self.source is not None and self.source.document else None

    @property
    def name(self) -> str:
        """The name of the file shown, or of a songbook not saved yet."""
        return self.source.path.name if self.source is not None and self.source.path else f"{self.book.title}{DOCUMENT}"

    @property
    def unsaved(self) -> bool:
        return self.book is not self._saved and self.book != self._saved

    @property
    def names(self) -> list[str]:
        """What the list of phrases shows."""
        return list(self.source.tunes) if self.source is not None and self.source.tunes else self.book.titles

    @property
    def number(self) -> int:
        """Which of `names` stands open, from 1."""
        return self.source.tune if self.source is not None and self.source.tunes else self.index + 1

    def take(self, opened: Opened) -> None:
        """Show what was read."""
        self.source = opened
        self.book = opened.book
        foreign = opened.path is not None and not opened.document
        self.index = 0 if foreign else max(0, min(opened.tune, len(self.book.phrases)) - 1)
        self._saved = empty_songbook(presets.instruments()["guitar"]) if opened.unsaved else self.book
        self.undo.clear()
        self.opened.emit()

    def begin_new(self) -> None:
        self.take(Opened(None, empty_songbook(presets.instruments()["guitar"])))

    def turn_to(self, index: int) -> None:
        """Open another phrase of the book in hand."""
        if index != self.index and 0 <= index < len(self.book.phrases):
            self.index = index
            self.opened.emit()

    def edit(self, phrase: Phrase, text: str, merge: object = None) -> None:
        """Put a changed phrase in place of the one that is open."""
        decision = phrase.decision
        if decision is not None and decision is self.phrase.decision:
            # what was pinned follows its notes
            from dromic.core.differences import followed

            choices = followed(decision.choices, self.phrase, phrase)
            phrase = replace(phrase, decision=replace(decision, choices=choices))
        if phrase != self.phrase:
            self.change(self.book.with_phrase(self.index, phrase), self.index, text, merge)

    def change(self, book: Songbook, index: int, text: str, merge: object = None) -> None:
        self.undo.push(_Edit(self, text, (book, index), merge))

    def show(self, book: Songbook, index: int) -> None:
        """What an undo step shows."""
        other = index != self.index
        was_unsaved, titles_before = self.unsaved, self.book.titles
        self.book, self.index = book, index
        (self.opened if other or book.titles != titles_before else self.phrase_changed).emit()
        if self.unsaved != was_unsaved:
            self.saved_changed.emit()

    def was_saved(self, path: Path) -> None:
        """The songbook now stands in a file."""
        self._saved = self.book
        self.source = Opened(path, self.book, self.index + 1)
        self.saved_changed.emit()

    def add_phrase(self) -> None:
        fresh = empty_phrase(f"Phrase {len(self.book.phrases) + 1}", self.instrument)
        at = self.index + 1
        self.change(self.book.inserted(at, fresh), at, "new phrase")

    def copy_phrase(self) -> None:
        fresh = replace(self.phrase, title=f"{self.phrase.title}, again")
        self.change(self.book.inserted(self.index + 1, fresh), self.index + 1, "copied phrase")

    def drop_phrase(self) -> None:
        """Take the open phrase out of the book; the last one is emptied."""
        if len(self.book.phrases) == 1:
            fresh = empty_phrase("Phrase 1", self.instrument)
            self.change(self.book.with_phrase(0, fresh), 0, "deleted phrase")
        else:
            self.change(self.book.without(self.index), max(0, self.index - 1), "deleted phrase")

    def move_phrase(self, by: int) -> None:
        to = self.index + by
        if 0 <= to < len(self.book.phrases):
            self.change(self.book.moved(self.index, to), to, "moved phrase")

    @property
    def instrument(self) -> Instrument:
        """The instrument the phrase is for, a guitar where nothing is said."""
        return self.phrase.instrument or presets.instruments()["guitar"]
