"""Measuring hands: a short figure for each ability, climbed to its limit in as few passes as can be, and the number it comes to.

The next tempo is the middle of what is still believed of the limit, which tells most (A. B. Watson and D. G. Pelli, QUEST: a
Bayesian adaptive psychometric method, Perception & Psychophysics 33, 1983); a pass is clean with the chance that docs/model.md
gives. The number of the hand is then the one with which the figure's ceiling is that limit.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.special import log_expit

from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.learning.learned_rates import loads_under
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import ALL_STATED, Request
from dromic.core.practice.log_pass import Pass
from dromic.core.search.planner import plan as planned
from dromic.core.setup.instrument import Instrument
from dromic.core.setup.player import Player
from dromic.core.setup.player_settings import NUMBERS, HandNumber
from dromic.core.setup.practice_settings import LearningNumbers
from dromic.core.setup.school import School
from dromic.core.values.arrays import Floats

PHRASE = "Measuring the hands"
"""the name under which its passes are logged"""
BY_NAME = {number.name: number for number in NUMBERS}
_TEMPO = 100.0
_NUDGE = 1.2
_TELLS = 0.02
"""share by which a figure's ceiling must move with its number, or it tells nothing of it"""
_GRID = np.linspace(-1.0, 1.0, 401)
_ROUNDS = 40


@dataclass(frozen=True, slots=True)
class Ability:
    """One thing a hand can do: its name, the numbers of the hand it may tell of (the one that moves it most is taken), its hand,
    what to play (a quick line), and what to mind."""

    name: str
    numbers: tuple[str, ...]
    hand: str
    line: str
    words: str


_CHANGE = ("hop", "lift", "inside")
_BURST = "{0}.5@1/{s}:s {0}.5@1/{t} {1}.5@1/{s} {1}.5@1/{t} r:q "
"""two notes a string, one change after the same stroke, and time to come back"""


def _changes() -> Iterator[Ability]:
    """Changes around two strings and between them, and over one, each after a down-stroke and after an up-stroke."""
    for side, strings in (("outside", "43"), ("inside", "34"), ("skip", "42")):
        for stroke, of in (("d", strings), ("u", strings[::-1])):
            before, article = {"d": ("u", "a down"), "u": ("d", "an up")}[stroke]
            told = (
                "over a string"
                if side == "skip"
                else f"to the next string, {side} the two"
                if side == "inside"
                else ("to the next string, around the two")
            )
            yield Ability(f"{side} after {article}", _CHANGE, PICKING, _BURST.format(*of, s=before, t=stroke) * 2,
                          f"One change {told}, after {article}-stroke")  # fmt: skip


def _pairs() -> Iterator[Ability]:
    """Trills of the six pairs of fingers: how quickly one comes down by another."""
    for low, high in combinations("1234", 2):
        frets = 4 + int(low), 4 + int(high)
        line = f"3.{frets[0]}@{low}/d:s " + f"h3.{frets[1]}@{high} p3.{frets[0]}@{low} " * 7
        yield Ability(
            f"fingers {low} and {high}",
            ("finger",),
            FRETTING,
            line,
            f"Fingers {low} and {high} in turn, every note heard",
        )


ABILITIES = (
    Ability("sixteenths", ("sixteenths",), PICKING, "3.5@1/d:s 3.5@1/u " * 8, "Down and up on one string, even and loose"),
    Ability("downs", ("downs",), PICKING, "5.5@1/d:e " * 8, "Down-strokes only"),
    Ability("carry-through", ("sweep",), PICKING, "4.0/d:s 3.0/d 2.0/d 1.0/d r:q " * 2,
            "One stroke through four open strings, every note apart"),
    *_changes(),
    Ability("pluck", ("pluck",), PICKING, "f1.5@1/m:e " * 8, "The middle finger alone, again and again"),
    Ability("slur", ("finger",), FRETTING, "3.5@1/d:s h3.6@2 h3.7@3 h3.8@4 " * 4, "One stroke, then finger after finger comes down"),
    *_pairs(),
    Ability("roll", ("roll",), FRETTING, "4.7@3/d:s 3.7@3/d r:e " * 4, "One finger rocks over to the next string, both notes apart"),
    Ability("shift", ("shift",), FRETTING, "3.3@1/d:e 3.9@1/u " * 4, "The whole hand up and down the neck"),
)  # fmt: skip
_FIRST = ("sixteenths", "downs", "sweep", "hop", "lift", "inside", "pluck", "finger", "roll", "shift")
"""numbers in the order they are set: what others build on comes first"""


@dataclass(frozen=True)
class Figure:
    """An ability's figure planned for a player, who plays it exactly so; `ceiling` is where it ends for them, an estimate."""

    ability: Ability
    number: HandNumber
    """the number of the hands that it measures"""
    plan: Plan
    ceiling: float
    slope: float
    """how the ceiling goes with the number: the ratio of small changes of their logarithms, over 0"""
    effect: float
    """by which share the plan to be played moves when this ability is a tenth better; what limits it comes first"""

    @property
    def name(self) -> str:
        """As the log knows it."""
        return f"measure:{self.ability.name}"


def figures(
    player: Player, instrument: Instrument, school: School, parsed: Callable[[str], Phrase], own: Plan | None = None
) -> tuple[Figure, ...]:
    """The figures that tell something of a player's numbers, those that limit the plan `own` first."""
    found = []
    base = float(loads_under(own, player).max()) if own is not None else 0.0
    effects: dict[str, float] = {}
    for ability in ABILITIES:
        phrase = parsed(ability.line).at_tempo(_TEMPO)
        plan = planned(Request(phrase, instrument, player, school, keep=ALL_STATED))
        ceiling = _ceiling(plan, player)
        if not ceiling:
            continue
        moved = {name: _ceiling(plan, _nudged(player, BY_NAME[name])) / ceiling - 1.0 for name in ability.numbers}
        best = max(moved, key=lambda name: abs(moved[name]))
        if abs(moved[best]) < _TELLS:
            continue
        number = BY_NAME[best]
        if best not in effects:
            better = number.improved(player) if own is not None else None
            effects[best] = (
                1.0 - float(loads_under(own, better).max()) / base if better and own is not None and base else 0.0
            )
        slope = abs(np.log1p(moved[best])) / np.log(_NUDGE)
        found.append(Figure(ability, number, plan, ceiling, float(slope), effects[best]))
    return tuple(sorted(found, key=lambda f: -f.effect))


def _nudged(player: Player, number: HandNumber) -> Player:
    return number.set(player, number.bounded(number.get(player) * _NUDGE))


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


def belief(figure: Figure, passes: Sequence[Pass], numbers: LearningNumbers) -> Belief:
    """What its passes say of a figure's limit, beginning with the estimate of the player's present numbers."""
    logs = np.log(figure.ceiling) + _GRID
    weights = -((_GRID / numbers.measure_spread) ** 2) / 2
    for one in passes:
        if one.drill == figure.name:
            margin = numbers.steepness * (1.0 - one.tempo / np.exp(logs))
            weights = weights + log_expit(margin if one.clean else -margin)
    weights = np.exp(weights - weights.max())
    return Belief(np.exp(logs), weights / weights.sum())


def done(held: Belief, passes: Sequence[Pass], figure: Figure, numbers: LearningNumbers) -> bool:
    """Whether enough is known of a figure's limit, or enough was tried."""
    tried = sum(p.drill == figure.name for p in passes)
    return tried >= numbers.measure_most or (tried >= 4 and held.spread <= numbers.measure_sure)


@dataclass(frozen=True, slots=True)
class Measured:
    """What came out for one number: the limits of its figures with how sure each is (as a share), the number before and after
    (None where none of them was tried), and how sure the number is."""

    number: HandNumber
    figures: tuple[Figure, ...]
    limits: tuple[tuple[float, float] | None, ...]
    """(limit, share) of each figure; None for one that was not tried"""
    before: float
    after: float | None
    sure: float


def measured(
    found: Sequence[Figure], player: Player, passes: Sequence[Pass], numbers: LearningNumbers
) -> tuple[tuple[Measured, ...], Player]:
    """The numbers that figures come to and the player with them. Those that others build on are set first: what is left of a
    change over strings is told once the plain stroke is known. A number is as sure as its figure's limit over how much the one
    moves with the other; of several figures the surer ones weigh more (the mean of the logarithms, weighted by the inverse of
    the variances)."""
    made = []
    for name in _FIRST:
        of = tuple(f for f in found if f.number.name == name)
        if not of:
            continue
        number, before = BY_NAME[name], BY_NAME[name].get(player)
        held = [belief(f, passes, numbers) if any(p.drill == f.name for p in passes) else None for f in of]
        values = [number_at(f, player, h.middle) for f, h in zip(of, held, strict=True) if h is not None]
        weights = np.array([(f.slope / h.spread) ** 2 for f, h in zip(of, held, strict=True) if h is not None])
        after = None
        if values:
            after = number.bounded(float(np.exp(weights @ np.log(values) / weights.sum())))
            player = number.set(player, after)
        limits = tuple(None if h is None else (h.middle, h.spread) for h in held)
        made.append(Measured(number, of, limits, before, after, float(weights.sum() ** -0.5) if values else 0.0))
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
