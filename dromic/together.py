"""Several requests planned side by side on worker processes, which keep the tables they build from task to task."""

from __future__ import annotations

import multiprocessing
import os
import time
from collections.abc import Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from dataclasses import dataclass, replace
from multiprocessing.synchronize import Event

from dromic.core.errors import DromicError
from dromic.core.plan import Plan, Request
from dromic.core.planner import Cancelled, Progress, solve
from dromic.core.player import Lean
from dromic.core.remedies import with_remedies

Leans = Mapping[str, tuple[Lean, ...]]
_MOST_WORKERS = 4
_LOOK_S = 0.05
"""how often a caller's wish to stop is looked at"""


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
        # fresh interpreters: a copy of a program that has threads may hang
        self._context = multiprocessing.get_context("spawn")
        self._stop: Event = self._context.Event()

    def start(self) -> ProcessPoolExecutor:
        """The pool with every worker up."""
        if self._pool is None:
            self._pool = ProcessPoolExecutor(self.count, self._context, _begin, (self._stop,))
            wait([self._pool.submit(time.sleep, 1.0 / self.count) for _ in range(self.count)])
        return self._pool

    def plan(
        self, requests: Sequence[Request], leans: Leans | None = None, progress: Progress = lambda share: True
    ) -> list[Answer]:
        """An answer for every request, in their order, with remedies if `leans` are given to look among. `progress`
        hears the share done and answers whether to go on; Cancelled if not."""
        pool = self.start()
        order = sorted(range(len(requests)), key=lambda i: -_weight(requests[i]))
        waiting = {pool.submit(_plan, requests[i], leans): i for i in order}
        answers: dict[int, Answer] = {}
        while waiting:
            if not progress(len(answers) / len(requests)):
                self._cancel(list(waiting))
                raise Cancelled
            for one in wait(waiting, timeout=_LOOK_S, return_when=FIRST_COMPLETED).done:
                i = waiting.pop(one)
                answer = one.result()
                answers[i] = replace(answer, plan=replace(answer.plan, request=requests[i])) if answer.plan else answer
        return [answers[i] for i in range(len(requests))]

    def close(self) -> None:
        """Let the workers go, whatever they are at."""
        if self._pool is not None:
            self._stop.set()
            self._pool.shutdown(cancel_futures=True)
            self._pool = None
            self._stop.clear()

    def _cancel(self, waiting: Sequence[Future[Answer]]) -> None:
        self._stop.set()
        running = [one for one in waiting if not one.cancel()]
        wait(running)
        self._stop.clear()


def _weight(request: Request) -> int:
    """Which requests to begin first: those whose schools leave the picking hand most to choose."""
    school = request.school
    return 2 * (school.legato != "never") + (school.plucks != "stated")


_stops: list[Event] = []
"""in a worker: set when its caller asks to stop"""


def _begin(stop: Event) -> None:
    _stops.append(stop)


def _go_on(share: float) -> bool:
    return not any(stop.is_set() for stop in _stops)


def _plan(request: Request, leans: Leans | None) -> Answer:
    began = time.perf_counter()
    try:
        solved = solve(request, _go_on)
        plan = solved.plan if leans is None else with_remedies(solved, leans, _go_on)
    except DromicError as error:
        return Answer(None, str(error), time.perf_counter() - began)
    return Answer(plan, "", time.perf_counter() - began)
