"""`./run bench --learning`: hands nobody tuned for, drawn at random, practise for a month each; how near what is learned comes to
them."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from bench.lines import row
from dromic import presets
from dromic.core.learning.learned_rates import RATES, Learned, Model, loads_under, rate_of, with_rate
from dromic.core.learning.simulated_player import practised
from dromic.core.plan.plan import Plan
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.core.setup.player import Player
from dromic.formats.table import read
from dromic.plan_requests import request_for
from dromic.presets import DATA

PLAYERS, DAYS, MINUTES = 24, 30, 45.0
_SCHOOLS = ("alternate", "sweep", "economy")
_GENERAL, _EACH = 0.15, 0.12
"""how far hands lie from those believed: all rates together, and each on its own (standard deviations of the logarithm)"""
_TUNES, _TARGET = 8, (0.9, 1.3)
"""tunes of the demo drawn from, and the target as a share of the true ceiling"""
_NEAR, _KNOWN_NEAR = 0.05, 0.10


@dataclass(frozen=True)
class Month:
    """What came of one player's month: shares by which the ceiling was off before and after, and those of the known rates."""

    before: float
    after: float
    rates: tuple[float, ...]


def month(seed: int) -> tuple[Plan, Player, Learned]:
    """(plan, true hands, what was learned) of one drawn player."""
    chance = np.random.default_rng(seed)
    plan = _plan(int(chance.integers(0, _TUNES)) or _TUNES, _SCHOOLS[int(chance.integers(0, len(_SCHOOLS)))])
    hands, general = plan.request.player, chance.normal(0, _GENERAL)
    for rate in RATES:
        if rate_of(hands, rate) > 0:
            hands = with_rate(hands, rate, rate_of(hands, rate) * float(np.exp(general + chance.normal(0, _EACH))))
    target = ceiling(plan, hands) * float(chance.uniform(*_TARGET))
    numbers = presets.practice().learning
    passes = practised(plan, hands, presets.practice(), numbers, DAYS, MINUTES, seed, datetime(2026, 10, 1), target)
    return plan, hands, Model(plan, plan.request.player, numbers).learn(passes)


def ceiling(plan: Plan, hands: Player) -> float:
    """The tempo a plan ends at for hands."""
    return float(plan.request.phrase.tempo / loads_under(plan, hands).max())


def _plan(tune: int, school: str) -> Plan:
    phrase = read(DATA / "songs" / "copper-wren.dromic", tune)
    return planned(request_for(phrase, Choices(school=school, tempo=phrase.tempo), presets.players()))


def _month(seed: int) -> Month:
    plan, hands, found = month(seed)
    true = ceiling(plan, hands)
    off = tuple(abs(found.rates[r][0] / rate_of(hands, r) - 1) for r in found.known)
    return Month(ceiling(plan, found.start) / true - 1, ceiling(plan, found.player) / true - 1, off)


def bench_learning() -> None:
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_month, range(PLAYERS)))
    near = sum(abs(m.after) <= _NEAR for m in found)
    before = sum(abs(m.before) <= _NEAR for m in found)
    rates = [off for m in found for off in m.rates]
    row(f"ceilings within {_NEAR:.0%} after {DAYS} days, {PLAYERS} drawn players", f"{near} of {len(found)} ({before} before)",
        "aim: all")  # fmt: skip
    row("  farthest off", f"{max(abs(m.after) for m in found):.1%}")
    row(
        f"  known rates within {_KNOWN_NEAR:.0%}",
        f"{sum(off <= _KNOWN_NEAR for off in rates)} of {len(rates)}",
        "aim: all",
    )
