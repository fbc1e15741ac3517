"""Measuring hands: a short figure for each ability, climbed to its limit in as few passes as can be, and the number it comes to.

The next tempo is the middle of what is still believed of the limit, which tells most (A. B. Watson and D. G. Pelli, QUEST: a
Bayesian adaptive psychometric method, Perception & Psychophysics 33, 1983); a pass is clean with the chance that docs/model.md
gives. The number of the hand is then the one with which the figure's ceiling is that limit.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import log_expit

from dromic.core.learning.learned_rates import loads_under
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.practice.drill import FRETTING, PICKING
from dromic.core.practice.log_pass import Pass
from dromic.core.search.planner import plan as planned
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.setup.player_settings import NUMBERS, HandNumber
from dromic.core.setup.school import School
from dromic.core.values.arrays import Floats

PHRASE = "Measuring the hands"
"""the name under which its passes are logged"""
BY_NAME = {number.name: number for number in NUMBERS}
_TEMPO = 100.0
_EVERYTHING = frozenset({"positions", "fingers", "strokes", "attacks"})
_NUDGE = 1.2
_TELLS = 0.02
"""share by which a figure's ceiling must move with its number, or it tells nothing of it"""
_GRID = np.linspace(-1.0, 1.0, 401)
_ROUNDS = 40


@dataclass(frozen=True, slots=True)
class Ability:
    """One thing a hand can do: the number that it measures, its hand, what to play (a quick line), and what to mind."""

    number: str
    hand: str
    line: str
    words: str


ABILITIES = (
    Ability("sixteenths", PICKING, " ".join(["3.5@1/d:s 3.5@1/u"] * 8), "Down and up on one string, even and loose"),
    Ability("downs", PICKING, " ".join(["5.5@1/d:e"] * 8), "Down-strokes only"),
    Ability("sweep", PICKING, " ".join(["4.0/d:s 3.0/d 2.0/d 1.0/d r:q"] * 2),
            "One stroke through four open strings, every note apart"),
    Ability("inside", PICKING, " ".join(["3.5@1/d:s 4.5@1/u"] * 8), "Two strings, the pick between them all the time"),
    Ability("lift", PICKING, " ".join(["5.5@1/d:s 3.5@1/u"] * 8), "Over a string and back"),
    Ability("pluck", PICKING, " ".join(["f1.5@1/m:e"] * 8), "The middle finger alone, again and again"),
    Ability("finger", FRETTING, "3.5@1/d:s h3.6@2 h3.7@3 h3.8@4 " * 4, "One stroke, then finger after finger comes down"),
    Ability("shift", FRETTING, "3.3@1/d:e 3.9@1/u " * 4, "The whole hand up and down the neck"),
)  # fmt: skip


@dataclass(frozen=True)
class Figure:
    """An ability's figure planned for a player, who plays it exactly so; `ceiling` is where it ends for them, an estimate."""

    ability: Ability
    plan: Plan
    ceiling: float
    effect: float
    """by which share the plan to be played moves when this ability is a tenth better; what limits it comes first"""

    @property
    def number(self) -> HandNumber:
        """The number of the hands that it measures."""
        return BY_NAME[self.ability.number]

    @property
    def name(self) -> str:
        """As the log knows it."""
        return f"measure:{self.ability.number}"


def figures(
    player: Player, instrument: Instrument, school: School, parsed: Callable[[str], Phrase], own: Plan | None = None
) -> tuple[Figure, ...]:
    """The figures that tell something of a player's numbers, those that limit the plan `own` first."""
    found = []
    base = float(loads_under(own, player).max()) if own is not None else 0.0
    for ability in ABILITIES:
        phrase = parsed(ability.line).at_tempo(_TEMPO)
        plan = planned(Request(phrase, instrument, player, school, keep=_EVERYTHING))
        ceiling = _ceiling(plan, player)
        number = BY_NAME[ability.number]
        nudged = number.set(player, number.bounded(number.get(player) * _NUDGE))
        if not ceiling or abs(_ceiling(plan, nudged) / ceiling - 1.0) < _TELLS:
            continue
        better = number.improved(player) if own is not None else None
        effect = 1.0 - float(loads_under(own, better).max()) / base if better and own is not None and base else 0.0
        found.append(Figure(ability, plan, ceiling, effect))
    return tuple(sorted(found, key=lambda f: -f.effect))


def _ceiling(plan: Plan, player: Player) -> float:
    most = float(loads_under(plan, player).max())
    return plan.request.phrase.tempo / most if most else 0.0


@dataclass(frozen=True)
class Belief:
    """What is believed of a limit: weights over tempos, evenly spaced on a logarithmic scale."""

    tempos: Floats
    weights: Floats

    @property
    def middle(self) -> float:
        """The tempo it lies over or under with equal chance: the next to try."""
        return float(self.tempos[int(np.searchsorted(np.cumsum(self.weights), 0.5))])

    @property
    def spread(self) -> float:
        """How unsure it is, as a share (standard deviation of the logarithm)."""
        logs = np.log(self.tempos)
        mean = float(self.weights @ logs)
        return float(np.sqrt(self.weights @ (logs - mean) ** 2))


def belief(figure: Figure, passes: Sequence[Pass], numbers: Mapping[str, float]) -> Belief:
    """What its passes say of a figure's limit, beginning with the estimate of the player's present numbers."""
    logs = np.log(figure.ceiling) + _GRID
    weights = -((_GRID / numbers["measure_spread"]) ** 2) / 2
    for one in passes:
        if one.drill == figure.name:
            margin = numbers["steepness"] * (1.0 - one.tempo / np.exp(logs))
            weights = weights + log_expit(margin if one.clean else -margin)
    weights = np.exp(weights - weights.max())
    return Belief(np.exp(logs), weights / weights.sum())


def done(held: Belief, passes: Sequence[Pass], figure: Figure, numbers: Mapping[str, float]) -> bool:
    """Whether enough is known of a figure's limit, or enough was tried."""
    tried = sum(p.drill == figure.name for p in passes)
    return tried >= numbers["measure_most"] or (tried >= 4 and held.spread <= numbers["measure_sure"])


@dataclass(frozen=True, slots=True)
class Measured:
    """What came out for one figure: the limit with how sure it is (as a share), and the number before and after; None for one
    that was not tried."""

    figure: Figure
    limit: float
    sure: float
    before: float
    after: float | None


def measured(
    found: Sequence[Figure], player: Player, passes: Sequence[Pass], numbers: Mapping[str, float]
) -> tuple[tuple[Measured, ...], Player]:
    """The numbers that figures come to and the player with them. Those that others build on are set first: what is left of a
    change over strings is told once the plain stroke is known."""
    order = [ability.number for ability in ABILITIES]
    made = []
    for figure in sorted(found, key=lambda f: order.index(f.ability.number)):
        held = belief(figure, passes, numbers)
        before = figure.number.get(player)
        after = None
        if any(p.drill == figure.name for p in passes):
            after = figure.number.bounded(number_at(figure, player, held.middle))
            player = figure.number.set(player, after)
        made.append(Measured(figure, held.middle, held.spread, before, after))
    return tuple(made), player


def number_at(figure: Figure, player: Player, limit: float) -> float:
    """The number of the hand with which the figure's ceiling is this limit: halved in on, within what the number can be."""
    number = figure.number
    value = number.get(player)
    rises = _ceiling(figure.plan, number.set(player, number.bounded(value * _NUDGE))) > _ceiling(figure.plan, player)
    low, high = max(number.low, value / 8), min(number.high, value * 8)
    for _ in range(_ROUNDS):
        middle = (low * high) ** 0.5
        if (_ceiling(figure.plan, number.set(player, middle)) < limit) == rises:
            low = middle
        else:
            high = middle
        if high / low < 1.001:
            break
    return float((low * high) ** 0.5)
