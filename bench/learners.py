"""Learners who are nobody's model: a hidden limit that grows with practice and shrinks at rest, lapses, cold hands, tired hands.

Nothing here is shared with the fit or the ladder: no code, no law. A pass is clean with a chance that halves at the limit and falls
like a Weibull law (the ladder's own belief is logistic). How a limit grows is unknown of people; three ideas stand side by side: by
what is near the limit, clean or not; by clean passes alone; by what is a little too fast. All constants are choices, drawn a seed.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field


def _near(share: float, clean: bool) -> float:
    return math.exp(-(((share - 0.94) / 0.11) ** 2))


def _clean(share: float, clean: bool) -> float:
    ramp = min(1.0, max(0.0, (share - 0.55) / 0.35))
    return 0.85 * ramp if clean else -0.2 * ramp


def _fast(share: float, clean: bool) -> float:
    return 1.1 * math.exp(-(((share - 1.03) / 0.10) ** 2))


GROWTHS: dict[str, Callable[[float, bool], float]] = {"near": _near, "clean": _clean, "fast": _fast}


@dataclass
class Hands:
    """What a learner is like, drawn by a seed."""

    lapse: float
    sharp: float
    """exponent of the Weibull law: how suddenly clean turns into missed"""
    cold: float
    """share of the limit that the first pass of a day lacks"""
    warm_in: float
    """passes in which that falls to about a third"""
    tired: float
    """share of the limit lost with every pass of a day"""
    night: float
    """share of the limit lost over a night"""
    off: float
    """and over each day without practice"""
    gain: float
    """share that the limit grows by in a pass at best, far from what it can ever be"""

    @staticmethod
    def drawn(chance: random.Random) -> Hands:
        between = chance.uniform
        return Hands(
            between(0.02, 0.08), between(10, 20), between(0.02, 0.06), between(3, 8), between(0.0002, 0.0006),
            between(0.002, 0.005), between(0.004, 0.007), between(0.002, 0.0035),
        )  # fmt: skip


@dataclass
class Learner:
    """Hands with a limit of their own for each drill, hidden from whoever teaches them."""

    hands: Hands
    growth: str
    most: float
    """what a limit can ever come to, beside the drill's own limit at first"""
    chance: random.Random
    limits: dict[str, float] = field(default_factory=dict)
    today: int = 0
    """passes of this day"""

    def now(self, drill: str) -> float:
        """The limit as it is at this pass of the day."""
        hands = self.hands
        cold = 1.0 - hands.cold * math.exp(-self.today / hands.warm_in)
        return self.limits[drill] * cold * (1.0 - min(0.15, hands.tired * self.today))

    def clean_chance(self, drill: str, tempo: float) -> float:
        """Of a pass at a tempo."""
        return (1.0 - self.hands.lapse) * float(0.5 ** ((tempo / self.now(drill)) ** self.hands.sharp))

    def play(self, drill: str, tempo: float) -> bool:
        """One pass: clean or not; the limit moves by it."""
        clean = self.chance.random() < self.clean_chance(drill, tempo)
        self.limits[drill] *= math.exp(self.gains(drill, tempo, clean))
        self.today += 1
        return clean

    def gains(self, drill: str, tempo: float, clean: bool) -> float:
        """By how much a pass moves the logarithm of the limit."""
        room = max(0.0, 1.0 - self.limits[drill] / self.most)
        return self.hands.gain * GROWTHS[self.growth](tempo / self.now(drill), clean) * room

    def sleep(self, days: int = 1) -> None:
        """To another day, so many days on."""
        lost = self.hands.night + self.hands.off * (days - 1)
        self.limits = {drill: limit * (1.0 - lost) for drill, limit in self.limits.items()}
        self.today = 0


# who teaches: each says the next tempo, and is told whether it was clean


@dataclass
class Fixed:
    """From half the target, four quarters a minute more after three clean in a row; with `back` four less after two misses."""

    target: float
    back: bool
    tempo: float = 0.0
    clean: int = 0
    missed: int = 0

    def next(self) -> float:
        self.tempo = self.tempo or 0.5 * self.target
        return self.tempo

    def told(self, clean: bool) -> None:
        self.clean, self.missed = (self.clean + 1, 0) if clean else (0, self.missed + 1)
        if self.clean >= 3:
            self.tempo, self.clean = min(self.target, self.tempo + 4), 0
        if self.back and self.missed >= 2:
            self.tempo, self.missed = max(20.0, self.tempo - 4), 0


@dataclass
class Staircase:
    """Three up, one down (Levitt 1971, which ends near 79 % clean): by a tenth at first, by less after each turn, 2 % at least."""

    target: float
    tempo: float = 0.0
    step: float = 0.10
    clean: int = 0
    up: bool = True

    def next(self) -> float:
        self.tempo = self.tempo or 0.5 * self.target
        return self.tempo

    def told(self, clean: bool) -> None:
        self.clean = self.clean + 1 if clean else 0
        if clean and self.clean < 3:
            return
        if clean != self.up:
            self.step, self.up = max(0.02, self.step * 0.7), clean
        self.clean = 0
        factor = 1.0 + self.step if clean else 1.0 / (1.0 + self.step)
        self.tempo = min(self.target, max(20.0, self.tempo * factor))


@dataclass
class Oracle:
    """Knows the hidden limit and how it grows: plays what makes it grow most, and the target as soon as that is likely clean."""

    learner: Learner
    drill: str
    target: float
    enough: float = 0.55

    def next(self) -> float:
        learner, drill = self.learner, self.drill
        if learner.clean_chance(drill, self.target) >= self.enough:
            return self.target
        now = learner.now(drill)
        return min((now * n / 100 for n in range(80, 112)), key=lambda tempo: -self._worth(tempo))

    def _worth(self, tempo: float) -> float:
        chance = self.learner.clean_chance(self.drill, tempo)
        return sum(
            part * self.learner.gains(self.drill, tempo, clean)
            for part, clean in ((chance, True), (1.0 - chance, False))
        )

    def told(self, clean: bool) -> None:
        pass
