"""Work not saved yet, kept aside every few seconds so that a crash or a power cut costs seconds.

Each running window has a slot: a lock it holds as long as it lives (the system lets go of it when the process dies,
however it dies) and a copy of its songbook. A slot with a copy and without a holder is what a lost window left behind.
"""

from __future__ import annotations

import fcntl
import json
import os
import uuid
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from dromic.store.saving import save

_COPY, _LOCK = ".unsaved", ".lock"


@dataclass(frozen=True, slots=True)
class Leftover:
    """What a lost window left: the songbook's bytes and the file it belongs to, if it had one."""

    slot: Path
    data: bytes
    path: Path | None

    def forget(self) -> None:
        """Drop it for good."""
        for ending in (_COPY, _LOCK):
            with suppress(OSError):
                self.slot.with_suffix(ending).unlink()


class Slot:
    """The place where one window keeps its unsaved work."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.stem = folder / uuid.uuid4().hex
        self._lock = os.open(self.stem.with_suffix(_LOCK), os.O_RDWR | os.O_CREAT, 0o600)
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)

    def keep(self, data: bytes, path: Path | None) -> None:
        """Keep a copy of unsaved work; DromicError if the disk does not take it."""
        entry = {"path": str(path) if path else None, "document": data.decode()}
        save(self.stem.with_suffix(_COPY), json.dumps(entry).encode())

    def clear(self) -> None:
        """All is saved."""
        with suppress(OSError):
            self.stem.with_suffix(_COPY).unlink()

    def close(self) -> None:
        """The window goes in good order: nothing is left behind."""
        self.clear()
        with suppress(OSError):
            self.stem.with_suffix(_LOCK).unlink()
        os.close(self._lock)


def leftovers(folder: Path) -> list[Leftover]:
    """What lost windows left in a folder, the latest first; damaged copies are passed over."""
    found = []
    copies = sorted(folder.glob(f"*{_COPY}"), key=lambda p: p.stat().st_mtime, reverse=True)
    for copy in copies:
        if _held(copy.with_suffix(_LOCK)):
            continue
        try:
            entry = json.loads(copy.read_bytes())
            path = Path(entry["path"]) if entry["path"] else None
            found.append(Leftover(copy.with_suffix(""), entry["document"].encode(), path))
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            continue
    return found


def _held(lock: Path) -> bool:
    try:
        handle = os.open(lock, os.O_RDWR)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False
