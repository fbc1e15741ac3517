"""Several requests planned side by side on worker processes, which keep the tables they build from task to task."""

from __future__ import annotations

import importlib
import itertools
import multiprocessing
import os
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, replace
from functools import cached_property, partial
from multiprocessing.context import SpawnContext
from typing import TYPE_CHECKING, Any, TypeVar, cast

from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.questions.alternatives import alternatives
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.builder import forget_hands
from dromic.core.search.meant_pins import solve_meant
from dromic.core.search.planner import judge, solve
from dromic.core.setup.player import Lean
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled, Progress
from dromic.processes import end_with_parent, give_back, settle, share_arenas

if TYPE_CHECKING:
    from ctypes import Array, c_byte

T = TypeVar("T")
Leans = Mapping[str, tuple[Lean, ...]]
_MOST_WORKERS = 4
_YIELDING = 5
"""by how much the workers stand back for the window, whose thread must answer at once"""
_NEEDED = (
    "multiprocessing.sharedctypes", "multiprocessing.synchronize", "multiprocessing.queues",
    "multiprocessing.resource_tracker", "multiprocessing.popen_spawn_posix",
)  # fmt: skip
"""what starting the first process would import: done by whoever makes the pool, on its own thread. A library loaded on a
second thread while the first loads one that calls back into Python, as the sound device's does, would wait for ever."""
_LOOK_S = 0.05
"""how often a caller's wish to stop is looked at"""
_END_S = 2.0
"""how long it is waited for a pool's own thread"""
_CALLS = 64
"""how many calls may be under way at once; each has a place where its wish to stop is put down"""


@dataclass(frozen=True, eq=False)
class Answer:
    """The plan of one request, or the reason why there is none, and how long its worker took."""

    plan: Plan | None
    refused: str
    seconds: float


class Workers:
    """A pool of processes that plan, started at the first use and kept until closed."""

    def __init__(self, count: int | None = None) -> None:
        self.count = count or max(1, min(_MOST_WORKERS, os.cpu_count() or 1))
        self._pool: ProcessPoolExecutor | None = None
        self._numbers = itertools.count()
        self._starting = threading.Lock()
        self._closed = False
        for name in _NEEDED:
            importlib.import_module(name)

    @cached_property
    def _stops(self) -> Array[c_byte]:
        """For every call, by its place, whether it wants to stop: shared with the workers. Callers on several threads
        have one pool, and none may stop another's work."""
        stops: Array[c_byte] = self._context.RawArray("b", _CALLS)
        return stops

    @cached_property
    def _context(self) -> SpawnContext:
        """Fresh interpreters: a copy of a program that has threads may hang."""
        return multiprocessing.get_context("spawn")

    def start(self) -> ProcessPoolExecutor:
        """The pool with every worker up."""
        with self._starting:
            if self._closed:
                raise Cancelled
            if self._pool is None:
                self._pool = ProcessPoolExecutor(self.count, self._context, _begin, (self._stops,))  # type: ignore[arg-type]
                wait([self._pool.submit(time.sleep, 1.0 / self.count) for _ in range(self.count)])
            return self._pool

    def plan(
        self,
        requests: Sequence[Request],
        leans: Leans | None = None,
        progress: Progress = lambda share: True,
        came: Callable[[int, Answer], None] = lambda number, answer: None,
    ) -> list[Answer]:
        """An answer for every request, in their order, with remedies if `leans` are given to look among. `progress`
        hears the share done and answers whether to go on; Cancelled if not. `came` hears each answer, by its request's number, when
        it is there."""
        answers: dict[int, Answer] = {}

        def one(number: int, answer: Answer) -> None:
            if answer.plan is not None:
                answer = replace(answer, plan=replace(answer.plan, request=requests[number]))
            answers[number] = answer
            came(number, answer)

        tasks = [partial(_plan, request, leans) for request in requests]
        self.run(tasks, progress, [_weight(request) for request in requests], one)
        return [answers[number] for number in range(len(requests))]

    def run(
        self,
        tasks: Sequence[Callable[[], T]],
        progress: Progress = lambda share: True,
        weights: Sequence[int] = (),
        came: Callable[[int, T], None] = lambda number, answer: None,
    ) -> list[T]:
        """What each of some tasks answers, in their order, the heaviest begun first; `came` hears each when it is there. A task can
        be sent to another process, and asks `go_on` whether it should."""
        try:
            return self._run(tasks, progress, weights, came)
        except RuntimeError as error:  # the pool is broken; or closed just now, which takes no more tasks
            if self._closed:
                raise Cancelled from error
            if not isinstance(error, BrokenProcessPool):
                raise
            self._pool = None
            raise DromicError(
                "the planning processes were stopped from outside; ask again to start new ones"
            ) from error

    def _run(
        self,
        tasks: Sequence[Callable[[], T]],
        progress: Progress,
        weights: Sequence[int],
        came: Callable[[int, T], None],
    ) -> list[T]:
        pool = self.start()
        order = sorted(range(len(tasks)), key=lambda i: -weights[i] if weights else 0)
        place = next(self._numbers) % _CALLS
        self._stops[place] = 0
        waiting = {pool.submit(_called, place, tasks[i]): i for i in order}
        answers: dict[int, T] = {}
        while waiting:
            if not progress(len(answers) / len(tasks)):
                self._cancel(list(waiting), place)
                raise Cancelled
            for one in wait(waiting, timeout=_LOOK_S, return_when=FIRST_COMPLETED).done:
                number = waiting.pop(one)
                answers[number] = one.result()
                came(number, answers[number])
        return [answers[i] for i in range(len(tasks))]

    def close(self) -> None:
        """End the workers, whatever they are at, and begin no others."""
        with self._starting:
            self._closed = True
            pool, self._pool = self._pool, None
        if pool is not None:
            _end(pool)

    def _cancel(self, waiting: Sequence[Future[T]], place: int) -> None:
        self._stops[place] = 1
        wait([one for one in waiting if not one.cancel()])


def _end(pool: ProcessPoolExecutor) -> None:
    """End a pool whatever its workers are at. What waits is cancelled before they are killed, or the pool's thread would take them for
    broken. One killed amid a message leaves half of it in a pipe of which this process has both ends: closed, it is over there."""
    inner: Any = pool
    thread, calls, answers = inner._executor_manager_thread, inner._call_queue, inner._result_queue
    processes = list((inner._processes or {}).values())
    pool.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.kill()
    if thread is not None:
        thread.join(_END_S)
        if thread.is_alive():
            answers._writer.close()
            calls._reader.close()
            thread.join(_END_S)


def _weight(request: Request) -> int:
    """Which requests to begin first: those whose schools leave the picking hand most to choose."""
    school = request.school
    return 2 * (school.legato != "never") + (school.plucks != "stated")


class _Here:
    """In a worker: the wishes of all callers to stop, and the place of the one it works for."""

    stops: Sequence[int] = ()
    place = 0
    working = False


def _begin(stops: Sequence[int]) -> None:
    _Here.stops = stops
    share_arenas()
    settle()
    os.nice(_YIELDING)
    end_with_parent()


def _called(place: int, task: Callable[[], T]) -> T:
    _Here.place, _Here.working = place, True
    try:
        return task()
    finally:
        _Here.working = False
        give_back(_forget)


def _forget() -> None:
    """Nothing was asked for a while: the tables of the last hands go, since they come to more than a worker itself."""
    if not _Here.working:
        forget_hands()


def go_on(share: float) -> bool:
    """In a worker: whether its caller still wants the answer."""
    return not (_Here.stops and _Here.stops[_Here.place])


def _plan(request: Request, leans: Leans | None) -> Answer:
    began = time.perf_counter()
    try:
        solved = solve(request, go_on)
        plan = judge(solved) if leans is None else with_remedies(solved, leans, go_on)
    except DromicError as error:
        return Answer(None, str(error), time.perf_counter() - began)
    # the caller has the request: to send it back would take half as long again
    return Answer(replace(plan, request=cast("Request", None)), "", time.perf_counter() - began)


def plan_alternatives(request: Request, count: int) -> list[Plan]:
    """In a worker: up to so many plans of a request that really differ from its best, best first; none where it has no
    plan."""
    try:
        solved = solve_meant(request, go_on)
    except DromicError:
        return []
    return [judge(one) for one in alternatives(solved, count + 1)[1:]]
