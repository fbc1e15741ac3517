"""Several requests on worker processes: the same plans as one after the other, refusals kept apart, and a cancel."""

from __future__ import annotations

import os
import struct
import subprocess
import sys
import tempfile
import textwrap
import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path

import pytest

from dromic import plan_workers, presets, processes
from dromic.core.search import builder
from dromic.core.search.planner import plan
from dromic.core.values.progress import Cancelled
from dromic.plan_workers import Workers
from tests.build import phrase, request


@pytest.fixture(scope="module")
def workers() -> Iterator[Workers]:
    made = Workers(2)
    yield made
    made.close()


LINE = phrase([(3, 5), (3, 7), (2, 5), (1, 5), (2, 8), (3, 7)] * 3)


def test_every_school_is_planned_as_it_would_be_alone(workers: Workers) -> None:
    requests = [request(LINE, school) for school in presets.schools()]
    heard: list[float] = []
    answers = workers.plan(requests, progress=lambda share: heard.append(share) is None)
    assert heard == sorted(heard) and len(heard) > 1
    for answer, one in zip(answers, requests, strict=True):
        assert answer.plan is not None and answer.plan.request is one
        alone = plan(one)
        assert answer.plan.cost == alone.cost and answer.plan.notes == alone.notes


def test_one_that_cannot_be_planned_spoils_no_other(workers: Workers) -> None:
    low = phrase([20, 22])
    answers = workers.plan([request(LINE), request(low), request(LINE, "alternate")])
    assert [a.plan is None for a in answers] == [False, True, False]
    assert "E2" in answers[1].refused


def test_a_cancel_stops_the_work_and_leaves_the_workers_usable(workers: Workers) -> None:
    long = replace(request(phrase([(3, 5), (2, 5), (1, 8)] * 400)), legato="anywhere")
    with pytest.raises(Cancelled):
        workers.plan([long] * 4, progress=lambda share: False)
    assert workers.plan([request(LINE)])[0].plan is not None


def test_one_callers_cancel_stops_no_other(workers: Workers) -> None:
    """Two pages plan on the same processes."""
    long = replace(request(phrase([(3, 5), (2, 5), (1, 8)] * 60)), legato="anywhere")
    answers: list[object] = []
    other = threading.Thread(target=lambda: answers.extend(workers.plan([long] * 3)))
    other.start()
    for _ in range(5):
        with pytest.raises(Cancelled):
            workers.plan([long] * 2, progress=lambda share: False)
    other.join(60)
    assert len(answers) == 3 and all(a.plan is not None for a in answers)  # type: ignore[attr-defined]


def test_starting_processes_loads_no_library_on_a_second_thread() -> None:
    """It hung for ever where the interface was loading its sound device meanwhile."""
    script = """
        import sys, threading
        from dromic.plan_workers import Workers
        if __name__ == "__main__":
            workers = Workers(1)
            before = set(sys.modules)
            asking = threading.Thread(target=workers.start)
            asking.start()
            asking.join()
            loaded = [sys.modules[n] for n in set(sys.modules) - before]
            print(*[m.__name__ for m in loaded if str(getattr(m, "__file__", "")).endswith(".so")])
            workers.close()
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "loads.py"
        path.write_text(textwrap.dedent(script))
        done = subprocess.run(
            [sys.executable, str(path)], capture_output=True, text=True, cwd=Path.cwd(), timeout=60, check=False
        )
    assert (done.stdout.strip(), done.returncode) == ("", 0)


def test_closing_waits_for_no_worker(workers: Workers) -> None:
    """Not even for one that does not listen; the job that asked hears that it is over, and begins nothing new."""
    own, heard = Workers(1), []
    own.start()

    def ask() -> None:
        for _ in range(2):
            try:
                own.run([partial(time.sleep, 60)])
            except Cancelled:
                heard.append("over")

    asking = threading.Thread(target=ask)
    asking.start()
    time.sleep(0.3)
    own.close()
    asking.join(20)
    assert heard == ["over", "over"]


def test_no_process_outlives_a_window_that_is_killed(tmp_path: Path) -> None:
    script = """
        import sys
        from pathlib import Path
        from dromic.plan_workers import Workers
        from dromic.store.reading import read_foreign
        if __name__ == "__main__":
            workers = Workers(2)
            pool = workers.start()
            tune = Path(sys.argv[1])
            tune.write_text("X:1\\nT:t\\nM:4/4\\nL:1/8\\nK:C\\nCDEF|\\n")
            read_foreign(tune)
            print(*pool._processes, flush=True)
            sys.stdin.read()
    """
    path = tmp_path / "beside.py"
    path.write_text(textwrap.dedent(script))
    words = [sys.executable, str(path), str(tmp_path / "x.abc")]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=Path.cwd()) as window:
        assert window.stdout is not None
        workers = [int(pid) for pid in window.stdout.readline().split()]
        everybody = [int(pid) for pid in _children(window.pid)]
        assert len(workers) == 2 and set(workers) < set(everybody)  # and the reader
        window.kill()
    until = time.monotonic() + 20
    while any(_lives(pid) for pid in everybody) and time.monotonic() < until:
        time.sleep(0.1)
    assert not any(_lives(pid) for pid in everybody)


def _children(pid: int) -> list[str]:
    return [p for task in Path(f"/proc/{pid}/task").iterdir() for p in (task / "children").read_text().split()]


def _lives(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def test_tasks_given_while_the_workers_are_closed_are_cancelled_not_a_fault(monkeypatch) -> None:
    """The window closes between the asking for processes and the giving of tasks."""
    made = Workers(1)
    pool = made.start()
    made.close()
    monkeypatch.setattr(made, "start", lambda: pool)
    with pytest.raises(Cancelled):
        made.run([partial(sum, (1, 2))])


def test_the_tables_of_the_last_hands_go_once_nothing_is_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    """As in a worker: what one call built serves the next, and is gone a while after the last."""
    monkeypatch.setattr(processes, "_GIVE_BACK_S", 0.1)
    monkeypatch.setattr(plan_workers._Here, "place", 0)
    asked = request(phrase([(6, 3), (5, 5), (4, 5)]))

    def held() -> int:
        return builder.kept_moves.cache_info().currsize

    monkeypatch.setattr(plan_workers._Here, "working", True)
    plan(asked)
    plan_workers._forget()
    assert held()  # a task is under way
    plan_workers._called(0, lambda: plan(asked))
    deadline = time.monotonic() + 20
    while held() and time.monotonic() < deadline:
        time.sleep(0.02)
    assert not held()
    assert plan_workers._called(0, lambda: plan(asked)).cost == plan(asked).cost


def test_workers_killed_amid_an_answer_are_not_waited_for() -> None:
    """Half a message lies in the pipe when they are ended."""
    made = Workers(1)
    pool = made.start()
    os.write(pool._result_queue._writer.fileno(), struct.pack("!i", 1000) + b"half")  # type: ignore[attr-defined]
    time.sleep(0.2)  # the pool begins to read it
    closing = threading.Thread(target=made.close, daemon=True)
    closing.start()
    closing.join(30)
    assert not closing.is_alive()
