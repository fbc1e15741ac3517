"""What passes tell of a drill's limit, the tempo at which it comes clean half the time but for lapses, and of what makes it grow.

A belief is a normal law of the limit's logarithm and of the gain a pass brings, once under each idea of what makes a limit grow; the
odds of the ideas go by how well each foresaw the passes (assumed density filtering, Minka 2001; the binary response with a lapse
rate, Wichmann and Hill 2001). Nobody knows which idea holds for a player, so all are kept open and the passes decide. The ideas:
*near*, what is near the limit teaches, clean or missed (the challenge point, Guadagnoli and Lee 2004); *clean*, only clean passes do,
and misses teach missing (errorless learning, Maxwell and others 2001); *fast*, what is a little too fast teaches most (common
practice). The numbers are choices, made on drawn learners of `bench/learners.py`."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from dromic.core.practice.log_pass import Pass
from dromic.core.setup.practice_settings import LimitNumbers

NEAR, CLEAN, FAST = "near", "clean", "fast"
_POINTS, _MASSES = np.polynomial.hermite_e.hermegauss(9)
_NODES = tuple((float(x), float(w / _MASSES.sum())) for x, w in zip(_POINTS, _MASSES, strict=True))
_SHARES = tuple(0.86 + 0.01 * n for n in range(23))
"""of the limit, at which a pass may be asked for"""
_LEAST_GAIN = 1e-5
_LEAST_SPREAD = 0.01
"""of what one pass leaves of a variance, as a share"""


def _near(share: float, clean: bool) -> float:
    return math.exp(-(((share - 0.95) / 0.12) ** 2))


def _clean(share: float, clean: bool) -> float:
    return min(1.0, max(0.0, (share - 0.5) / 0.4)) * (1.0 if clean else -0.25)


def _fast(share: float, clean: bool) -> float:
    return 1.1 * math.exp(-(((share - 1.02) / 0.10) ** 2))


IDEAS: dict[str, Callable[[float, bool], float]] = {NEAR: _near, CLEAN: _clean, FAST: _fast}
"""how much of its gain a pass brings, by its tempo as a share of the limit and whether it was clean"""


class _View(NamedTuple):
    """The belief under one idea: logarithms of the limit and their gain a pass."""

    limit: float
    gain: float
    spread2: float
    between: float
    gain2: float
    foresaw: float
    """the chance it gave the last pass"""


@dataclass(frozen=True, slots=True)
class Belief:
    """What is believed of a drill's limit at a moment of a day."""

    numbers: LimitNumbers
    views: tuple[_View, ...]
    odds: tuple[float, ...]
    """of each idea, in their order; 1 in sum"""
    day: date | None = None
    today: int = 0
    """passes of that day"""

    @staticmethod
    def of(limit: float, spread: float, numbers: LimitNumbers, odds: Sequence[float] = ()) -> Belief:
        """Before the first pass: `spread` is the standard deviation of the limit's logarithm; `odds` of the ideas in their order."""
        view = _View(math.log(limit), numbers.gain, spread**2, 0.0, numbers.gain_spread**2, 1.0)
        return Belief(numbers, (view,) * len(IDEAS), _shares(odds or _usual(numbers)))

    def on(self, day: date) -> Belief:
        """The same on a day: over night, and over each day without practice, a little is lost."""
        if self.day == day:
            return self
        if self.day is None:
            return replace(self, day=day)
        n = self.numbers
        days = max(1, (day - self.day).days)
        lost = min(n.night + n.day_off * (days - 1), n.most_off)
        views = tuple(
            v._replace(limit=v.limit - lost, spread2=v.spread2 + n.night_spread**2 * days) for v in self.views
        )
        return replace(self, views=views, day=day, today=0)

    def after(self, one: Pass) -> Belief:
        """With one more pass."""
        return self.on(one.day).told(one.tempo, one.clean)

    def over(self, passes: Sequence[Pass]) -> Belief:
        """With these, in their order."""
        now = self
        for one in passes:
            now = now.after(one)
        return now

    def told(self, tempo: float, clean: bool) -> Belief:
        """With a pass of the same day."""
        n, off = self.numbers, self._off
        views = tuple(
            _told(view, idea, math.log(tempo), clean, off, n)
            for view, idea in zip(self.views, IDEAS.values(), strict=True)
        )
        return replace(self, views=views, odds=self._judged(views), today=self.today + 1)

    def _judged(self, views: Sequence[_View]) -> tuple[float, ...]:
        """The odds after a pass, once the limit is known well enough to tell growth from finding it out. A share of them goes back to
        what they were at first, so that no idea is given up for good (fixed share, Herbster and Warmuth 1998)."""
        n = self.numbers
        if 0.0 in self.odds or any(v.spread2 > n.judge_from**2 for v in views):
            return self.odds
        judged = _shares([o * v.foresaw for o, v in zip(self.odds, views, strict=True)])
        return tuple((1 - n.reopen) * o + n.reopen * usual for o, usual in zip(judged, _shares(_usual(n)), strict=True))

    @property
    def _off(self) -> float:
        """What cold hands and tired ones lack, of the limit's logarithm."""
        n = self.numbers
        return -n.cold * max(0.0, 1.0 - self.today / n.cold_passes) - n.tired * self.today

    @property
    def limit(self) -> float:
        """Its middle, quarters a minute, as the hands are at this pass of the day."""
        return math.exp(sum(o * v.limit for o, v in zip(self.odds, self.views, strict=True)) + self._off)

    @property
    def spread(self) -> float:
        """Its standard deviation, as a share of the limit."""
        return math.sqrt(sum(o * v.spread2 for o, v in zip(self.odds, self.views, strict=True)))

    @property
    def share(self) -> float:
        """Of the limit, where a pass makes it grow most by all that is believed."""
        worth = [0.0] * len(_SHARES)
        for odd, view, grows in zip(self.odds, self.views, _growth(self.numbers), strict=True):
            for n, grown in enumerate(grows):
                worth[n] += odd * max(view.gain, _LEAST_GAIN) * grown
        return _SHARES[max(range(len(_SHARES)), key=worth.__getitem__)]


def _usual(n: LimitNumbers) -> tuple[float, ...]:
    return n.odds_near, n.odds_clean, n.odds_fast


def _shares(parts: Sequence[float]) -> tuple[float, ...]:
    return tuple(part / sum(parts) for part in parts)


def _chance(over: float, n: LimitNumbers) -> float:
    return (1.0 - n.lapse) / (1.0 + math.exp(-n.slope * over))


def _told(
    view: _View, idea: Callable[[float, bool], float], tempo: float, clean: bool, off: float, n: LimitNumbers
) -> _View:
    middle, spread = view.limit + off, math.sqrt(view.spread2)
    mass = first = second = 0.0
    for x, weight in _NODES:
        chance = _chance(middle + spread * x - tempo, n)
        part = weight * (chance if clean else 1.0 - chance)
        mass, first, second = mass + part, first + part * x, second + part * x * x
    moved = first / mass
    left = max(_LEAST_SPREAD, second / mass - moved**2)
    slope = view.between / view.spread2
    limit, gain = view.limit + moved * spread, view.gain + slope * moved * spread
    gain2 = view.gain2 - slope * view.between * (1.0 - left)
    between, spread2 = view.between * left, view.spread2 * left
    grown = idea(math.exp(tempo - limit - off), clean)
    return _View(
        limit + gain * grown, gain, spread2 + 2 * grown * between + grown**2 * gain2 + n.wander**2, between + grown * gain2,
        gain2 + n.gain_wander**2, mass,
    )  # fmt: skip


@lru_cache(maxsize=8)
def _growth(numbers: LimitNumbers) -> tuple[tuple[float, ...], ...]:
    """What a pass brings under each idea at each share of the limit, clean or missed as is to be expected there."""
    found = []
    for idea in IDEAS.values():
        row = []
        for share in _SHARES:
            chance = _chance(-math.log(share), numbers)
            row.append(chance * idea(share, True) + (1.0 - chance) * idea(share, False))
        found.append(tuple(row))
    return tuple(found)
