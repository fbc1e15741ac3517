"""The logbook: passes in SQLite in the user's data folder. What is older than the recent days is summed up as it comes in,
so that ten years are as quick as ten days. Safe across kills and two windows: every pass is one transaction."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from dataclasses import fields
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

from dromic.core.practice.log_pass import FIRST_YEAR, Pass
from dromic.core.practice.log_summary import RECENT_DAYS, DrillRecord, Goal, History, PhraseRecord, hand_of, next_words
from dromic.core.values.errors import DromicError
from dromic.store.folders import data_folder

VERSION = 2
_WAIT_S = 10.0
COLUMNS = tuple(f.name for f in fields(Pass))
_DRILL_AT = COLUMNS.index("drill")
_SCHEMA = (
    """CREATE TABLE pass (id INTEGER PRIMARY KEY, at TEXT NOT NULL, phrase TEXT NOT NULL, drill TEXT NOT NULL,
       tempo REAL NOT NULL, clean INTEGER NOT NULL, notes TEXT NOT NULL, hand TEXT, fault TEXT, attentive INTEGER NOT NULL,
       seconds REAL NOT NULL, soreness INTEGER NOT NULL, burst INTEGER NOT NULL, player TEXT NOT NULL, plan TEXT NOT NULL,
       note TEXT NOT NULL)""",
    "CREATE INDEX pass_by_drill ON pass (phrase, drill, at)",
    "CREATE INDEX pass_by_time ON pass (phrase, at)",
    """CREATE TABLE drill (phrase TEXT, drill TEXT, notes TEXT, best REAL, best_at TEXT, last_day TEXT, newest REAL,
       passes INTEGER, clean INTEGER, PRIMARY KEY (phrase, drill))""",
    """CREATE TABLE day (phrase TEXT, day TEXT, kind TEXT, seconds REAL, passes INTEGER, clean INTEGER,
       picking INTEGER, fretting INTEGER, background REAL, PRIMARY KEY (phrase, day, kind))""",
    "CREATE TABLE goal (phrase TEXT PRIMARY KEY, target REAL, ready TEXT)",
)
_SUMS, _GOAL = slice(3, 5), 5
"""which of these are sums over passes, and which keeps goals"""
_DRILL = """INSERT INTO drill VALUES (:phrase, :drill, :notes, :best, :best_at, :day, :best, 1, :clean)
  ON CONFLICT (phrase, drill) DO UPDATE SET notes = excluded.notes, passes = passes + 1, clean = clean + excluded.clean,
  best_at = CASE WHEN excluded.best > COALESCE(best, 0) THEN excluded.best_at ELSE best_at END,
  best = CASE WHEN excluded.best > COALESCE(best, 0) THEN excluded.best ELSE best END,
  newest = CASE WHEN excluded.last_day > last_day THEN excluded.newest WHEN excluded.last_day < last_day THEN newest
           ELSE NULLIF(MAX(COALESCE(newest, 0), COALESCE(excluded.newest, 0)), 0) END,
  last_day = MAX(last_day, excluded.last_day)"""
_DAY = """INSERT INTO day VALUES (:phrase, :day, :kind, :seconds, 1, :clean, :picking, :fretting, :background)
  ON CONFLICT (phrase, day, kind) DO UPDATE SET seconds = seconds + excluded.seconds, passes = passes + 1,
  clean = clean + excluded.clean, picking = picking + excluded.picking, fretting = fretting + excluded.fretting,
  background = background + excluded.background"""
_ALL = f"SELECT {', '.join(COLUMNS)} FROM pass"


def usual_place() -> Path:
    """Where the log lies when nothing else is said."""
    return data_folder() / "log.sqlite"


class Logbook:
    """The passes of a file; it is made when the first one is kept. DromicError where the file is no log."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or usual_place()
        self.unreadable = 0
        """rows that were left out when passes were read last"""

    def add(self, passes: Iterable[Pass]) -> list[int]:
        """Keep passes, all of them or none; gives the number each stands under."""
        numbers = []
        with self._open(writes=True) as base:
            for one in passes:
                row = _summed(one)
                kept = base.execute(
                    f"INSERT INTO pass ({', '.join(COLUMNS)}) VALUES ({', '.join(':' + c for c in COLUMNS)})", row
                )
                numbers.append(int(kept.lastrowid or 0))
                for words in (_DRILL, _DAY):
                    base.execute(words, row)
        return numbers

    def take_in(self, passes: Sequence[Pass]) -> int:
        """Keep those that are not there yet, as when the same file is imported again; gives how many."""
        there = set(self.passes())
        new = [one for one in dict.fromkeys(passes) if one not in there]
        self.add(new)
        return len(new)

    def take_back(self, numbers: Iterable[int]) -> list[Pass]:
        """Take passes back by their numbers, and give those that were there."""
        with self._open(writes=True) as base:
            return [one for number in numbers if (one := self._without(base, number)) is not None]

    @staticmethod
    def _without(base: sqlite3.Connection, number: int) -> Pass | None:
        found = base.execute(f"{_ALL} WHERE id = ?", (number,)).fetchone()
        if found is None:
            return None
        one = _pass(found)
        base.execute("DELETE FROM pass WHERE id = ?", (number,))
        base.execute("DELETE FROM drill WHERE phrase = ? AND drill = ?", (one.phrase, one.drill))
        rows = base.execute(
            f"{_ALL} WHERE phrase = ? AND drill = ? ORDER BY at, id", (one.phrase, one.drill)
        ).fetchall()
        _sum_again(base, rows, (_DRILL,))
        day, kind = one.day, one.drill.split(":")[0]
        base.execute("DELETE FROM day WHERE phrase = ? AND day = ? AND kind = ?", (one.phrase, day.isoformat(), kind))
        span = (one.phrase, day.isoformat(), (day + timedelta(1)).isoformat())
        rows = base.execute(f"{_ALL} WHERE phrase = ? AND at >= ? AND at < ?", span).fetchall()
        _sum_again(base, [row for row in rows if str(row[_DRILL_AT]).split(":")[0] == kind], (_DAY,))
        return one

    def note(self, number: int, text: str) -> bool:
        """Put a note on a pass by its number; whether it is there."""
        with self._open(writes=True) as base:
            return base.execute("UPDATE pass SET note = ? WHERE id = ?", (text, number)).rowcount > 0

    def set_goal(self, phrase: str, goal: Goal) -> None:
        """What is worked towards with a phrase."""
        with self._open(writes=True) as base:
            ready = goal.ready.isoformat() if goal.ready else None
            base.execute("INSERT OR REPLACE INTO goal VALUES (?, ?, ?)", (phrase, goal.target, ready))

    def goal(self, phrase: str) -> Goal:
        """What was set as a goal, nothing of it where nothing was."""
        with self._open() as base:
            found = base.execute("SELECT target, ready FROM goal WHERE phrase = ?", (phrase,)).fetchone()
        return Goal(found[0], _date(found[1])) if found else Goal()

    def history(self, phrase: str, today: date | None = None) -> History:
        """All that today's work asks of a phrase: its record, its recent passes, its goal. What is recent counts from the newest
        day, but from no day after today."""
        record = self.record(phrase, today)
        newest = max((d.last_at for d in record.drills), default=None)
        newest = min(newest, today or date.today()) if newest else None
        since = newest - timedelta(RECENT_DAYS - 1) if newest else None
        return History(record, tuple(self.passes(phrase, since=since)) if newest else (), self.goal(phrase))

    def passes(self, phrase: str | None = None, drill: str | None = None, since: date | None = None) -> list[Pass]:
        """Passes in the order they were played; of a phrase, a drill, from a day on."""
        words, values = [], []
        for column, value in (("phrase = ?", phrase), ("drill = ?", drill), ("at >= ?", since and since.isoformat())):
            if value is not None:
                words.append(column)
                values.append(value)
        where = f" WHERE {' AND '.join(words)}" if words else ""
        with self._open() as base:
            rows = base.execute(f"{_ALL}{where} ORDER BY at, id", values).fetchall()
        found = list(_readable(rows))
        self.unreadable = len(rows) - len(found)
        return found

    def phrases(self) -> list[str]:
        """The phrases it knows, the one practised last first."""
        with self._open() as base:
            return [
                r[0] for r in base.execute("SELECT phrase FROM drill GROUP BY phrase ORDER BY MAX(last_day) DESC, 1")
            ]

    def record(self, phrase: str, today: date | None = None) -> PhraseRecord:
        """What it says of a phrase; what is recent counts from its newest day, but from no day after today."""
        with self._open() as base:
            drills = tuple(
                found
                for r in base.execute(
                    "SELECT drill, notes, best, best_at, last_day, newest, passes, clean FROM drill WHERE phrase = ? "
                    "ORDER BY last_day, drill", (phrase,)
                )
                if (found := _drill_record(r)) is not None
            )  # fmt: skip
            newest = base.execute("SELECT MAX(day) FROM day WHERE phrase = ? AND day <= ? AND day >= ?",
                                  (phrase, (today or date.today()).isoformat(), f"{FIRST_YEAR}")).fetchone()[0]  # fmt: skip
            first = (date.fromisoformat(newest) - timedelta(RECENT_DAYS - 1)).isoformat() if newest else "9999"
            days = base.execute(
                "SELECT day, kind, seconds, picking, fretting, background FROM day WHERE phrase = ? AND day >= ?",
                (phrase, first),
            ).fetchall()
        minutes: dict[date, float] = {}
        technique: dict[str, float] = {}
        hands: dict[str, float] = {}
        for day, kind, seconds, _, _, _ in days:
            minutes[date.fromisoformat(day)] = minutes.get(date.fromisoformat(day), 0.0) + seconds / 60
            technique[kind] = technique.get(kind, 0.0) + seconds / 60
            hands[hand_of(kind)] = hands.get(hand_of(kind), 0.0) + seconds / 60
        blamed = {hand: sum(row[at] for row in days) for hand, at in (("picking", 3), ("fretting", 4))}
        background = sum(row[5] for row in days) / 60
        return PhraseRecord(
            phrase, drills, minutes, hands, technique, {h: n for h, n in blamed.items() if n}, background
        )

    def summary(self, today: date) -> dict[str, Any]:
        """What it says of every phrase, as JSON has it."""
        found = {}
        for phrase in self.phrases():
            record = self.record(phrase, today)
            drill, why = next_words(record, today)
            found[phrase] = {
                "clean_tempo": {str(n): t for n, t in sorted(record.clean_by_note.items())},
                "minutes": {day.isoformat(): round(m, 2) for day, m in sorted(record.minutes.items())},
                "slipping": [d.drill for d in record.slipping],
                "missed_days": [day.isoformat() for day in record.missed_days],
                "next": drill,
                "why": why,
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
                except (OSError, sqlite3.Error) as error:
                    raise DromicError(f"not backed up: it {_why(error)}", path=path.name) from error
        finally:
            with suppress(OSError):
                beside.unlink()

    def _copied_to(self, path: Path) -> bool:
        """Whether a file is a log that holds nothing but passes of this one."""
        try:
            there = Logbook(path).passes()
        except DromicError:
            return False
        return set(there) <= set(self.passes())

    @contextmanager
    def _open(self, writes: bool = False) -> Iterator[sqlite3.Connection]:
        fresh = not self.path.exists()
        if fresh and not writes:
            with closing(sqlite3.connect(":memory:")) as empty:
                _make(empty)
                yield empty
            return
        try:
            with closing(self._connected(writes)) as base:
                _up_to_date(base, self.path, writes)
                yield base
                base.execute("COMMIT")
        except (OSError, sqlite3.Error) as error:
            raise DromicError(f"the log {self.path} {_why(error)}") from error

    def _connected(self, writes: bool) -> sqlite3.Connection:
        """The log, a transaction begun. Where nothing can be written it can still be read."""
        if not writes and not os.access(self.path.parent, os.W_OK):
            base = sqlite3.connect(
                f"{self.path.resolve().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None
            )
            base.execute("BEGIN")
            return base
        self.path.parent.mkdir(parents=True, exist_ok=True)
        base = sqlite3.connect(self.path, timeout=_WAIT_S, isolation_level=None)
        try:
            base.execute("PRAGMA journal_mode = WAL")
            base.execute("PRAGMA synchronous = FULL")
            base.execute("BEGIN IMMEDIATE" if writes else "BEGIN")
        except BaseException:
            base.close()
            raise
        return base


_WHY: tuple[tuple[frozenset[int], str], ...] = (
    (
        frozenset({sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED}),
        "is held by another program; try again when that is done",
    ),
    (
        frozenset({sqlite3.SQLITE_READONLY, sqlite3.SQLITE_PERM}),
        "may not be written; choose another with --db, or make it writable",
    ),
    (frozenset({sqlite3.SQLITE_FULL}), "has no room: the disk is full; free some space"),
    (frozenset({sqlite3.SQLITE_CANTOPEN}), "cannot be opened; see whether its folder is there and may be written"),
    (frozenset({sqlite3.SQLITE_NOTADB}), "is no log; choose another with --db"),
    (frozenset({sqlite3.SQLITE_IOERR}), "cannot be read or written: the disk says no; see whether it is full or gone"),
)
"""what SQLite says (its primary result codes), in words"""


def _why(error: Exception) -> str:
    """What keeps a log from being read or written, and what to do."""
    if isinstance(error, OSError):
        return f"cannot be reached ({error.strerror or error}); choose another with --db"
    code = getattr(error, "sqlite_errorcode", None)
    primary = code & 0xFF if code is not None else None
    told = next((words for codes, words in _WHY if primary in codes), None)
    return told or f"is damaged ({error}); it is left as it is"


def _make(base: sqlite3.Connection) -> None:
    for words in _SCHEMA:
        base.execute(words)
    base.execute(f"PRAGMA user_version = {VERSION}")


def _up_to_date(base: sqlite3.Connection, path: Path, writes: bool) -> None:
    """Make or renew the tables; sums are summed up anew where an older Dromic counted otherwise."""
    version = base.execute("PRAGMA user_version").fetchone()[0]
    if version > VERSION:
        raise DromicError(f"the log {path} is of a newer Dromic; use that one")
    if version == VERSION:
        return
    if not writes:
        base.execute("ROLLBACK")
        base.execute("BEGIN IMMEDIATE")
        if base.execute("PRAGMA user_version").fetchone()[0] == VERSION:  # another window was quicker
            return
    if version == 0:
        if base.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()[0]:
            raise DromicError(f"{path} is a database of something else, not a log; choose another with --db")
        _make(base)
        return
    for table in ("drill", "day"):
        base.execute(f"DROP TABLE {table}")
    for words in (*_SCHEMA[_SUMS], _SCHEMA[_GOAL]):
        base.execute(words)
    _sum_again(base, base.execute(f"{_ALL} ORDER BY at, id").fetchall(), (_DRILL, _DAY))
    base.execute(f"PRAGMA user_version = {VERSION}")


def _sum_again(base: sqlite3.Connection, rows: Iterable[Sequence[Any]], sums: Sequence[str]) -> None:
    for one in _readable(rows):
        for words in sums:
            base.execute(words, _summed(one))


def _summed(one: Pass) -> dict[str, Any]:
    """What the sums take of a pass: what is best was played with attention, bursts left aside."""
    best = one.tempo if one.clean and one.attentive and not one.burst else None
    day = one.day.isoformat()
    wrong = {hand: int(not one.clean and one.hand in (hand, "both")) for hand in ("picking", "fretting")}
    background = 0.0 if one.attentive else one.seconds
    return {
        **_row(one), **wrong, "best": best, "best_at": day if best else None, "day": day, "kind": one.drill.split(":")[0],
        "background": background,
    }  # fmt: skip


def _row(one: Pass) -> dict[str, Any]:
    row = {name: getattr(one, name) for name in COLUMNS}
    flags = {name: int(row[name]) for name in ("clean", "attentive", "burst")}
    return {**row, **flags, "at": one.at.isoformat(), "notes": " ".join(map(str, one.notes))}


def _pass(row: Sequence[Any]) -> Pass:
    given = dict(zip(COLUMNS, row, strict=True))
    for name in ("clean", "attentive", "burst"):
        given[name] = bool(given[name])
    return Pass(**{**given, "at": datetime.fromisoformat(given["at"]), "notes": _numbers(given["notes"])})


def _readable(rows: Iterable[Sequence[Any]]) -> Iterator[Pass]:
    """The passes of rows, those left out that cannot be read."""
    for row in rows:
        with suppress(DromicError, ValueError, TypeError, AttributeError, OverflowError):
            yield _pass(row)


def _drill_record(row: Sequence[Any]) -> DrillRecord | None:
    """What is summed up of a drill; None where it cannot be read."""
    try:
        last = date.fromisoformat(row[4])
        return DrillRecord(row[0], _numbers(row[1]), row[2], _date(row[3]), last, row[6], row[7], row[5])
    except (ValueError, TypeError, AttributeError):
        return None


def _numbers(text: str) -> tuple[int, ...]:
    return tuple(int(n) for n in text.split())


def _date(text: str | None) -> date | None:
    return date.fromisoformat(text) if text else None
