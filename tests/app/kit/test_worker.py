"""Work off the interface thread: it never crashes however quickly jobs follow, and every job that is wanted reports."""

from __future__ import annotations

import subprocess
import sys
import textwrap
import threading
import weakref

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QObject

from dromic.app.kit.worker import Worker
from dromic.core.values.errors import DromicError
from dromic.core.values.progress import Cancelled


@pytest.fixture
def worker(qapp):
    made = Worker()
    yield made
    made.close()


def reports(worker):
    told = []
    worker.answered.connect(told.append)
    worker.refused.connect(told.append)
    worker.busy.connect(told.append)
    return told


def test_many_quick_starts_in_a_process_of_their_own():
    """A job that still waited or ran was freed once; the program then died."""
    script = """
        import gc, sys, time
        from PyQt6.QtCore import QCoreApplication, QEventLoop
        app = QCoreApplication([])
        from dromic.app.kit.worker import Worker
        worker, answers = Worker(), []
        worker.answered.connect(answers.append)
        def job(number):
            time.sleep(0.02)
            return number
        for turn in range(40):
            for number in range(12):
                worker.start(lambda progress, number=number: job(number))
            gc.collect()
            end = time.monotonic() + 0.03
            while time.monotonic() < end:
                app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
        while worker.running:
            app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
        worker.close()
        print(answers[-1])
    """
    words = [sys.executable, "-c", textwrap.dedent(script)]
    done = subprocess.run(words, check=False, capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == "11"


def test_only_the_newest_job_answers_and_those_that_waited_never_run(qtbot, worker):
    told, ran, first = reports(worker), [], threading.Event()

    def slow(progress):
        ran.append("slow")
        first.wait(10)
        return "slow"

    worker.start(slow)
    qtbot.waitUntil(lambda: ran == ["slow"])
    for number in range(20):
        worker.start(lambda progress, number=number: ran.append(number) or number)
    first.set()
    qtbot.waitUntil(lambda: not worker.running)
    assert ran == ["slow", 19] and [t for t in told if not isinstance(t, bool)] == [19]


@pytest.mark.parametrize(("error", "words"), [(Cancelled(), "stopped"), (DromicError("no such note"), "no such note")])
def test_a_job_that_ends_early_reports(qtbot, worker, error, words):
    told = reports(worker)

    def job(progress):
        raise error

    worker.start(job)
    qtbot.waitUntil(lambda: len(told) == 3)
    assert told[:2] == [True, False] and words in told[2]


def test_a_fault_in_a_job_reaches_the_one_hook(qtbot, worker, monkeypatch):
    told, hooked = reports(worker), []
    monkeypatch.setattr(sys, "excepthook", lambda kind, error, trace: hooked.append((kind, trace is not None)))
    worker.start(lambda progress: 1 / 0)
    qtbot.waitUntil(lambda: len(told) == 3)
    assert hooked == [(ZeroDivisionError, True)] and "fault" in told[2]


def test_a_job_that_has_ended_is_held_by_nobody(qtbot, worker):
    class Large:
        pass

    large = Large()
    gone = weakref.ref(large)
    worker.start(lambda progress, large=large: None)
    del large
    qtbot.waitUntil(lambda: not worker.running and gone() is None)


def test_a_closed_worker_begins_nothing(qtbot, worker):
    told = reports(worker)
    worker.close()
    worker.start(lambda progress: 1)
    assert told == [False] and not worker.running


def test_one_deleted_before_its_job_ends_is_told_nothing(qapp):
    owner, begun, end = QObject(), threading.Event(), threading.Event()
    made, stopped = Worker(owner), []

    def job(progress):
        begun.set()
        end.wait(5)
        stopped.append(not progress(0.5))

    made.start(job)
    assert begun.wait(5)
    thread = made._thread
    sip.delete(owner)
    end.set()
    thread.join(5)
    assert stopped == [True] and not thread.is_alive()
