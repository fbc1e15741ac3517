"""Work not saved yet, kept aside every few seconds so that a crash or a power cut costs seconds.

Each running window has a slot: a lock it holds as long as it lives (the system lets go of it when the process dies,
however it dies) and a copy of its songbook. A slot with a copy and without a holder is what a lost window left behind.
"""

from __future__ import annotations

import fcntl
import json
import os
import threading
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import astuple, dataclass
from pathlib import Path

from dromic.core.values.errors import DromicError
from dromic.store.saving import held, save
from dromic.store.stamp import Stamp

_FAULTS = (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError)
"""what a damaged copy may end in"""

_COPY, _LOCK = ".unsaved", ".lock"


@dataclass(frozen=True, slots=True)
class Leftover:
    """What a lost window left: the songbook's bytes and the file it belongs to, if it had one."""

    slot: Path
    data: bytes
    path: Path | None
    stamp: Stamp | None = None
    """of that file, as the lost window knew it"""

    def forget(self) -> None:
        """Drop it for good."""
        for ending in (_COPY, _LOCK):
            with suppress(OSError):
                self.slot.with_suffix(ending).unlink()


class Slot:
    """The place where one window keeps its unsaved work."""

    def __init__(self, folder: Path) -> None:
        self.stem = folder / uuid.uuid4().hex
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._lock = os.open(self.stem.with_suffix(_LOCK), os.O_RDWR | os.O_CREAT, 0o600)
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise DromicError(f"{error.strerror or error}", path=str(folder)) from error
        self._writing = threading.Lock()
        """a copy may be written on one thread while another says that all is saved"""

    def keep(
        self, data: bytes, path: Path | None, stamp: Stamp | None = None, wanted: Callable[[], bool] = lambda: True
    ) -> None:
        """Keep a copy of unsaved work, if it is still `wanted`; DromicError if the disk does not take it."""
        entry = {
            "path": str(path) if path else None, "stamp": astuple(stamp) if stamp else None, "document": data.decode()
        }  # fmt: skip
        whole = json.dumps(entry).encode()
        with self._writing:
            if wanted():
                save(self.stem.with_suffix(_COPY), whole, private=True)

    def clear(self) -> None:
        """All is saved."""
        with self._writing, suppress(OSError):
            self.stem.with_suffix(_COPY).unlink()

    def leave(self) -> None:
        """Let go of the slot and leave its copy, for the next start to offer."""
        with suppress(OSError):
            self.stem.with_suffix(_LOCK).unlink()
        os.close(self._lock)

    def close(self) -> None:
        """The window goes in good order: nothing is left behind."""
        self.clear()
        with suppress(OSError):
            self.stem.with_suffix(_LOCK).unlink()
        os.close(self._lock)


def leftovers(folder: Path) -> list[Leftover]:
    """What lost windows left in a folder, the latest first; damaged copies are passed over."""
    return looked_through(folder)[0]


def looked_through(folder: Path) -> tuple[list[Leftover], list[str]]:
    """What lost windows left in a folder, the latest first, and the names of copies that are damaged."""
    damaged: list[str] = []
    found: list[tuple[float, Leftover]] = []
    copies: list[Path] = []
    with suppress(OSError):
        copies = list(folder.glob(f"*{_COPY}"))
    for copy in copies:
        try:
            if held(copy.with_suffix(_LOCK)):
                continue
            if not copy.is_file():
                raise ValueError("no file")
            entry = json.loads(copy.read_bytes())
            path = Path(entry["path"]) if entry["path"] else None
            stamp = Stamp(*entry["stamp"]) if entry.get("stamp") else None
            left = Leftover(copy.with_suffix(""), entry["document"].encode(), path, stamp)
            found.append((copy.stat().st_mtime, left))
        except _FAULTS:
            damaged.append(copy.name)
    return [left for _, left in sorted(found, key=lambda one: -one[0])], damaged
