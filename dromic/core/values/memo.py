"""Answers kept so that they are worked out once: bounded by the memory they take, and read in one step, since plans are
made on several threads at a time."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, ClassVar, Generic, TypeVar
from weakref import WeakSet

V = TypeVar("V")
_MOST_TOGETHER = 80e6
"""bytes that all memos of a process hold together, the small ones inside their answers left out; a setting of ours"""


class Memo(Generic[V]):
    """Answers by their keys. When those held weigh more than `most_mb` (by what callers say of each), all are let go of:
    what is in use is soon there again. So it is when all memos together hold too much; a `small` one, whose holder is an
    answer itself, is not counted. A key made of identities must be kept alive by its answer."""

    _all: ClassVar[WeakSet[Memo[Any]]] = WeakSet()

    def __init__(self, most_mb: float, small: bool = False) -> None:
        self._most = most_mb * 1e6
        self._held: dict[Hashable, V] = {}
        self._bytes = 0.0
        if not small:
            Memo._all.add(self)

    def get(self, key: Hashable, make: Callable[[], V], weigh: Callable[[V], float]) -> V:
        """The answer to a key, made if it is not held; `weigh` tells the bytes of one just made."""
        held = self._held  # another thread may put a new one in its place, but this one stays whole
        found = held.get(key)
        if found is None:
            found = make()
            weight = weigh(found)
            if self._bytes + weight > self._most:
                self._let_go()
            if sum(memo._bytes for memo in list(Memo._all)) + weight > _MOST_TOGETHER:
                for memo in list(Memo._all):
                    memo._let_go()
            self._held[key] = found
            self._bytes += weight
        return found

    def _let_go(self) -> None:
        self._held, self._bytes = {}, 0.0
