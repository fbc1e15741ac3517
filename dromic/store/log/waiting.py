"""What waits for the log: deeds in a file of their own beside it, one a line, locked as long as their writer lives."""

from __future__ import annotations

import fcntl
import json
import os
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

_WAITING = ".waiting-"
_NEEDS: dict[str, frozenset[str]] = {
    "keep": frozenset({"passes", "uids"}),
    "take back": frozenset({"uids"}),
    "note": frozenset({"uid", "text"}),
    "goal": frozenset({"of", "target", "ready"}),
}
"""what each kind of deed is done with; a line of a file that has it not is none"""


@dataclass(frozen=True, slots=True)
class Deed:
    """One thing to be done to the log: `what` is a name of `_DONE`, `given` what it is done with, as JSON has it."""

    what: str
    given: dict[str, Any]


def passes_of(deeds: Sequence[Deed]) -> int:
    """How many passes deeds would keep."""
    back = {uid for deed in deeds if deed.what == "take back" for uid in deed.given["uids"]}
    return sum(uid not in back for deed in deeds if deed.what == "keep" for uid in deed.given["uids"])


def waits(log: Path) -> bool:
    """Whether anything was left waiting for a log."""
    return any(log.parent.glob(f"{log.name}{_WAITING}*"))


class Aside:
    """A file beside the log with what waits, locked as long as its writer lives; it is made when something has to wait."""

    def __init__(self, log: Path) -> None:
        self.path = log.with_name(f"{log.name}{_WAITING}{uuid.uuid4().hex[:12]}")
        self._file: int | None = None
        self._written: list[Deed] = []

    def write(self, deeds: list[Deed]) -> str:
        """Have it hold these alone; what is wrong, nothing for nothing."""
        if deeds == self._written:
            return ""
        try:
            if self._file is None:
                self.path.parent.mkdir(parents=True, exist_ok=True)
                self._file = os.open(self.path, os.O_RDWR | os.O_CREAT, 0o600)
                fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            more = deeds[len(self._written) :] if deeds[: len(self._written)] == self._written else deeds
            if more is deeds:
                os.ftruncate(self._file, 0)
                os.lseek(self._file, 0, os.SEEK_SET)
            for deed in more:
                os.write(self._file, (json.dumps(asdict(deed)) + "\n").encode())
            os.fsync(self._file)
        except OSError as error:
            return error.strerror or str(error)
        self._written = deeds
        return ""

    def close(self) -> None:
        """Let go of it; it goes where nothing waits any more."""
        if self._file is not None:
            if not self._written:
                with suppress(OSError):
                    self.path.unlink()
            os.close(self._file)
            self._file = None


def left(log: Path) -> Iterator[tuple[list[Deed], Callable[[bool], None]]]:
    """What waits beside a log and whose writer is gone, with what lets go of it: for good, or for another start."""
    for path in sorted(log.parent.glob(f"{log.name}{_WAITING}*")):
        try:
            handle = os.open(path, os.O_RDWR)
        except OSError:
            continue
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            text = path.read_text("utf-8", errors="replace")
        except OSError:
            os.close(handle)
            continue
        deeds = []
        for line in text.splitlines():
            with suppress(ValueError, TypeError, RecursionError):
                deed = Deed(**json.loads(line))
                if isinstance(deed.given, dict) and _NEEDS.get(deed.what, frozenset({""})) <= set(deed.given):
                    deeds.append(deed)

        def forget(good: bool, path: Path = path, handle: int = handle) -> None:
            with suppress(OSError):
                if good:
                    path.unlink()
            os.close(handle)

        yield deeds, forget
