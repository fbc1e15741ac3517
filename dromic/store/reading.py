"""Reads files of foreign kinds in a process of their own, which can be ended: whatever a file makes its reader do, the
program goes on, and closing waits for nobody."""

from __future__ import annotations

import multiprocessing
import resource
import threading
import time
import traceback
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path

from dromic.core.music.songbook import Entry
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.formats.limits import limit
from dromic.formats.table import read_entry, titles
from dromic.processes import end_with_parent

Read = tuple[Entry, tuple[str, ...]]
"""an entry, and the titles of the book it is from"""
_IDLE_S = 60.0
"""how long it waits for more work; the libraries it has loaded take memory"""
_LOOK_S = 0.05
"""how often the wish to go on is looked at"""


class ReadingFault(Exception):
    """A fault of Dromic's own while it read a file; holds the traceback of the other process."""


class Reader:
    """One process that reads, started when it is first wanted and again after it had to be ended."""

    def __init__(self) -> None:
        self._process: BaseProcess | None = None
        self._line: Connection | None = None
        self._one_at_a_time = threading.Lock()

    def read(self, path: Path, tune: int, wanted: Progress) -> Read:
        """A tune of a file; DromicError says why not, Cancelled that it is not `wanted` any more."""
        with self._one_at_a_time:
            for last in (False, True):
                try:
                    return self._read(path, tune, wanted)
                except (EOFError, OSError) as error:  # it may have gone for want of work just now
                    self.stop()
                    if last:
                        raise DromicError(
                            "reading it was stopped from outside, or took all the memory", path=path.name
                        ) from error
            raise AssertionError

    def _read(self, path: Path, tune: int, wanted: Progress) -> Read:
        line = self._started()
        line.send((path, tune))
        until = time.monotonic() + limit("reading_s")
        while not line.poll(_LOOK_S):
            if not wanted(0.0):
                self.stop()
                raise Cancelled
            if time.monotonic() > until:
                self.stop()
                raise DromicError(f"reading it takes over {limit('reading_s')} seconds; split it", path=path.name)
        answer = line.recv()
        if isinstance(answer, str):
            raise ReadingFault(answer)
        if isinstance(answer, DromicError):
            raise answer
        found: Read = answer
        return found

    def _started(self) -> Connection:
        if self._line is None or self._process is None or not self._process.is_alive():
            context = multiprocessing.get_context("spawn")  # a copy of a program that has threads may hang
            self._line, theirs = context.Pipe()
            self._process = context.Process(target=_serve, args=(theirs, limit("reading_mb")), daemon=True)
            self._process.start()
            theirs.close()
        return self._line

    def stop(self) -> None:
        """End the process, whatever it is at."""
        if self._process is not None:
            self._process.kill()
            self._process.join()
        if self._line is not None:
            self._line.close()
        self._process = self._line = None


_READER = Reader()


def read_foreign(path: Path, tune: int = 1, wanted: Progress = lambda share: True) -> Read:
    """A tune of a file that is no songbook of Dromic's own, read beside the program."""
    return _READER.read(path, tune, wanted)


def _serve(line: Connection, most_mb: int) -> None:
    """In the process that reads: answer one file after the other."""
    end_with_parent()
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (most_mb * 1_000_000, hard))
    while True:
        try:
            if not line.poll(_IDLE_S):
                return
            path, tune = line.recv()
        except EOFError:
            return
        line.send(_answer(path, tune, most_mb))


def _answer(path: Path, tune: int, most_mb: int) -> Read | DromicError | str:
    try:
        return read_entry(path, tune), tuple(titles(path))
    except DromicError as error:
        return error
    except MemoryError:
        return DromicError(f"reading it takes over {most_mb} MB of memory; split it", path=path.name)
    except Exception:  # noqa: BLE001 - told where the program tells its other faults
        return traceback.format_exc()
