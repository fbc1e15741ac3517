"""Reads files of foreign kinds, and hears takes, in a process of their own, which can be ended: whatever a file makes its reader do,
the program goes on, and closing waits for nobody."""

from __future__ import annotations

import multiprocessing
import resource
import threading
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import TYPE_CHECKING, cast

from dromic.core.music.songbook import Entry
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.formats.limits import limit
from dromic.formats.table import read_entry, titles
from dromic.processes import end_with_parent

if TYPE_CHECKING:
    from dromic.core.listening.report import TakeReport
    from dromic.core.listening.verdicts import Manner
    from dromic.core.plan.plan import Plan

Read = tuple[Entry, tuple[str, ...]]
"""an entry, and the titles of the book it is from"""
_IDLE_S = 60.0
"""how long it waits for more work; the libraries it has loaded take memory"""
_LOOK_S = 0.05
"""Seconds from one look at the wish to go on to the next."""
_SAY_S = 0.1
"""Seconds from one word of the other process on how far it is to the next."""
Job = Callable[[Progress], object]
"""what can go to another process and be done there"""


@dataclass(frozen=True)
class _Share:
    """How far the other process is."""

    done: float


@dataclass(frozen=True)
class _Fault:
    """What went wrong there."""

    trace: str


class ReadingFault(Exception):
    """A fault of Dromic's own while it read a file; holds the traceback of the other process."""


class Reader:
    """One process that reads, started when it is first wanted and again after it had to be ended."""

    def __init__(self) -> None:
        self._process: BaseProcess | None = None
        self._line: Connection | None = None
        self._one_at_a_time = threading.Lock()

    def run(self, job: Job, path: Path, most_s: float, wanted: Progress) -> object:
        """What a job answers, within so many seconds; DromicError says why it does not, Cancelled that it is not `wanted` any more."""
        with self._one_at_a_time:
            for last in (False, True):
                try:
                    return self._run(job, path, most_s, wanted)
                except (EOFError, OSError) as error:  # it may have gone for want of work just now
                    self.stop()
                    if last:
                        raise DromicError(
                            "reading it was stopped from outside, or took all the memory", path=path.name
                        ) from error
            raise AssertionError

    def _run(self, job: Job, path: Path, most_s: float, wanted: Progress) -> object:
        line = self._started()
        line.send((job, path.name))
        until, share = time.monotonic() + most_s, 0.0
        while True:
            if line.poll(_LOOK_S):
                answer = line.recv()
                if not isinstance(answer, _Share):
                    break
                share = answer.done
            if not wanted(share):
                self.stop()
                raise Cancelled
            if time.monotonic() > until:
                self.stop()
                raise DromicError(f"reading it takes over {most_s:.0f} seconds; split it", path=path.name)
        if isinstance(answer, _Fault):
            raise ReadingFault(answer.trace)
        if isinstance(answer, DromicError):
            raise answer
        return answer

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


_READER, _LISTENER = Reader(), Reader()


def read_foreign(path: Path, tune: int = 1, wanted: Progress = lambda share: True) -> Read:
    """A tune of a file that is no songbook of Dromic's own, read beside the program."""
    found = _READER.run(_ReadFile(path, tune), path, limit("reading_s"), wanted)
    return cast("Read", found)


def hear_file(
    plan: Plan, path: Path, name: str, manner: Manner, wanted: Progress = lambda share: True, skip_s: float = 0.0
) -> TakeReport:
    """What is said of a take in a file from a second on, heard beside the program."""
    found = _LISTENER.run(_HearFile(plan, path, name, manner, skip_s), path, limit("hearing_s"), wanted)
    return cast("TakeReport", found)


@dataclass(frozen=True)
class _ReadFile:
    path: Path
    tune: int

    def __call__(self, _go_on: Progress) -> Read:
        return read_entry(self.path, self.tune), tuple(titles(self.path))


@dataclass(frozen=True)
class _HearFile:
    plan: Plan
    path: Path
    name: str
    manner: Manner
    skip_s: float

    def __call__(self, go_on: Progress) -> TakeReport:
        from dromic.sound.hearing.listening import check
        from dromic.sound.hearing.take_file import check_size

        check_size(self.path)
        return check(self.plan, self.path, self.name, self.manner, go_on, self.skip_s)


def _serve(line: Connection, most_mb: int) -> None:
    """In the process that reads: answer one file after the other."""
    end_with_parent()
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (most_mb * 1_000_000, hard))
    while True:
        try:
            if not line.poll(_IDLE_S):
                return
            job, name = line.recv()
        except EOFError:
            return
        line.send(_answer(job, name, line, most_mb))


def _answer(job: Job, name: str, line: Connection, most_mb: int) -> object:
    told = time.monotonic()

    def go_on(share: float) -> bool:
        nonlocal told
        if time.monotonic() - told > _SAY_S:
            told = time.monotonic()
            line.send(_Share(share))
        return True

    try:
        return job(go_on)
    except DromicError as error:
        return error
    except MemoryError:
        return DromicError(f"reading it takes over {most_mb} MB of memory; split it", path=name)
    except Exception:  # noqa: BLE001 - told where the program tells its other faults
        return _Fault(traceback.format_exc())
