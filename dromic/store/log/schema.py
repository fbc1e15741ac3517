"""The tables of the log, and how an older log is brought up to them: in one transaction, with progress, so that one that is broken
off stands as it was and is taken up again at the next opening."""

from __future__ import annotations

import json
import sqlite3
import time
import uuid
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from dromic.core.practice.log_pass import Pass
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled
from dromic.store.log.rows import STORED, UNREADABLE, numbers, row_of

VERSION = 3
Upgrading = Callable[[float], bool]
"""is told the share that is done, and says whether to go on"""
_OLD = ("at", "phrase", "drill", "tempo", "clean", "notes", "hand", "fault", "attentive", "seconds", "soreness", "burst", "player",
        "plan", "note")  # fmt: skip
"""the columns of versions 1 and 2"""
_CHUNK = 2000
"""Rows brought up at a time."""
_SAY_S = 0.1
"""Seconds from one word of progress to the next."""
_PASS = """CREATE TABLE pass (id INTEGER PRIMARY KEY, utc TEXT NOT NULL, offset_min INTEGER NOT NULL, phrase TEXT NOT NULL,
    drill TEXT NOT NULL, tempo REAL NOT NULL, clean INTEGER NOT NULL, notes TEXT NOT NULL, hand TEXT, fault TEXT,
    attentive INTEGER NOT NULL, seconds REAL NOT NULL, soreness INTEGER NOT NULL, burst INTEGER NOT NULL, player TEXT NOT NULL,
    plan TEXT NOT NULL, note TEXT NOT NULL, phrase_id TEXT NOT NULL, uid TEXT NOT NULL UNIQUE, key TEXT NOT NULL,
    day TEXT NOT NULL, lent INTEGER)"""
_OTHERS = (
    """CREATE TABLE drill (key TEXT, drill TEXT, notes TEXT, best REAL, best_at TEXT, last_day TEXT, newest REAL,
       passes INTEGER, clean INTEGER, PRIMARY KEY (key, drill))""",
    """CREATE TABLE day (key TEXT, day TEXT, drill TEXT, seconds REAL, passes INTEGER, clean INTEGER, picking INTEGER,
       fretting INTEGER, background REAL, fastest REAL, best REAL, best_id INTEGER, PRIMARY KEY (key, day, drill))""",
    "CREATE TABLE goal (key TEXT PRIMARY KEY, target REAL, ready TEXT)",
    "CREATE TABLE gone (uid TEXT PRIMARY KEY)",
    "CREATE TABLE unread (row TEXT)",
    "CREATE TABLE about (name TEXT PRIMARY KEY, value TEXT)",
)
_INDEXES = (
    "CREATE INDEX pass_by_drill ON pass (key, drill, utc)",
    "CREATE INDEX pass_by_time ON pass (utc)",
    "CREATE INDEX pass_by_title ON pass (phrase)",
    "CREATE INDEX pass_lent ON pass (lent) WHERE lent IS NOT NULL",
)
INSERT = f"INSERT OR IGNORE INTO pass ({', '.join(STORED)}) VALUES ({', '.join('?' * len(STORED))})"
_GOOD = "(clean AND attentive AND NOT burst)"
"""what counts as clean: played with attention, bursts left aside"""
_RANK = f"CASE WHEN NOT attentive THEN -1 WHEN {_GOOD} THEN tempo ELSE 0 END"
"""which pass of a day stands for it: the fastest good one, else any with attention"""
_WHERE = "WHERE (:key IS NULL OR key = :key) AND (:drill IS NULL OR drill = :drill)"
_OF_DRILL = f"""INSERT INTO drill
  SELECT p.key, p.drill, newest.notes, MAX(CASE WHEN {_GOOD} THEN tempo END), NULL, newest.day,
    MAX(CASE WHEN {_GOOD} AND p.day = newest.day THEN tempo END), COUNT(*), SUM(clean)
  FROM pass p JOIN (SELECT key, drill, notes, day, MAX(utc) FROM pass {_WHERE} GROUP BY key, drill) newest
    ON p.key = newest.key AND p.drill = newest.drill GROUP BY p.key, p.drill"""
_BEST_AT = f"""UPDATE drill SET best_at = (SELECT day FROM pass p WHERE p.key = drill.key AND p.drill = drill.drill AND {_GOOD}
  AND tempo = drill.best ORDER BY utc LIMIT 1) {_WHERE} AND best IS NOT NULL"""
_OF_DAY = f"""INSERT INTO day (key, day, drill, seconds, passes, clean, picking, fretting, background, fastest, best, best_id)
  SELECT key, day, drill, SUM(seconds), COUNT(*), SUM(clean), SUM(NOT clean AND COALESCE(hand, '') IN ('picking', 'both')),
    SUM(NOT clean AND COALESCE(hand, '') IN ('fretting', 'both')), SUM(CASE WHEN attentive THEN 0 ELSE seconds END),
    MAX(CASE WHEN clean AND NOT burst THEN tempo END), 0, NULL
  FROM pass {_WHERE} {{and_day}} GROUP BY key, day, drill"""
_BEST_OF_DAY = f"""UPDATE day SET (best, best_id) = (SELECT {_RANK} AS rank, id FROM pass p WHERE p.key = day.key
  AND p.drill = day.drill AND p.day = day.day ORDER BY rank DESC, id LIMIT 1) {_WHERE} {{and_day}}"""
_BEST_OF_DAYS = f"""UPDATE day SET (best, best_id) = (SELECT rank, id FROM ranked r WHERE r.key = day.key AND r.drill = day.drill
  AND r.day = day.day) {_WHERE}"""
_RANKED = f"CREATE TEMP TABLE ranked AS SELECT key, drill, day, id, MAX({_RANK}) AS rank FROM pass {_WHERE} GROUP BY key, drill, day"
_RANKED_KEY = "CREATE INDEX temp.ranked_by ON ranked (key, drill, day)"


def make(base: sqlite3.Connection) -> None:
    """An empty log, with an id of its own."""
    for words in (_PASS, *_OTHERS, *_INDEXES):
        base.execute(words)
    base.execute("INSERT INTO about VALUES ('log_id', ?)", (str(uuid.uuid4()),))
    base.execute(f"PRAGMA user_version = {VERSION}")


def sum_up(base: sqlite3.Connection, key: str | None = None, drill: str | None = None, day: str | None = None) -> None:
    """Sum passes up anew: of a key, of one of its drills, with `day` only that one of its days; of all of them."""
    given = {"key": key, "drill": drill, "day": day}
    and_day = "AND day = :day" if day else ""
    base.execute(f"DELETE FROM drill {_WHERE}", given)
    base.execute(f"DELETE FROM day {_WHERE} {and_day}", given)
    for words in (_OF_DRILL, _BEST_AT, _OF_DAY.format(and_day=and_day)):
        base.execute(words, given)
    if day:
        base.execute(_BEST_OF_DAY.format(and_day=and_day), given)
        return
    base.execute(_RANKED, given)
    base.execute(_RANKED_KEY)
    base.execute(_BEST_OF_DAYS, given)
    base.execute("DROP TABLE ranked")


def version_of(base: sqlite3.Connection, path: Path) -> int:
    """Of which version a log is; DromicError where it is of a newer Dromic, or no log."""
    version = int(base.execute("PRAGMA user_version").fetchone()[0])
    if version > VERSION:
        raise DromicError(f"the log {path} is of a newer Dromic; use that one")
    if version == 0 and base.execute("SELECT COUNT(*) FROM sqlite_master").fetchone()[0]:
        raise DromicError(f"{path} is a database of something else, not a log; choose another with --db")
    return version


def bring_up(base: sqlite3.Connection, path: Path, version: int, upgrading: Upgrading) -> None:
    """From an older version to this one, inside the transaction that runs. Cancelled where `upgrading` says so."""
    if version == 0:
        make(base)
        return
    goals = base.execute("SELECT phrase, target, ready FROM goal").fetchall() if version > 1 else []
    for name in ("drill", "day", *(["goal"] if version > 1 else [])):
        base.execute(f"DROP TABLE {name}")
    for name in ("pass_by_drill", "pass_by_time"):
        base.execute(f"DROP INDEX IF EXISTS {name}")
    base.execute("ALTER TABLE pass RENAME TO old")
    base.execute(_PASS)
    for words in _OTHERS:
        base.execute(words)
    whole = max(1, int(base.execute("SELECT COUNT(*) FROM old").fetchone()[0]))
    said = done = 0.0
    rows = base.execute(f"SELECT id, {', '.join(_OLD)} FROM old ORDER BY id")
    while chunk := rows.fetchmany(_CHUNK):
        good, bad = [], []
        for number, *row in chunk:
            try:
                good.append(row_of(_old_pass(row), f"old {number}"))
            except UNREADABLE:
                bad.append((json.dumps(row, default=str),))
        base.executemany(INSERT, good)
        base.executemany("INSERT INTO unread VALUES (?)", bad)
        done += len(chunk)
        if time.monotonic() - said > _SAY_S:
            said = time.monotonic()
            if not upgrading(0.8 * done / whole):
                raise Cancelled
    base.execute("DROP TABLE old")
    for words in _INDEXES:
        base.execute(words)
    sum_up(base)
    if not upgrading(1.0):
        raise Cancelled
    base.executemany("INSERT INTO goal VALUES (?, ?, ?)", [(f"title {phrase}", *rest) for phrase, *rest in goals])
    base.execute("INSERT INTO about VALUES ('log_id', ?)", (str(uuid.uuid4()),))
    base.execute(f"PRAGMA user_version = {VERSION}")


def _old_pass(row: list[object]) -> Pass:
    given = dict(zip(_OLD, row, strict=True))
    flags = {name: bool(given[name]) for name in ("clean", "attentive", "burst")}
    at, notes = datetime.fromisoformat(str(given["at"])), numbers(str(given["notes"]))
    return Pass(**{**given, **flags, "at": at, "notes": notes})  # type: ignore[arg-type]


def old_passes(base: sqlite3.Connection) -> set[tuple[object, ...]]:
    """What an older log holds, to be compared with another of its age or newer: (local time, title, drill, tempo, clean, seconds)."""
    return set(base.execute("SELECT at, phrase, drill, tempo, clean, seconds FROM pass"))
