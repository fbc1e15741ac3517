"""Rates of a player's hands learned from clean and missed passes. The model and the fit are told in docs/model.md: a pass is
clean with the chance s(k (1 - L)), L the largest load on its way, s the logistic function; rates have a normal prior about
their starting numbers on a logarithmic scale; the fit is the most likely of them (damped, by that prior), its uncertainty
that of the normal law of the same curvature (Laplace's method)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import expit, log_expit

from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.drills.drill_kinds import BY_NAME
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import ALL_STATED
from dromic.core.plan.write_back import phrase_with_plan
from dromic.core.practice.log_pass import Pass
from dromic.core.search.planner import plan as planned
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import FrettingHand, PickingHand, Player
from dromic.core.setup.practice_settings import LearningNumbers
from dromic.core.values.arrays import Floats
from dromic.core.values.checks import ranged_fields

_NOT_LEARNED = frozenset({"pluck_memory_ms", "memory_ms", "pluck_same_ms", "meet_ms"})
"""how long a hand remembers is not a time that a move takes; the same finger again is bound up with it; what a finger needs for its
stroke is heard with its coming down alone, and goes with that"""
RATES = tuple(
    (hand, spec.name)
    for hand, of in (("picking", PickingHand), ("fretting", FrettingHand))
    for spec in ranged_fields(of)
    if str(spec.metadata["unit"]).startswith("ms") and spec.name not in _NOT_LEARNED
)
"""rates that can be learned, every time of either hand, as (hand, field) of a player: one left out would be taken for another"""
_NUDGE = 1.05
_LOOKS = np.array([1.0, 2.0, 4.0])
"""Standard deviations at which the fault is looked at on either side."""
_LEAST_RISE = 1e-3
"""What the fault counts as rising there at least."""
_SHARPER = (12.0, 40.0, 200.0)
"""how near the smooth largest load comes to the largest, at first and in the end"""
_STEP = 1e-4
_REDRAWN = 3
"""Rounds of linearising at most (Gauss-Newton)."""
_STAYS = 0.02
"""Share of a rate under which it counts as converged."""


def rate_of(player: Player, rate: tuple[str, str]) -> float:
    """A rate of a player, in its own unit."""
    return float(getattr(getattr(player, rate[0]), rate[1]))


def with_rate(player: Player, rate: tuple[str, str], value: float) -> Player:
    """A player with another rate. Restarting costs more than repeating (the model's own bound): repeating gives way."""
    hand, field = rate
    new = {field: value}
    if hand == "picking":
        held = {
            name: new.get(name, getattr(player.picking, name)) for name in ("alternate_ms", "phase_ms", "repeat_ms")
        }
        new["repeat_ms"] = min(held["repeat_ms"], held["phase_ms"] + held["alternate_ms"] - 1.0)
    elif field == "finger_ms":
        new["meet_ms"] = player.fretting.meet_ms * value / player.fretting.finger_ms
    return replace(player, **{hand: replace(getattr(player, hand), **new)})


def loads_under(plan: Plan, player: Player) -> Floats:
    """Loads of the very plan for another player: [moves, 2], picking and fretting hand, in the order of the plan's moves. The other
    hands lean and lie where the plan has them, however else they would rather."""
    phrase = phrase_with_plan(plan.request.phrase, plan)
    leading = [(n, notes[0]) for n, notes in enumerate(plan.events)]
    pins = [Pin(n, 0, "lean", note.lean) for n, note in leading]
    pins += [Pin(n, 0, "position", note.position) for n, note in leading if note.position]  # open strings lie nowhere
    leaning = player.with_leans(plan.request.player.leans)
    request = replace(plan.request, phrase=phrase, player=leaning, keep=ALL_STATED, pins=tuple(pins), overrides=())
    again = planned(request)
    found = {(m.start, m.to, m.seam): m for m in again.moves}
    both = [found.get((m.start, m.to, m.seam), m) for m in plan.moves]
    return np.array([[m.pick_load or 0.0, m.fret_load] for m in both])


@dataclass(frozen=True)
class Learned:
    """What passes tell of a player: each rate with how sure it is (as a share), and the player with those that are known."""

    start: Player
    player: Player
    rates: Mapping[tuple[str, str], tuple[float, float]]
    known: frozenset[tuple[str, str]]
    passes: int


class Model:
    """The loads of one plan as straight lines of the rates about those of a player; `steepness`, `spread` and `known` are those of
    practice.toml. `start` are the hands that the prior lies about, where they are not the player's own."""

    def __init__(self, plan: Plan, player: Player, numbers: LearningNumbers, start: Player | None = None) -> None:
        self.plan, self.player, self.numbers, self.start = plan, player, numbers, start or player
        self.rates = tuple(r for r in RATES if rate_of(self.start, r) > 0)
        self.away = np.log([rate_of(player, r) / rate_of(self.start, r) for r in self.rates])
        self.base = loads_under(plan, player)
        slopes = []
        for rate in self.rates:
            value = rate_of(player, rate)
            nudged = with_rate(player, rate, value * _NUDGE)
            moved = rate_of(nudged, rate) / value - 1.0
            if abs(moved) < _STEP:
                slopes.append(np.zeros_like(self.base))
            else:
                slopes.append((loads_under(plan, nudged) - self.base) / moved)
        self.slopes = np.stack(slopes, axis=-1)  # [moves, 2, rates], a share of change each

    @cached_property
    def _ends(self) -> tuple[Floats, Floats]:
        """[moves] each: the event that a move starts from and the one it leads to."""
        return np.array([m.start for m in self.plan.moves]), np.array([m.to for m in self.plan.moves])

    def rows_of(self, one: Pass) -> NDArray[np.bool_]:
        """Which loads a pass goes over: [moves, 2] of True and False."""
        events = {note.event for note in self.plan.notes if note.index in set(one.notes)}
        start, to = self._ends
        inside = np.isin(start, list(events)) & np.isin(to, list(events))
        rows = np.stack([inside, inside], axis=1)
        kind = BY_NAME.get(one.drill.split(":")[0])
        if kind is not None and kind.hand == PICKING:
            rows[:, 1] = False
        if kind is not None and kind.hand == FRETTING:
            rows[:, 0] = False
        return rows

    def learn(self, passes: Sequence[Pass]) -> Learned:
        """The rates that the passes make likeliest. Straight lines hold near where they were drawn: they are drawn anew about the
        rates found, until these stay."""
        model, found = self, self._fit(passes)
        for _ in range(_REDRAWN):
            moved = max((abs(np.log(v / rate_of(model.player, r))) for r, (v, _) in found.rates.items()), default=0.0)
            if moved < _STAYS:
                break
            model = Model(self.plan, found.player, self.numbers, self.start)
            found = model._fit(passes)
        return found

    def _fit(self, passes: Sequence[Pass]) -> Learned:
        cases = self._cases(passes)
        count = len(self.rates)
        if not cases:
            return Learned(
                self.start, self.player, {r: (rate_of(self.player, r), np.inf) for r in self.rates}, frozenset(), 0
            )
        best = self._descended(np.zeros(count), cases)
        spread = self._spread(best, cases)
        rates = {
            r: (rate_of(self.player, r) * float(np.exp(x)), float(s))
            for r, x, s in zip(self.rates, best, spread, strict=True)
        }
        known = frozenset(r for r in self.rates if rates[r][1] < self.numbers.known)
        player = self.player
        for rate in self.rates:
            player = with_rate(player, rate, rates[rate][0])
        return Learned(self.start, player, rates, known, sum(len(c[2]) for c in cases))

    def _spread(self, best: Floats, cases: list[tuple[Floats, Floats, Floats, Floats]]) -> Floats:
        """How unsure each rate [rates] is: the standard deviation of the normal law of the same curvature (Laplace's
        approximation), or a wider one where the fault rises less to one side than that law says. What was only ever clean tells
        how slow a hand can be at most, not how fast."""
        count = len(best)
        curvature = np.empty((count, count))
        for row, nudge in enumerate(_STEP * np.eye(count)):
            curvature[row] = (self._fault(best + nudge, cases)[1] - self._fault(best - nudge, cases)[1]) / (2 * _STEP)
        law = np.linalg.pinv((curvature + curvature.T) / 2)
        spread = np.sqrt(np.clip(np.diag(law), 0.0, None))
        least, widest = self._fault(best, cases)[0], spread.copy()
        for i in np.flatnonzero(spread > 0):
            along = law[i] / spread[i] ** 2  # how the others go with a change of this one
            for step in _LOOKS * spread[i]:
                for side in (step, -step):
                    rise = self._fault(best + side * along, cases)[0] - least
                    widest[i] = max(widest[i], step / np.sqrt(2 * max(rise, _LEAST_RISE)))
        return np.asarray(np.minimum(widest, self.numbers.spread))

    def _descended(self, x: Floats, cases: list[tuple[Floats, Floats, Floats, Floats]]) -> Floats:
        """The rates [rates] that a descent (L-BFGS-B) ends at: on a smooth slope first, then on sharper ones with creases to be
        caught in."""
        for sharp in _SHARPER:
            x = minimize(lambda at, sharp=sharp: self._fault(at, cases, sharp), x, jac=True, method="L-BFGS-B",
                         bounds=[(-1.0, 1.0)] * len(x)).x  # fmt: skip
        return x

    def _cases(self, passes: Sequence[Pass]) -> list[tuple[Floats, Floats, Floats, Floats]]:
        """(loads [n], slopes [n, rates], tempos [passes] as shares of the plan's, clean 1 or not -1 [passes]) of the passes over
        the same moves, together."""
        tempo = self.plan.request.phrase.tempo
        by_way: dict[bytes, list[Pass]] = {}
        rows: dict[bytes, NDArray[np.bool_]] = {}
        ways: dict[tuple[str, tuple[int, ...]], bytes] = {}
        for one in passes:
            if not one.attentive or not one.notes:
                continue
            key = (one.drill.split(":")[0], one.notes)
            if key not in ways:
                inside = self.rows_of(one)
                ways[key] = inside.tobytes()
                rows[ways[key]] = inside
            by_way.setdefault(ways[key], []).append(one)
        return [
            (
                self.base[rows[way]], self.slopes[rows[way]], np.array([p.tempo / tempo for p in of]),
                np.array([1.0 if p.clean else -1.0 for p in of]),
            )
            for way, of in by_way.items() if rows[way].any()
        ]  # fmt: skip

    def _fault(
        self, x: Floats, cases: list[tuple[Floats, Floats, Floats, Floats]], sharp: float = _SHARPER[-1]
    ) -> tuple[float, Floats]:
        """How unlikely the passes are under rates changed by exp(x), x [rates], the prior counted in; and its gradient [rates]."""
        steep = self.numbers.steepness
        grown = np.exp(x)
        whole = x + self.away
        fault = float((whole**2).sum()) / (2 * self.numbers.spread**2)
        way = whole / self.numbers.spread**2
        for base, slopes, tempos, sign in cases:
            loads = base + slopes @ (grown - 1.0)
            largest = loads.max()
            weights = np.exp(sharp * (loads - largest))  # the library's own sum of exponentials took most of the fit
            total = weights.sum()
            most = float(largest + np.log(total) / sharp)
            toward = (weights / total) @ slopes * grown
            margin = sign * steep * (1.0 - most * tempos)
            fault -= float(log_expit(margin).sum())
            way = way + float((expit(-margin) * sign * steep * tempos).sum()) * toward
        return fault, np.asarray(way)
