"""What keeps a log from being read or written, in words: SQLite's conditions told apart by their primary result codes."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from dromic.core.values.errors import DromicError

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


LOG_FAULTS = (OSError, sqlite3.Error, UnicodeDecodeError)
"""what reading or writing a log ends in. SQLite quotes a damaged schema in its message, which Python then cannot decode"""


class LogHeld(DromicError):
    """Another program holds the log for now."""


def why(error: Exception) -> str:
    """What is wrong, and what to do."""
    if isinstance(error, OSError):
        return f"cannot be reached ({error.strerror or error}); choose another with --db"
    if isinstance(error, UnicodeDecodeError):
        return "is damaged; it is left as it is"
    primary = _primary(error)
    told = next((words for codes, words in _WHY if primary in codes), None)
    return told or f"is damaged ({error}); it is left as it is"


def log_error(path: Path, error: Exception) -> DromicError:
    """The same as an error of the log at `path`."""
    held = _primary(error) in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED)
    return (LogHeld if held else DromicError)(f"the log {path} {why(error)}")


def _primary(error: Exception) -> int | None:
    code = getattr(error, "sqlite_errorcode", None)
    return code & 0xFF if code is not None else None
