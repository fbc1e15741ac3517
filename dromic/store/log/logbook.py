"""The logbook: passes in SQLite in the user's data folder. What is older than the recent days is summed up as it comes in,
so that ten years are as quick as ten days. Safe across kills and two windows: every pass is one transaction."""

from __future__ import annotations

import os
import sqlite3
import uuid
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.log_summary import RECENT_DAYS, Goal, History, PhraseRecord, next_words
from dromic.core.values.errors import DromicError
from dromic.store.folders import data_folder
from dromic.store.log.errors import LOG_FAULTS, log_error, why
from dromic.store.log.rows import READ, as_text, pass_of, placed, readable, row_of
from dromic.store.log.schema import INSERT, VERSION, Upgrading, bring_up, make, old_passes, sum_up, version_of
from dromic.store.log.sums import ADDED, days_in, goal_in, record_in, summed

WAIT_S = 10.0
"""how long another program that holds the log is waited for"""
NEWEST = 300
"""passes of a drill that are looked at one by one; of the recent days before them each has its best one, and its sums"""
_ALL = f"SELECT {READ} FROM pass"


def usual_place() -> Path:
    """Where the log lies when nothing else is said."""
    return data_folder() / "log.sqlite"


def new_uid() -> str:
    """What a pass is known by from before it is in the log."""
    return uuid.uuid4().hex


class Logbook:
    """The passes of a file; it is made when somebody is about to keep one. DromicError where the file is no log. `upgrading` hears how
    far an older log is brought up, and says whether to go on; Cancelled where it says no."""

    def __init__(self, path: Path | None = None, upgrading: Upgrading = lambda share: True) -> None:
        self.path, self.upgrading = path or usual_place(), upgrading
        self.unreadable = 0
        """rows that were left out when passes were read last"""

    def add(self, passes: Iterable[Pass], uids: Sequence[str] = (), wait_s: float = WAIT_S) -> list[str]:
        """Keep passes, all of them or none; gives what each is known by. One that is there under its uid, or was taken back, is not
        kept again."""
        passes = list(passes)
        uids = list(uids) or [new_uid() for _ in passes]
        with self._open(writes=True, wait_s=wait_s) as base:
            for one, uid in zip(passes, uids, strict=True):
                self._keep(base, one, uid)
        return uids

    @staticmethod
    def _keep(base: sqlite3.Connection, one: Pass, uid: str, lent: int | None = None) -> None:
        if base.execute("SELECT 1 FROM gone WHERE uid = ?", (uid,)).fetchone():
            return
        kept = base.execute(INSERT, row_of(one, uid, lent))
        if kept.rowcount:
            for words in ADDED:
                base.execute(words, summed(one, int(kept.lastrowid or 0)))

    def make(self, wait_s: float = 0.0) -> None:
        """Make the log where there is none; an older one is brought up."""
        with self._open(writes=True, wait_s=wait_s):
            pass

    def take_in(self, passes: Sequence[Pass]) -> int:
        """Keep those that are not there yet, as when the same file is imported again; gives how many."""
        new = 0
        with self._open(writes=True) as base:
            for one in dict.fromkeys(placed(each) for each in passes):
                there = readable(base.execute(f"{_ALL} WHERE utc = ? AND lent IS NULL", (one.utc.isoformat(),)))
                # without an id its passes may have moved to one since they were written down
                if one not in {each if one.phrase_id else replace(each, phrase_id="") for each in there}:
                    self._keep(base, one, new_uid())
                    new += 1
        return new

    def take_back(self, uids: Iterable[str], wait_s: float = WAIT_S) -> list[Pass]:
        """Take passes back, and give those that were there; none of them comes back by itself."""
        with self._open(writes=True, wait_s=wait_s) as base:
            return [one for uid in uids if (one := self._without(base, uid)) is not None]

    @staticmethod
    def _without(base: sqlite3.Connection, uid: str) -> Pass | None:
        base.execute("INSERT OR IGNORE INTO gone VALUES (?)", (uid,))
        found = base.execute(f"{_ALL} WHERE uid = ?", (uid,)).fetchone()
        if found is None:
            return None
        one = pass_of(found)
        # what was lent of it to a copy of its phrase goes too
        lent = base.execute(
            "SELECT key FROM pass WHERE lent = (SELECT id FROM pass WHERE uid = :uid)", {"uid": uid}
        ).fetchall()
        base.execute("DELETE FROM pass WHERE lent = (SELECT id FROM pass WHERE uid = ?)", (uid,))
        base.execute("DELETE FROM pass WHERE uid = ?", (uid,))
        for key in (one.of.key, *(row[0] for row in lent)):
            sum_up(base, key, one.drill, one.day.isoformat())
        return one

    def note(self, uid: str, text: str, wait_s: float = WAIT_S) -> bool:
        """Put a note on a pass; whether it is there."""
        with self._open(writes=True, wait_s=wait_s) as base:
            return base.execute("UPDATE pass SET note = ? WHERE uid = ?", (text, uid)).rowcount > 0

    def set_goal(self, of: PhraseName | str, goal: Goal, wait_s: float = WAIT_S) -> None:
        """What is worked towards with a phrase."""
        with self._open(writes=True, wait_s=wait_s) as base:
            ready = goal.ready.isoformat() if goal.ready else None
            base.execute("INSERT OR REPLACE INTO goal VALUES (?, ?, ?)", (_named(of).key, goal.target, ready))

    def goal(self, of: PhraseName | str) -> Goal:
        """What was set as a goal, nothing of it where nothing was."""
        with self._open() as base:
            return goal_in(base, _named(of))

    def claimed(self, of: PhraseName) -> tuple[int, ...]:
        """Give a phrase the passes, and the goal, that stand under its title alone; the rows that moved."""
        titled = PhraseName(of.title)
        with self._open(writes=True) as base:
            rows = tuple(row[0] for row in base.execute("SELECT id FROM pass WHERE key = ?", (titled.key,)))
            _move(base, rows, titled, of)
        return rows

    def unclaimed(self, of: PhraseName, rows: Iterable[int]) -> None:
        """Undo that."""
        with self._open(writes=True) as base:
            _move(base, rows, of, PhraseName(of.title))

    def under_the_title(self, title: str) -> tuple[int, frozenset[str]]:
        """How many passes stand under a title alone, and the ids of phrases that were practised under it."""
        with self._open() as base:
            count = base.execute("SELECT COUNT(*) FROM pass WHERE key = ?", (PhraseName(title).key,)).fetchone()[0]
            ids = base.execute("SELECT DISTINCT phrase_id FROM pass WHERE phrase = ? AND phrase_id != ''", (title,))
            return int(count), frozenset(row[0] for row in ids)

    def lend(self, of: PhraseName, to: PhraseName) -> int:
        """Give a copy of a phrase its history too; how many passes. They count for the copy alone, and stand once in the log."""
        with self._open(writes=True) as base:
            rows = base.execute(f"SELECT id, {READ} FROM pass WHERE key = ?", (of.key,)).fetchall()
            for number, *row in rows:
                with suppress(DromicError):
                    self._keep(base, replace(pass_of(row), phrase=to.title, phrase_id=to.id), new_uid(), number)
            base.execute(
                "INSERT OR REPLACE INTO goal SELECT ?, target, ready FROM goal WHERE key = ?", (to.key, of.key)
            )
        return len(rows)

    def history(self, of: PhraseName | str, today: date | None = None) -> History:
        """All that today's work asks of a phrase: its record, its recent days and passes, its goal. What is recent counts from the
        newest day, but from no day after today. Of each drill the newest passes are there, and of each day the best one."""
        name = _named(of)
        with self._open() as base:
            record = record_in(base, name, today)
            newest = max((d.last_at for d in record.drills), default=None)
            if newest is None:
                return History(record, (), goal_in(base, name))
            since = min(newest, today or date.today()) - timedelta(RECENT_DAYS - 1)
            found: dict[int, Pass] = {}
            for words, given in (
                *((f"key = ? AND drill = ? AND day >= ? ORDER BY utc DESC, id DESC LIMIT {NEWEST}",
                   (name.key, d.drill, since.isoformat())) for d in record.drills),
                ("id IN (SELECT best_id FROM day WHERE key = ? AND day >= ?)", (name.key, since.isoformat())),
            ):  # fmt: skip
                for number, *row in base.execute(f"SELECT id, {READ} FROM pass WHERE {words}", given):
                    if number not in found:
                        found.update((number, one) for one in readable([row]))
            recent = tuple(found[n] for n in sorted(found, key=lambda n: (found[n].utc, n)))
            return History(record, recent, goal_in(base, name), days_in(base, name, since))

    def passes(
        self, of: PhraseName | str | None = None, drill: str | None = None, since: date | None = None
    ) -> list[Pass]:
        """Passes in the order they were played: of a phrase, lent ones too, or of a title; of a drill, from a day on."""
        words, values = ["lent IS NULL"] if not isinstance(of, PhraseName) else [], []
        for column, value in (
            ("key = ?", of.key if isinstance(of, PhraseName) else None), ("phrase = ?", of if isinstance(of, str) else None),
            ("drill = ?", drill), ("day >= ?", since and since.isoformat()),
        ):  # fmt: skip
            if value is not None:
                words.append(column)
                values.append(value)
        with self._open() as base:
            rows = base.execute(f"{_ALL} WHERE {' AND '.join(words)} ORDER BY utc, id", values).fetchall()
            bad = base.execute("SELECT COUNT(*) FROM unread").fetchone()[0]
        found = list(readable(rows))
        self.unreadable = int(bad) + len(rows) - len(found)
        return found

    def phrases(self) -> list[PhraseName]:
        """The phrases it knows, each under its newest title, the one practised last first."""
        with self._open() as base:
            rows = base.execute(
                "SELECT p.phrase, p.phrase_id, MAX(p.utc), d.newest FROM pass p JOIN (SELECT key, MAX(last_day) AS newest FROM drill"
                " GROUP BY key) d ON p.key = d.key GROUP BY p.key ORDER BY d.newest DESC, 1, 2"
            ).fetchall()  # fmt: skip
        return [PhraseName(title, id_) for title, id_, _, _ in rows]

    def record(self, of: PhraseName | str, today: date | None = None) -> PhraseRecord:
        """What it says of a phrase; what is recent counts from its newest day, but from no day after today."""
        with self._open() as base:
            return record_in(base, _named(of), today)

    def origin_words(self, phrase_id: str) -> str:
        """Of the phrase that another is a copy of: that it was practised, in a sentence; nothing where it was not."""
        with self._open() as base:
            found = base.execute(
                "SELECT COUNT(*), phrase, MAX(utc) FROM pass WHERE key = ?", (PhraseName("", phrase_id).key,)
            ).fetchone()
        count, title, _ = found
        passes = "pass" if count == 1 else "passes"
        return f"A copy of “{title}”, which has {count} {passes} of its own in the log." if count else ""

    def summary(self, today: date) -> dict[str, Any]:
        """What it says of every phrase, as JSON has it; of two under one title each has the front of its id behind it."""
        names = self.phrases()
        titles = [name.title for name in names]
        with self._open() as base:
            records = [record_in(base, name, today) for name in names]
        found = {}
        for name, record in zip(names, records, strict=True):
            drill, said = next_words(record, today)
            alone = titles.count(name.title) == 1 or not name.id
            found[name.title if alone else f"{name.title} ({name.id[:8]})"] = {
                "phrase_id": name.id,
                "clean_tempo": {str(n): t for n, t in sorted(record.clean_by_note.items())},
                "minutes": {day.isoformat(): round(m, 2) for day, m in sorted(record.minutes.items())},
                "slipping": [d.drill for d in record.slipping],
                "missed_days": [day.isoformat() for day in record.missed_days],
                "next": drill,
                "why": said,
            }
        return found

    def copy_to(self, path: Path, over: bool = False) -> None:
        """A safe copy, whole or not at all, whatever is being written meanwhile. It is written over an older copy of this log, and
        over anything else only where `over` says so; DromicError otherwise."""
        if path.exists() and not over and not self._copied_to(path):
            raise DromicError(
                "is no older copy of this log, and is left as it is; choose another name for the copy", path=path.name
            )
        beside = path.with_name(f".{path.name[:40]}.{os.getpid()}.copying")
        try:
            with self._open() as base:
                try:
                    with closing(sqlite3.connect(beside)) as other:
                        base.backup(other)
                    beside.replace(path)
                except LOG_FAULTS as error:
                    raise DromicError(f"not backed up: it {why(error)}", path=path.name) from error
        finally:
            with suppress(OSError):
                beside.unlink()

    def _copied_to(self, path: Path) -> bool:
        """Whether a file is an older copy of this log: of the same id, with no pass that this one lacks and did not take back. One of
        an older Dromic has no id: it is a copy where this log holds all of its passes."""
        try:
            with self._open() as mine, closing(_read_only(path)) as base:
                version = version_of(base, path)
                if version != VERSION:
                    return version > 0 and old_passes(base) <= _as_old(mine)
                ids = [b.execute("SELECT value FROM about WHERE name = 'log_id'").fetchone() for b in (mine, base)]
                known = {row[0] for table in ("pass", "gone") for row in mine.execute(f"SELECT uid FROM {table}")}
                return ids[0] == ids[1] and all(row[0] in known for row in base.execute("SELECT uid FROM pass"))
        except (*LOG_FAULTS, DromicError):
            return False

    @contextmanager
    def _open(self, writes: bool = False, wait_s: float = WAIT_S) -> Iterator[sqlite3.Connection]:
        if not self.path.exists() and not writes:
            with closing(sqlite3.connect(":memory:")) as empty:
                make(empty)
                yield empty
            return
        try:
            with closing(self._connected(writes, wait_s)) as base:
                yield base
                base.execute("COMMIT")
        except LOG_FAULTS as error:
            raise log_error(self.path, error) from error

    def _connected(self, writes: bool, wait_s: float) -> sqlite3.Connection:
        """The log, a transaction begun, its tables as this version has them. Where nothing can be written it can still be read."""
        if not writes and not os.access(self.path.parent, os.W_OK):
            return self._as_read(_read_only(self.path))
        self.path.parent.mkdir(parents=True, exist_ok=True)
        base = sqlite3.connect(self.path, timeout=wait_s, isolation_level=None)
        base.text_factory = as_text
        try:
            base.execute("PRAGMA journal_mode = WAL")
            base.execute("PRAGMA synchronous = FULL")
            base.execute("BEGIN IMMEDIATE" if writes else "BEGIN")
            if version_of(base, self.path) != VERSION:
                if not writes:
                    base.execute("ROLLBACK")
                    base.execute("BEGIN IMMEDIATE")
                if (version := version_of(base, self.path)) != VERSION:  # no other window was quicker
                    bring_up(base, self.path, version, self.upgrading)
        except BaseException:
            base.close()
            raise
        return base

    def _as_read(self, base: sqlite3.Connection) -> sqlite3.Connection:
        """A log that cannot be written; an older one is brought up in memory, to be read."""
        version = version_of(base, self.path)
        if version != VERSION:
            with closing(base) as older:
                base = sqlite3.connect(":memory:", isolation_level=None)
                base.text_factory = as_text
                older.backup(base)
            base.execute("BEGIN")
            bring_up(base, self.path, version, self.upgrading)
        return base


def _read_only(path: Path) -> sqlite3.Connection:
    base = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None)
    base.text_factory = as_text
    try:
        base.execute("BEGIN")
    except BaseException:
        base.close()
        raise
    return base


def _named(of: PhraseName | str) -> PhraseName:
    return of if isinstance(of, PhraseName) else PhraseName(of)


def _as_old(base: sqlite3.Connection) -> set[tuple[object, ...]]:
    """The same of this log as `old_passes` has of an older one."""
    rows = base.execute(f"{_ALL} WHERE lent IS NULL")
    return {(p.at.isoformat(), p.phrase, p.drill, p.tempo, int(p.clean), p.seconds) for p in readable(rows)}


def _move(base: sqlite3.Connection, rows: Iterable[int], of: PhraseName, to: PhraseName) -> None:
    base.executemany(
        "UPDATE pass SET phrase_id = ?, key = ? WHERE id = ?", [(to.id, to.key, number) for number in rows]
    )
    if not base.execute("SELECT 1 FROM goal WHERE key = ?", (to.key,)).fetchone():
        base.execute("UPDATE goal SET key = ? WHERE key = ?", (to.key, of.key))
    for name in (of, to):
        sum_up(base, name.key)
