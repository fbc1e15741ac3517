"""What the costs of a step depend on beside the states it joins: all of it one value, under which steps are kept."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dromic.core.hands.articulation_options import EventOptions
from dromic.core.values.arrays import Floats, Ints

NEVER = -2
"""events ago: not at all"""


class Since(NamedTuple):
    """How an earlier event stands to this one: how many events before the last one it lies, the time since in ms, n % 2 of the swing
    between them (None where n does not count), and whether there was a rest."""

    ago: int
    ms: float
    parity: int | None = None
    rested: bool = False


class EventFacts(NamedTuple):
    """An event as the step to it sees it."""

    offer: EventOptions
    gap_ms: float
    """from the event played before"""
    busy_ms: float
    """what bends take of it"""
    floor: float
    """the load that taps, tremolo and the palm set, whatever else the picking hand does"""
    after_pluck: bool
    """whether the event before is plucked for certain"""
    wished: int
    """the stroke its place in the beat wants where going against it has a price, else 0"""
    since: tuple[Since, ...]
    """the earlier events that a hand before it may remember"""
    yields: bool = False
    """whether the school's rule yields: over a seam that starts afresh"""

    @property
    def key(self) -> tuple[object, ...]:
        """What equal ones of one request share, whose equal offers are the same."""
        return (
            id(self.offer), self.gap_ms, self.busy_ms, self.floor, self.after_pluck, self.wished, self.since, self.yields
        )  # fmt: skip

    @property
    def bound(self) -> bool:
        """Whether the school's rule holds for the move to it."""
        return not (self.offer.forced or self.yields)

    def at(self, ago: int) -> Since:
        """How the event so many before the last one stands to this one."""
        return next((one for one in self.since if one.ago == ago), Since(NEVER, np.inf))

    def ms_since(self, ago: Ints) -> Floats:
        """Time in ms since the events so many ago [...], an array like `ago`; endless where there was none."""
        ms = np.full(ago.shape, np.inf)
        for one in self.since:
            ms[ago == one.ago] = one.ms
        return ms
