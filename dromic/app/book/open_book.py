"""What the window holds: one songbook, which entry of it is open, where it is kept, and every step back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from dromic import presets
from dromic.core.editing.differences import followed
from dromic.core.music.phrase import Phrase
from dromic.core.music.songbook import Entry, Songbook, empty_phrase, empty_songbook
from dromic.core.setup.choices import Choices
from dromic.core.setup.decision import Decision
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Progress
from dromic.formats.document.document import read_songbook
from dromic.formats.limits import check_phrase, limit
from dromic.formats.table import file_bytes, songbook_of
from dromic.plan_requests import first_choices, instrument_for
from dromic.store.reading import read_foreign
from dromic.store.recovery import Leftover
from dromic.store.stamp import Stamp, stamped

DOCUMENT = ".dromic"
MOST_TOLD = 3
"""pins named when some have to go"""


@dataclass(frozen=True, slots=True)
class Opened:
    """A file as it was read. A foreign book of tunes is read a tune at a time: `tunes` lists them all, `tune` is the
    one read; a songbook is read whole, and `tune` is the phrase to show. `stamp` tells whether a songbook's file has
    changed since."""

    path: Path | None
    book: Songbook
    tune: int = 1
    tunes: tuple[str, ...] = field(default=())
    unsaved: bool = False
    stamp: Stamp | None = None

    @property
    def songbook(self) -> bool:
        """Whether it is a songbook, read whole."""
        return self.path is not None and self.path.suffix.lower() == DOCUMENT

    @property
    def document(self) -> bool:
        """Whether it is the player's own, to be saved where it is; what ships with Dromic is not written over."""
        return self.songbook and not self.shipped

    @property
    def shipped(self) -> bool:
        """Whether it came with Dromic."""
        return self.path is not None and self.path.resolve().is_relative_to(presets.DATA)


def open_path(path: Path, tune: int = 1, wanted: Progress = lambda share: True) -> Opened:
    """Read a file of any kind; DromicError says what is wrong, Cancelled that it is not `wanted` any more."""
    if path.suffix.lower() == DOCUMENT:
        data, stamp = stamped(path, file_bytes)
        return Opened(path, songbook_of(path, data), tune, stamp=stamp)
    entry, names = read_foreign(path, tune, wanted)
    return Opened(path, Songbook(path.stem, (entry,)), tune, names if len(names) > 1 else ())


def open_leftover(left: Leftover) -> Opened:
    """What a lost window left behind."""
    return Opened(left.path, read_songbook(left.data), unsaved=True, stamp=left.stamp)


class _Edit(QUndoCommand):
    """One change of the songbook; `merge` joins it to the step before if that has the same."""

    def __init__(self, open_book: OpenBook, text: str, after: tuple[Songbook, int], merge: object) -> None:
        super().__init__(text)
        self.open_book, self.before, self.after, self.key = open_book, (open_book.book, open_book.index), after, merge

    def redo(self) -> None:
        self.open_book.show(*self.after)

    def undo(self) -> None:
        self.open_book.show(*self.before)

    def id(self) -> int:
        return -1 if self.key is None else 1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        if not isinstance(other, _Edit) or other.key != self.key:
            return False
        self.after = other.after
        return True


class OpenBook(QObject):
    """The songbook in hand. Every change makes a new value and is a step on the undo stack; what was chosen for a phrase
    and which plans were kept are part of it."""

    phrase_changed = pyqtSignal()
    """the open phrase was edited; what is chosen for it may have changed with it"""
    choices_changed = pyqtSignal()
    """something else is chosen or kept for the open phrase"""
    opened = pyqtSignal()
    """a file, or another phrase of the book, stands open"""
    listed = pyqtSignal()
    """the phrases of the book are others, or have other titles"""
    saved_changed = pyqtSignal()
    told = pyqtSignal(str)
    """what a step had to let go, a sentence"""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.book: Songbook = empty_songbook(presets.usual_instrument())
        self.index = 0
        self.source: Opened | None = None
        self.undo = QUndoStack(self)
        self._saved = self.book
        self.has_player: Callable[[str], bool] = lambda name: True
        """whether a player of that name is at hand"""
        self.my_school = ""
        """the school of what the player plays, in which a phrase without a word of its own begins; empty where nothing is said"""
        self._before = Choices()
        """what was chosen last before the open phrase: a new one goes on from it"""

    @property
    def entry(self) -> Entry:
        return self.book.entries[self.index]

    @property
    def phrase(self) -> Phrase:
        return self.entry.phrase

    @property
    def choices(self) -> Choices:
        """What is chosen for the open phrase, or what it begins with."""
        chosen = self.entry.choices
        before = replace(self._before, school=self.my_school) if self.my_school else self._before
        return first_choices(self.phrase, before) if chosen is None else chosen

    @property
    def path(self) -> Path | None:
        """The songbook's own file, if it has one yet."""
        return self.source.path if self.source is not None and self.source.document else None

    @property
    def stamp(self) -> Stamp | None:
        """What its file was like when it was read or written last."""
        return self.source.stamp if self.source is not None else None

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

    @property
    def instrument(self) -> Instrument:
        """The instrument the phrase is for, a guitar where nothing is said."""
        return self.phrase.instrument or presets.usual_instrument()

    def open(self, opened: Opened) -> None:
        """Show what was read."""
        self._go_on_from_here()
        self.source = opened
        self.book = opened.book
        foreign = opened.path is not None and not opened.songbook
        self.index = 0 if foreign else max(0, min(opened.tune, len(self.book.entries)) - 1)
        self._saved = empty_songbook(presets.usual_instrument()) if opened.unsaved else self.book
        self.undo.clear()
        self.opened.emit()
        self.saved_changed.emit()

    def _go_on_from_here(self) -> None:
        """The next phrase for which nothing is chosen yet begins with what was chosen here, as far as that is at hand."""
        before = self.choices
        self._before = before if self.has_player(before.player) else replace(before, player=Choices().player)

    def play(self, school: str) -> None:
        """What a phrase without a word of its own begins in, from now on; the open one too, where nothing is chosen for it."""
        self.my_school = school
        if self.entry.choices is None:
            self.choices_changed.emit()

    def begin_new(self) -> None:
        self.open(Opened(None, empty_songbook(presets.usual_instrument())))

    def turn_to(self, index: int) -> None:
        """Open another phrase of the book in hand."""
        if index != self.index and 0 <= index < len(self.book.entries):
            self._go_on_from_here()
            self.index = index
            self.opened.emit()

    def edit(self, phrase: Phrase, text: str, merge: object = None) -> None:
        """Put a changed phrase in place of the one that is open. What is pinned follows its notes, the tempo asked for
        follows the one written; pins that the instrument no longer has go, and that is said. What no file could be opened
        with again is not taken."""
        if phrase == self.phrase:
            return
        try:
            check_phrase(phrase)
        except DromicError as error:
            self.told.emit(f"Not done: {error}")
            return
        entry, before = self.entry, self.phrase
        kept = tuple(replace(d, choices=followed(d.choices, before, phrase)) for d in entry.decisions)
        choices = entry.choices
        gone: tuple[Pin, ...] = ()
        if choices is not None:
            choices = followed(choices, before, phrase)
            if phrase.tempo != before.tempo:
                choices = replace(choices, tempo=phrase.tempo)
            choices, gone = choices.fitting(instrument_for(phrase, choices))
        changed = replace(entry, phrase=phrase, choices=choices, decisions=kept)
        self.change(self.book.with_entry(self.index, changed), self.index, text, merge)
        self._tell(gone)

    def choose(self, choices: Choices, text: str = "choice", merge: object = None) -> None:
        """Choose otherwise for the open phrase."""
        choices, gone = choices.fitting(instrument_for(self.phrase, choices))
        if choices != self.choices:
            entry = replace(self.entry, choices=choices)
            self.change(self.book.with_entry(self.index, entry), self.index, text, merge)
        self._tell(gone)

    def decide(self, decision: Decision) -> None:
        """Keep a plan with the phrase, and choose it."""
        self.change(self.book.with_entry(self.index, self.entry.decided(decision)), self.index, "decision")

    def let_go_of(self, decision: Decision) -> None:
        """Let a plan go that was kept."""
        self.change(
            self.book.with_entry(self.index, self.entry.without_decision(decision)), self.index, "kept plan let go"
        )

    def _tell(self, gone: tuple[Pin, ...]) -> None:
        if gone:
            named = "; ".join(str(pin) for pin in gone[:MOST_TOLD])
            more = f" and {len(gone) - MOST_TOLD} more" if len(gone) > MOST_TOLD else ""
            self.told.emit(
                f"Pins that this instrument has no place for are let go: {named}{more}. Ctrl+Z takes it back"
            )

    def change(self, book: Songbook, index: int, text: str, merge: object = None) -> None:
        self.undo.push(_Edit(self, text, (book, index), merge))

    def show(self, book: Songbook, index: int) -> None:
        """What an undo step shows."""
        was_unsaved, titles, entry, other = self.unsaved, self.book.titles, self.entry, index != self.index
        self.book, self.index = book, index
        if other or len(book.entries) != len(titles):
            self.opened.emit()
        else:
            if book.titles != titles:
                self.listed.emit()
            if self.entry.phrase != entry.phrase:
                self.phrase_changed.emit()
            else:
                self.choices_changed.emit()
        if self.unsaved != was_unsaved:
            self.saved_changed.emit()

    def was_saved(self, path: Path, book: Songbook, stamp: Stamp | None) -> None:
        """A songbook now stands in a file, with this stamp."""
        self._saved = book
        self.source = Opened(path, book, self.index + 1, stamp=stamp)
        self.saved_changed.emit()

    def let_go(self) -> None:
        """What is unsaved may go: nobody is asked about it."""
        self._saved = self.book
        self.saved_changed.emit()

    def add_phrase(self, phrase: Phrase | None = None) -> None:
        """Put a phrase after the open one and turn to it: the one given, else an empty one."""
        fresh = phrase or empty_phrase(f"Phrase {len(self.book.entries) + 1}", self.instrument)
        at = self.index + 1
        self.change(self.book.inserted(at, Entry(fresh)), at, "new phrase")

    def copy_phrase(self) -> None:
        fresh = self.entry.copied(self.phrase.titled(f"{self.phrase.title}, again"[-limit("title_letters") :]))
        self.change(self.book.inserted(self.index + 1, fresh), self.index + 1, "copied phrase")

    def write_out(self) -> None:
        """Put the open phrase, its repeats written out, after it and turn there; DromicError where it has none."""
        from dromic.core.editing.unrolling import choices_written_out, written_out

        made = written_out(self.phrase).titled(f"{self.phrase.title}, written out"[-limit("title_letters") :])
        chosen = choices_written_out(self.phrase, self.entry.choices) if self.entry.choices is not None else None
        fresh = replace(self.entry.copied(made), choices=chosen, decisions=())
        self.change(self.book.inserted(self.index + 1, fresh), self.index + 1, "written out")

    def drop_phrase(self) -> None:
        """Take the open phrase out of the book; the last one is emptied."""
        if len(self.book.entries) == 1:
            fresh = empty_phrase("Phrase 1", self.instrument)
            self.change(self.book.with_entry(0, Entry(fresh)), 0, "deleted phrase")
        else:
            self.change(self.book.without(self.index), max(0, self.index - 1), "deleted phrase")

    def move_phrase(self, by: int) -> None:
        to = self.index + by
        if 0 <= to < len(self.book.entries):
            self.change(self.book.moved(self.index, to), to, "moved phrase")
