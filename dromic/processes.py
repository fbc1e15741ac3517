"""What processes beside the program's own need: that none outlives it."""

from __future__ import annotations

import contextlib
import ctypes
import gc
import multiprocessing
import os
import threading
from collections.abc import Callable
from multiprocessing.connection import wait
from typing import ClassVar

_M_ARENA_MAX = -8
"""the name of a setting of the C library's allocator (malloc.h)"""
_ARENAS = 2
_GIVE_BACK_S = 5.0
_COLLECTED = (10_000, 20, 20)
"""objects made, and younger collections, between collections of each generation"""


def share_arenas() -> None:
    """Have all threads take memory from the same few places: with one for each thread, what one gives back is of no use to
    the others, and a program with many threads grows without end. Does nothing where the C library knows no such setting."""
    try:
        ctypes.CDLL(None).mallopt(_M_ARENA_MAX, _ARENAS)
    except (OSError, AttributeError):
        return


def settle() -> None:
    """What has been made so far is here to stay: Python's collector looks past it from now on, and less often, since a plan makes many
    objects and drops nearly all of them by itself."""
    gc.freeze()
    gc.set_threshold(*_COLLECTED)
    gc.enable()


def give_back(first: Callable[[], None] | None = None) -> None:
    """Give memory that was freed back to the system, a few seconds from now and once for all who ask until then, every `first`
    having let go of more: the allocator keeps the pages between what is still in use, some tens of MB after a long plan. Does
    nothing where the C library cannot."""
    with _Given.turn:
        if first is not None:
            _Given.firsts.add(first)
        if _Given.coming:
            return
        _Given.coming = True
    later = threading.Timer(_GIVE_BACK_S, _give_back)
    later.daemon = True
    later.start()


def _give_back() -> None:
    with _Given.turn:
        _Given.coming = False
        firsts, _Given.firsts = _Given.firsts, set()
    for first in firsts:
        first()
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class _Given:
    """Whether memory is about to be given back, and what lets go of more before."""

    turn = threading.Lock()
    coming = False
    firsts: ClassVar[set[Callable[[], None]]] = set()


def end_with_parent() -> None:
    """In a process beside: go when the program has, however that went."""
    threading.Thread(target=_wait_for_the_end, daemon=True).start()


def _wait_for_the_end() -> None:
    parent = multiprocessing.parent_process()
    assert parent is not None
    wait([parent.sentinel])
    os._exit(1)
