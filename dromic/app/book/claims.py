"""What hangs on a phrase beside its file. Passes and takes that were kept under a title alone go to the phrase that bears it when
that is opened; and a copy takes its history along where the player says so."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from dromic.app.kit.worker import Worker
from dromic.core.practice.log_pass import PhraseName
from dromic.store.takes import KeptTake, Takes

if TYPE_CHECKING:
    from dromic.app.book.log_keeper import LogKeeper
    from dromic.app.book.open_book import OpenBook
    from dromic.core.music.songbook import Entry

TAKES_FOLDER = "takes"
MOST_NAMED = 40
"""letters of a title in a sentence"""


@dataclass(frozen=True, slots=True)
class Claimed:
    """What moved from a title to a phrase: rows of the log, and takes."""

    of: PhraseName
    rows: tuple[int, ...]
    takes: tuple[KeptTake, ...]

    @property
    def words(self) -> str:
        """How much it is."""
        return _words(len(self.rows), len(self.takes))


@dataclass(frozen=True, slots=True)
class Contested:
    """What stands under a title that two phrases bear: how many passes, and takes."""

    of: PhraseName
    passes: int
    takes: int

    @property
    def words(self) -> str:
        """How much it is."""
        return _words(self.passes, self.takes)


def _words(passes: int, takes: int) -> str:
    counts = ((passes, "pass", "passes"), (takes, "take", "takes"))
    return " and ".join(f"{count} {one if count == 1 else many}" for count, one, many in counts if count)


class Claims(QObject):
    """Looks at each phrase once, when it is opened, off the interface's thread."""

    noticed = pyqtSignal(str, bool)
    changed = pyqtSignal()
    """passes or takes hang on another phrase now"""
    history_asked = pyqtSignal(int, object, object)
    """a phrase was copied that was practised so many times: whether the copy takes that along; the names of both"""

    def __init__(self, keeper: LogKeeper, open_book: OpenBook, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.keeper, self.open_book = keeper, open_book
        self.takes = Takes(keeper.path.parent / TAKES_FOLDER)
        self.done: dict[str, Claimed] = {}
        """what moved in this session, by the id of its phrase"""
        self.contested: dict[str, Contested] = {}
        """what two phrases claim, by the id of the one that is open"""
        self._looked: set[str] = set()
        self._jobs: deque[tuple[Callable[[], object], Callable[[Any], None]]] = deque()
        """what is to be done, one after the other, and what hears its answer: none of it is dropped for what comes after"""
        self.worker = Worker(self)
        self.worker.answered.connect(self._was_done)
        self.worker.refused.connect(self._was_refused)

    @property
    def name(self) -> PhraseName:
        """The phrase that stands open."""
        return name_of(self.open_book.entry)

    def look(self) -> None:
        """A phrase was opened: what stands under its title alone is its own, if no other bears it."""
        name = self.name
        if name.id in self._looked or not (self.keeper.path.exists() or self.takes.folder.exists()):
            return
        self._looked.add(name.id)
        alone = self.open_book.book.titles.count(name.title) == 1
        keeper = self.keeper

        def job() -> object:
            count, ids = keeper.settle().under_the_title(name.title)
            takes = self.takes.of(PhraseName(name.title))
            if not count and not takes:
                return None
            if not alone or ids - {name.id}:
                return Contested(name, count, len(takes))
            return self._claimed(name)

        self._do(job, self._was_looked_at)

    def _claimed(self, name: PhraseName) -> Claimed:
        rows = self.keeper.book.claimed(name)
        return Claimed(name, rows, self.takes.moved(self.takes.of(PhraseName(name.title)), name))

    def _was_looked_at(self, found: object) -> None:
        if isinstance(found, Contested):
            self.contested[found.of.id] = found
            self.noticed.emit(
                f"{found.words} under the title “{found.of.title[:MOST_NAMED]}”, which two phrases bear: the menu Log on Shed gives "
                "that to this one", True,
            )  # fmt: skip
        elif isinstance(found, Claimed):
            self._was_moved(found)

    def take(self) -> None:
        """The player says that what two phrases claim is of the open one."""
        name = self.name
        self._do(lambda: self._claimed(name), self._was_moved)

    def put_back(self) -> None:
        """What moved to the open phrase stands under its title alone again."""
        claimed = self.done.get(self.name.id)
        if claimed is None:
            return

        def job() -> PhraseName:
            self.keeper.settle().unclaimed(claimed.of, claimed.rows)
            self.takes.moved(claimed.takes, PhraseName(claimed.of.title))
            return claimed.of

        self._do(job, self._was_moved)

    def _was_moved(self, answer: object) -> None:
        if isinstance(answer, Claimed):
            self.done[answer.of.id] = answer
            self.contested.pop(answer.of.id, None)
            self.noticed.emit(
                f"{answer.words} kept under the title “{answer.of.title[:MOST_NAMED]}” are this phrase's now; the menu Log on Shed "
                "puts them back", True,
            )  # fmt: skip
        elif isinstance(answer, PhraseName):
            claimed = self.done.pop(answer.id)
            self.contested[answer.id] = Contested(answer, len(claimed.rows), len(claimed.takes))
            self.noticed.emit(f"{claimed.words} stand under the title alone again", True)
        self.changed.emit()

    def copied(self, entry: Entry, copy: Entry) -> None:
        """A phrase was copied: ask whether its history comes along, where it has one."""
        of, to = name_of(entry), name_of(copy)
        if self.keeper.path.exists():
            self._do(lambda: (len(self.keeper.settle().passes(of)), of, to), self._was_counted)

    def _was_counted(self, found: tuple[int, PhraseName, PhraseName]) -> None:
        count, of, to = found
        if count:
            self.history_asked.emit(count, of, to)

    def lend(self, of: PhraseName, to: PhraseName) -> None:
        """The copy takes the history along."""
        self._do(lambda: self.keeper.settle().lend(of, to), lambda _: self.changed.emit())

    @property
    def busy(self) -> bool:
        """Whether something is still to be done."""
        return bool(self._jobs)

    def _do(self, job: Callable[[], object], then: Callable[[Any], None]) -> None:
        self._jobs.append((job, then))
        if len(self._jobs) == 1:
            self._next()

    def _next(self) -> None:
        if self._jobs:
            job = self._jobs[0][0]
            self.worker.start(lambda _progress: job())

    def _was_done(self, answer: object) -> None:
        _, then = self._jobs.popleft()
        then(answer)
        self._next()

    def _was_refused(self, words: str) -> None:
        self._jobs.popleft()
        self.noticed.emit(words, False)
        self._next()

    def close(self) -> None:
        """The window closes."""
        self.worker.close()


def name_of(entry: Entry) -> PhraseName:
    """Whose passes and takes are those of an entry."""
    return PhraseName(entry.phrase.title, entry.id)
