"""Answers kept so that they are worked out once: bounded by the memory they take, and read in one step, since plans are
made on several threads at a time."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

V = TypeVar("V")


class Memo(Generic[V]):
    """Answers by their keys. When those held weigh more than `most_mb` (by what callers say of each), all are let go of:
    what is in use is soon there again. A key made of identities must be kept alive by its answer."""

    def __init__(self, most_mb: float) -> None:
        self._most = most_mb * 1e6
        self._held: dict[Hashable, V] = {}
        self._bytes = 0.0

    def get(self, key: Hashable, make: Callable[[], V], weigh: Callable[[V], float]) -> V:
        """The answer to a key, made if it is not held; `weigh` tells the bytes of one just made."""
        held = self._held  # another thread may put a new one in its place, but this one stays whole
        found = held.get(key)
        if found is None:
            found = make()
            weight = weigh(found)
            if self._bytes + weight > self._most:
                self._held, self._bytes = {}, 0.0
            self._held[key] = found
            self._bytes += weight
        return found
