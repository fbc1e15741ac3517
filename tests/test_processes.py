"""What was freed goes back to the system."""

from __future__ import annotations

import time

import numpy as np
import pytest

from dromic import processes
from tests.watched_window import megabytes


@pytest.fixture
def soon(monkeypatch):
    """Memory is given back after a moment."""
    monkeypatch.setattr(processes, "_GIVE_BACK_S", 0.2)


def comes(true):
    """Whether something is so before long."""
    deadline = time.monotonic() + 20
    while not true() and time.monotonic() < deadline:
        time.sleep(0.05)
    return true()


def test_what_lies_free_between_what_is_in_use_is_given_back(soon):
    blocks = [
        np.ones(1500 + n % 7) for n in range(16000)
    ]  # 12 kB each: more than a page, less than the allocator maps alone
    full = megabytes()[0]
    del blocks[::2]
    for _ in range(3):
        processes.give_back()  # however many ask, once will do
    assert comes(lambda: megabytes()[0] < full - 50) and len(blocks) == 8000


def test_it_is_given_back_again_for_who_asks_later(soon, monkeypatch):
    given = []
    monkeypatch.setattr(processes.ctypes, "CDLL", lambda name: type("C", (), {"malloc_trim": given.append})())
    for count in (1, 2):
        processes.give_back()
        processes.give_back()
        assert comes(lambda count=count: not processes._Given.coming and len(given) == count)


def test_what_lets_go_of_more_is_heard_whoever_asked_before(soon):
    """Who asked first asked for nothing beside, and what the next one wanted to let go of stayed."""
    gone = []
    processes.give_back()
    processes.give_back(lambda: gone.append(1))
    assert comes(lambda: gone == [1])
