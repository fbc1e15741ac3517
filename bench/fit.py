"""`./run bench --fit`: fits prices of the fretting hand to signed cases and published chords, each of five folds left out once.

A route's cost is linear in its prices, so that a case is a choice among routes: those of the accepted answers, the plan there is, the
next best ones. A step finds the prices under which the accepted ones are the likeliest (a softmax over costs, bounded for cases that
nothing mends, held near the prices there were), plans every case again under them, and goes on from there: structured prediction by
cutting planes (Tsochantaridis, Joachims, Hofmann and Altun, JMLR 6, 2005), with a logistic loss in place of the margin's.

A case's fold is told by its name alone. What is counted for a fold comes of prices that were fitted without it. With `--write` the
prices of all folds are kept in `fit_folds.toml`, from which `./run bench --cases` counts; those fitted on everything are printed, and
are what ships.
"""

from __future__ import annotations

import hashlib
import sys
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

import numpy as np
from scipy.optimize import minimize

from bench.lines import row
from dromic import presets
from dromic.core.hands.fretting_moves import fretting_moves
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.plan.finding import RowCost
from dromic.core.prices.facts import SHAPE
from dromic.core.prices.price_list import PRICES
from dromic.core.prices.row import PRICE, Facts
from dromic.core.search.decoded_path import Path as Route
from dromic.core.search.planner import Solved, judge, solve
from dromic.core.search.row_costs import EventRows, at_place
from dromic.core.setup.pin import Pin
from dromic.core.setup.player import Player
from dromic.core.values.arrays import Floats
from dromic.core.values.errors import DromicError
from tests.cases import Case, cases
from tests.chords import Chord, chords

KEPT = Path(__file__).with_name("fit_folds.toml")
FOLDS = 5
RANGES: Mapping[str, tuple[float, float, float]] = {
    "one_per_fret_price": (0.12, 0.05, 0.22),
    "closed_share": (0.8, 0.5, 1.1),
    "index_off_price": (0.12, 0.05, 0.3),
    "stretch_price": (0.15, 0.08, 0.4),
    "crowd_price": (0.04, 0.02, 0.1),
    "little_price": (0.03, 0.0, 0.1),
    "spread_mm.0": (30.0, 24.0, 42.0),
    "spread_mm.1": (25.0, 18.0, 32.0),
    "spread_mm.2": (22.0, 15.0, 28.0),
    "spread_prices.0": (0.3, 0.08, 1.0),
    "spread_prices.1": (0.5, 0.1, 2.0),
    "spread_prices.2": (0.5, 0.1, 2.0),
    "open_position_price": (0.2, 0.05, 0.6),
    "roll_prices.0": (0.1, 0.04, 0.3),
    "roll_prices.1": (0.1, 0.04, 0.3),
    "roll_prices.2": (0.1, 0.04, 0.3),
    "roll_prices.3": (0.15, 0.04, 0.4),
    "barre_prices.0": (0.15, 0.02, 0.5),
    "barre_prices.1": (1.0, 0.2, 2.5),
    "barre_prices.2": (0.8, 0.1, 2.5),
    "barre_prices.3": (1.2, 0.2, 3.0),
    "barre_string_price": (0.2, 0.0, 0.8),
    "spare_price": (0.3, 0.0, 1.2),
    "jump_price": (0.3, 0.2, 0.7),
    "shift_price": (0.45, 0.3, 0.8),
    "shift_price_per_mm": (0.007, 0.003, 0.015),
    "guide_share": (0.5, 0.2, 0.8),
    "step_share": (0.6, 0.1, 1.2),
    "amid_price": (0.25, 0.05, 0.6),
    "arch_price": (0.5, 0.0, 1.5),
    "cross_price": (0.5, 0.1, 1.2),
    "order_price": (0.4, 0.1, 1.0),
    "off_line_price": (0.02, 0.0, 0.05),
    "reshape_price": (0.3, 0.05, 1.0),
    "cell_price": (0.3, 0.0, 0.8),
    "side_price": (0.5, 0.0, 1.5),
    "stay_price": (0.5, 0.1, 1.5),
    "arrive_price": (0.02, 0.0, 0.15),
    "travel_price_per_mm": (0.004, 0.0, 0.012),
    "slide_price": (0.3, 0.1, 0.8),
    "weak_34_price": (0.05, 0.0, 0.2),
    "weak_24_price": (0.05, 0.0, 0.2),
    "neck_price": (0.012, 0.006, 0.02),
    "bend_prices.0": (0.2, 0.08, 0.5),
    "bend_prices.1": (0.1, 0.0, 0.4),
    "bend_prices.2": (0.05, 0.0, 0.3),
    "bend_prices.3": (0.2, 0.05, 0.8),
    "vibrato_prices.0": (0.06, 0.0, 0.2),
    "vibrato_prices.3": (0.12, 0.0, 0.4),
    "support_price": (0.4, 0.1, 1.0),
}
"""The numbers that are fitted: where the fit begins, a guess from their words alone that no case has chosen, and between what they may
lie: what is still believable."""
NAMES = tuple(RANGES)
START, _LOW, _HIGH = np.array(list(RANGES.values())).T
_NUDGE = 1e-4
"""Change of a price by which its part of a cost is told."""
_TEMPERATURE = 0.05
"""Difference of costs that makes an answer e times as likely."""
_FLOOR = 0.1
"""Likelihood that a case has anyhow, so that what nothing mends does not pull for ever."""
_CHORD_WEIGHT = 0.1
"""Weight of a chord beside a case."""
_NEAR = 1.0
"""Price of leaving what the fit begins with by a whole range."""
_ROUNDS = 4
"""Times that all cases are planned anew."""
_ALL_CHORDS = 150.0
"""What all chords count beside one for each case, where rounds are held against each other."""
_NEXT_BEST = 4
"""Other answers of a plan that are looked at."""


def fold_of(name: str) -> int:
    """The fold of a case or a chord, 0 to 4, by its name alone."""
    return hashlib.sha256(name.encode()).digest()[0] % FOLDS


def prices_of(player: Player) -> Floats:
    """[P] the prices that are fitted."""
    return np.array([_of(player.fretting, name) for name in NAMES])


def with_prices(player: Player, prices: Floats) -> Player:
    """The player with other prices [P]."""
    changed: dict[str, Any] = {}
    for name, value in zip(NAMES, prices.tolist(), strict=True):
        number, _, at = name.partition(".")
        if not at:
            changed[number] = value
            continue
        values = list(changed.get(number, getattr(player.fretting, number)))
        values[int(at)] = value
        changed[number] = tuple(values)
    return replace(player, fretting=replace(player.fretting, **changed))


def _of(hand: Any, name: str) -> float:
    number, _, at = name.partition(".")
    value = getattr(hand, number)
    return float(value[int(at)] if at else value)


# what costs are made of


@dataclass(frozen=True)
class _Nudged:
    """Facts with other numbers of the player."""

    facts: Facts
    numbers: Mapping[str, Any]

    def __getattr__(self, name: str) -> Any:
        return getattr(self.facts, name)


@dataclass(frozen=True, eq=False)
class _Slopes(EventRows):
    """The rows at an event, and how much each fitted price adds to them."""

    slopes: Floats = field(default_factory=lambda: np.zeros(len(NAMES)))

    def _told(
        self, about: str, kind: str, facts: Facts, at: Any, share: float = 1.0, parts: Any = ()
    ) -> Iterator[RowCost]:
        for one in self.builder.prices.rows_of(about, kind):
            for n, numbers in _nudged(facts.numbers, one.numbers if one.hand == "fretting" else ()):
                more, less = one.made(_Nudged(facts, numbers)), one.made(facts)
                self.slopes[n] += share * (at_place(more, at) - at_place(less, at)) / _NUDGE
        yield from super()._told(about, kind, facts, at, share, parts)


def _nudged(numbers: Mapping[str, Any], read: Sequence[str]) -> Iterator[tuple[int, Mapping[str, Any]]]:
    """Each fitted price among some numbers, and the numbers with it a little dearer."""
    for n, name in enumerate(NAMES):
        number, _, at = name.partition(".")
        if number in read:
            value = numbers[number]
            if at:
                value = np.array(value, dtype=float)
                value[int(at)] += _NUDGE
                yield n, {**numbers, number: value}
            else:
                yield n, {**numbers, number: value + _NUDGE}


def slopes_of(route: Route) -> Floats:
    """[P] how much a route's cost grows with each price."""
    found = np.zeros(len(NAMES))
    for event in range(len(route.states)):
        rows = _Slopes(route, route.layers.builder, event)
        for _ in rows.costs():
            pass
        found += rows.slopes
    return found


# routes to choose from


@dataclass
class Choice:
    """What a case or a chord chooses among: costs [R] under some prices, their slopes [R, P], which are right [R]."""

    name: str
    costs: Floats
    slopes: Floats
    right: np.ndarray
    weight: float


def _choice(case: Case, others: tuple[str, ...], player: Player) -> tuple[Choice, tuple[str, ...], bool]:
    """A case's routes under a player's prices; all answers known to be wrong; whether the plan is right."""
    solved = solve(case.request(player))
    routes: dict[str, tuple[bool, Solved]] = {}
    for one in (solved, *_next_best(solved)):
        _take(case, one, routes)
    right = next(iter(routes.values()))[0]
    wrong = tuple(dict.fromkeys((*others, *(words for words, (signed, _) in routes.items() if not signed))))
    known = (_answered(case, words, player) for words in wrong if words not in routes)
    for found in (*_signed(case, solved, player), *known):
        if found is not None:
            _take(case, found, routes)
    kept = [(signed, one) for signed, one in routes.values() if np.isfinite(one.route.cost)]
    choice = Choice(
        case.name,
        np.array([one.route.cost for _, one in kept]),
        np.array([slopes_of(one.path) for _, one in kept]),
        np.array([signed for signed, _ in kept]),
        1.0,
    )
    return choice, wrong, right


def _take(case: Case, one: Solved, routes: dict[str, tuple[bool, Solved]]) -> None:
    """A route more, under its answer."""
    plan = judge(one)
    routes.setdefault(case.answer(plan), (case.right(plan), one))


def _signed(case: Case, solved: Solved, player: Player) -> Iterator[Solved | None]:
    """The cheapest route of each accepted answer."""
    if case.kind == "fingers" or "tab" in case.facts:
        yield from (_answered(case, words, player) for words in case.facts.get("tab", case.facts["accept"]))
        return
    layers, forward = solved.layers.layers, solved.lattice.forward
    for span in case.facts["accept"]:
        low, high = map(int, span.split("-"))
        within = [
            np.array([all(low <= n.fret <= high for n in shape.notes) for shape in layer.fretting.shapes])
            for layer in layers
        ]
        if all(some.any() for some in within):
            pairs = enumerate(zip(within, forward, strict=True))
            masks = {n: np.broadcast_to(some[:, None], costs.shape) for n, (some, costs) in pairs}
            yield solved.narrowed(solved.request, masks)


def _answered(case: Case, words: str, player: Player) -> Solved | None:
    """The cheapest route with an answer; None where no hand has it."""
    request, pins = case.request(player), list[Pin]()
    for event, (said, word) in enumerate(zip(request.phrase.events, words.split(), strict=True)):
        low_first = sorted(said.notes, key=lambda n: n.pitch)
        if case.kind == "fingers":
            strings = sorted((n.string or 0 for n in low_first), reverse=True)
            fingers = dict(zip(strings, word.split("/"), strict=True))
            pins += [Pin(event, n, "finger", fingers[note.string or 0]) for n, note in enumerate(low_first)]
            continue
        laid = [(int(string), int(fret)) for string, fret in (place.split(".") for place in word.split("+"))]
        for n, (string, fret) in enumerate(sorted(laid, key=lambda place: request.instrument.pitch_at(*place))):
            pins += [Pin(event, n, "string", string), Pin(event, n, "fret", fret)]
    try:
        return solve(replace(request, pins=tuple(pins)))
    except DromicError:
        return None


def _next_best(solved: Solved) -> list[Solved]:
    """Other routes, each through another finger or place somewhere, the cheapest first."""
    ways: list[tuple[float, int, Any]] = []
    for event, (ahead, behind) in enumerate(zip(solved.lattice.forward, solved.lattice.backward, strict=True)):
        shapes = solved.layers.layers[event].fretting.shapes
        names = np.array([hash(shape.notes) for shape in shapes])
        there = names[solved.route.states[event][0]]
        for name in np.unique(names[names != there]).tolist():
            mask = np.broadcast_to((names == name)[:, None], ahead.shape)
            cost = float(np.where(mask, ahead + behind, np.inf).min())
            if np.isfinite(cost):
                ways.append((cost, event, mask))
    nearest = sorted(ways, key=lambda way: way[0])[:_NEXT_BEST]
    found = (solved.narrowed(solved.request, {event: mask}) for _, event, mask in nearest)
    return [one for one in found if one is not None]


@lru_cache(maxsize=1)
def _published() -> tuple[Chord, ...]:
    return tuple(chords())


def chord_choices(part: slice, player: Player) -> list[Choice]:
    """Those of some published chords that a hand holds as published in some way, told from their shapes alone."""
    fretting = fretting_moves(presets.usual_instrument(), player, PRICES).fretting
    found = []
    for chord in _published()[part]:
        strings, frets = tuple(s for s, _ in chord.places), tuple(f for _, f in chord.places)
        pitches = tuple(fretting.instrument.pitch_at(s, f) for s, f in chord.places)
        task = FrettingTask(pitches, strings, frets, (None,) * len(pitches))
        try:
            shapes = list(fretting.shapes(task, chord.name))
        except DromicError:
            continue
        facts, slopes = fretting.facts(shapes, task), np.zeros((len(shapes), len(NAMES)))
        for one in PRICES.rows_of(SHAPE, PRICE):
            for n, numbers in _nudged(facts.numbers, one.numbers):
                slopes[:, n] += (one.made(_Nudged(facts, numbers)) - one.made(facts)) / _NUDGE
        right = np.array([tuple(str(n.finger) for n in shape.notes) == chord.fingers for shape in shapes])
        if right.any():
            costs = np.array([shape.strain for shape in shapes])
            found.append(Choice(chord.name, costs, slopes, right, _CHORD_WEIGHT))
    return found


# the fit


@dataclass(frozen=True, eq=False)
class _Together:
    """Choices side by side: costs [N, R] (endless where one has fewer), slopes [N, R, P], right [N, R], weights [N]."""

    costs: Floats
    slopes: Floats
    right: Any
    weight: Floats

    @classmethod
    def of(cls, some: Sequence[Choice]) -> _Together:
        most = max(len(one.costs) for one in some)
        costs, slopes = np.full((len(some), most), np.inf), np.zeros((len(some), most, len(NAMES)))
        right = np.zeros((len(some), most), dtype=bool)
        for n, one in enumerate(some):
            here = slice(len(one.costs))
            costs[n, here], slopes[n, here], right[n, here] = one.costs, one.slopes, one.right
        return cls(costs, slopes, right, np.array([one.weight for one in some]))

    def loss(self, prices: Floats, at: Floats) -> tuple[float, Floats]:
        """How unlikely the right answers are under prices [P], which were told at others; and its gradient [P]."""
        costs = (self.costs + self.slopes @ (prices - at)) / _TEMPERATURE
        share = np.exp(costs.min(axis=1, keepdims=True) - costs)
        share /= share.sum(axis=1, keepdims=True)
        likely = (share * self.right).sum(axis=1)
        kept = _FLOOR + (1.0 - _FLOOR) * likely
        change = share * (self.right - likely[:, None])  # of the likelihood, against each cost
        change *= (self.weight * (1.0 - _FLOOR) / kept / _TEMPERATURE)[:, None]
        away = (prices - START) / (_HIGH - _LOW)
        fault = -float(self.weight @ np.log(kept)) + _NEAR * float(away @ away)
        return fault, np.tensordot(change, self.slopes, 2) + 2 * _NEAR * away / (_HIGH - _LOW)


def fitted(some: Sequence[Case], of_chords: Sequence[str], told: bool = False) -> Floats:
    """[P] the prices fitted to some cases, of fingers and positions, and to the chords of some names."""
    prices = START
    known: dict[str, tuple[str, ...]] = {}
    best: tuple[float, Floats] = (-1.0, START)
    names, parts = set(of_chords), [slice(n, n + 100) for n in range(0, len(_published()), 100)]
    with ProcessPoolExecutor(2) as pool:
        for turn in range(_ROUNDS):
            player = with_prices(presets.players()["fluent"], prices)
            tasks = [(case, known.get(case.name, ())) for case in some]
            made = list(pool.map(partial(_made, player=player), tasks, chunksize=8))
            every = pool.map(partial(chord_choices, player=player), parts)
            held = [one for part in every for one in part if one.name in names]
            right = sum(one[2] for one in made)
            good = sum(bool(one.right[one.costs.argmin()]) for one in held) / max(1, len(held))
            if told:
                print(f"    round {turn}: {right} of {len(some)} cases, {good:.1%} of chords", flush=True)
            best = max(best, (right + _ALL_CHORDS * good, prices), key=lambda one: one[0])
            known = {one[0].name: one[1] for one in made}
            mixed = [one[0] for one in made if one[0].right.any() and not one[0].right.all()]
            prices = minimize(
                _Together.of([*mixed, *held]).loss, prices, (prices,), jac=True, method="L-BFGS-B",
                bounds=list(zip(_LOW, _HIGH, strict=True)), options={"maxiter": 80},
            ).x  # fmt: skip
    return best[1]


def _made(task: tuple[Case, tuple[str, ...]], player: Player) -> tuple[Choice, tuple[str, ...], bool]:
    return _choice(*task, player)


def bench_fit(write: bool = False) -> None:
    """Fit each fold's prices and those of everything; print what they come to, and with `write` keep the folds'."""
    every, published = [case for case in cases() if case.kind != "strokes"], _published()
    names = sorted({chord.name for chord in published})
    lines = []
    for fold in range(FOLDS):
        inside = [case for case in every if fold_of(case.name) != fold]
        prices = fitted(inside, [name for name in names if fold_of(name) != fold])
        lines += [f"[[fold]]  # {fold}", *(f'"{n}" = {v:.3g}' for n, v in zip(NAMES, prices, strict=True)), ""]
        print(f"  fold {fold} fitted", flush=True)
        if write:
            KEPT.write_text(
                "# Numbers fitted with each fold left out, by ./run bench --fit --write\n\n" + "\n".join(lines)
            )
    shipped, prices = prices_of(presets.players()["fluent"]), fitted(every, names, told=True)
    for name, was, now in zip(NAMES, shipped, prices, strict=True):
        row(f"  {name}", f"{now:.3g}", f"ships as {was:.3g}")


def fold_players() -> list[Player]:
    """The fluent player with the prices of each fold, as they were kept."""
    kept = tomllib.loads(KEPT.read_text())["fold"]
    return [with_prices(presets.players()["fluent"], np.array([one[name] for name in NAMES])) for one in kept]


if __name__ == "__main__":
    bench_fit("--write" in sys.argv)
