"""Tells whether a file is still as it was read or written: by its system's marks, and where they differ by its content."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

Marks = tuple[int, int, int]


@dataclass(frozen=True, slots=True)
class Stamp:
    """A file at one moment: when it was changed last (ns), its size in bytes, its number on the disk; and the sum of its
    content."""

    changed_ns: int
    size: int
    number: int
    content: str

    @property
    def marks(self) -> Marks:
        return self.changed_ns, self.size, self.number


def stamped(path: Path, read: Callable[[Path], bytes]) -> tuple[bytes, Stamp | None]:
    """A file's content as `read` gives it, with the stamp it had before: what changes it meanwhile shows later."""
    marks = _marks(path)
    data = read(path)
    return data, Stamp(*marks, _sum(data)) if marks is not None else None


def stamp_after(path: Path, data: bytes) -> Stamp | None:
    """The stamp of a file that was just written."""
    marks = _marks(path)
    return Stamp(*marks, _sum(data)) if marks is not None else None


def has_changed(path: Path, stamp: Stamp | None) -> bool:
    """Whether a file holds something else than when it was stamped. One that is gone holds nothing that could be lost."""
    marks = _marks(path)
    if marks is None or (stamp is not None and stamp.marks == marks):
        return False
    if stamp is None or stamp.size != marks[1]:
        return True
    try:
        return not path.is_file() or _sum(path.read_bytes()) != stamp.content
    except OSError:
        return False


def _marks(path: Path) -> Marks | None:
    try:
        told = path.stat()
    except OSError:
        return None
    return told.st_mtime_ns, told.st_size, told.st_ino


def _sum(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()
