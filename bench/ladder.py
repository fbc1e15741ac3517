"""`./run bench --ladder`: the ladder and whole sessions beside simple rules, with learners that share no code and no law with it.

Reached is three clean passes in a row of the whole at the target, in at least half of the seeds; every pass counts, warm-up and cold
takes too. The oracle knows the hidden limit and how it grows. Seeds from 0 on are only counted; numbers were chosen on those from 100.
"""

from __future__ import annotations

import math
import random
import statistics
import sys
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from datetime import date, datetime, time, timedelta

from bench.learners import GROWTHS, Fixed, Hands, Learner, Oracle, Staircase
from bench.lines import row
from dromic import presets
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import BEST, Known, belief_of, next_rung
from dromic.core.practice.log_pass import Pass, PhraseName
from dromic.core.practice.log_summary import history_of
from dromic.core.practice.sitting import COUNT_IN, Piece, Sitting
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.practice.wishes import Wishes
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.formats.table import read
from dromic.plan_requests import request_for
from dromic.presets import DATA

FIRST = date(2026, 1, 1)
START = 80.0
TARGETS = {"near": 92.0, "middling": 115.0, "far": 140.0}
SEEDS, DAYS, A_DAY = 20, 120, 20
SESSION_SEEDS, SESSION_DAYS, MINUTES = 5, 40, 30.0
MOST_GROWN = 1.35
"""times the target that a limit can ever come to"""
RULES = ("four up, back", "four up", "staircase")
OURS, ORACLE = "Dromic", "oracle"


@dataclass
class Ladder:
    """Dromic's ladder on one drill."""

    target: float
    known: Known = field(init=False)
    today: date = FIRST
    here: list[Pass] = field(default_factory=list)
    passes: list[Pass] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.settings = presets.practice()
        self.known = Known(0.9 * self.target)
        self.belief = belief_of((), self.target, self.known, self.settings.limit, BEST)

    def sleep(self) -> None:
        self.belief = self.belief.over(self.here)
        self.here, self.today = [], self.today + timedelta(1)

    def next(self) -> float:
        settings = self.settings
        rung = next_rung(
            self.passes, self.today, self.target, settings.ladder, settings.limit, self.known, BEST, self.belief
        )
        self.tempo = round(rung.tempo, 2)
        return self.tempo

    def told(self, clean: bool) -> None:
        at = datetime.combine(self.today, time(19)) + timedelta(seconds=20 * len(self.here))
        one = Pass(at, "drill", "whole:0-9", self.tempo, clean)
        self.here.append(one)
        self.passes.append(one)


_TEACHERS: dict[str, Callable[[float, Learner, str], Fixed | Staircase | Oracle | Ladder]] = {
    OURS: lambda target, learner, drill: Ladder(target),
    RULES[0]: lambda target, learner, drill: Fixed(target, back=True),
    RULES[1]: lambda target, learner, drill: Fixed(target, back=False),
    RULES[2]: lambda target, learner, drill: Staircase(target),
    ORACLE: lambda target, learner, drill: Oracle(learner, drill, target),
}


def _learner(growth: str, seed: int, limits: dict[str, float], most: float) -> Learner:
    chance = random.Random(f"{growth} {seed}")
    return Learner(Hands.drawn(chance), growth, most, chance, limits)


def on_one_drill(who: str, growth: str, target: float, seed: int) -> float:
    """Passes until the target is reached; infinite where it is not."""
    learner = _learner(growth, seed, {"whole": START}, MOST_GROWN * target)
    teacher, run, count = _TEACHERS[who](target, learner, "whole"), 0, 0
    for day in range(DAYS):
        if day:
            learner.sleep()
            if isinstance(teacher, Ladder):
                teacher.sleep()
        for _ in range(A_DAY):
            tempo = teacher.next()
            clean = learner.play("whole", tempo)
            teacher.told(clean)
            count, run = count + 1, run + 1 if clean and tempo >= 0.995 * target else 0
            if run >= 3:
                return count
    return math.inf


def _cell(asked: tuple[str, str, float, range]) -> float:
    who, growth, target, seeds = asked
    return statistics.median(on_one_drill(who, growth, target, seed) for seed in seeds)


# whole sessions


def _plan(tune: int) -> Plan:
    phrase = read(DATA / "songs" / "copper-wren.dromic", tune)
    return planned(request_for(phrase, Choices(school="alternate", tempo=phrase.tempo), presets.players()))


SESSIONS = {"one phrase, near": ((1,), 0.88), "one phrase, far": ((1,), 0.62),
            "three phrases, near": ((1, 4, 5), 0.88), "three phrases, far": ((1, 4, 5), 0.62)}  # fmt: skip
"""tunes of the demo, and the limit of each whole at first as a share of its target"""


def in_sessions(who: str, cell: str, growth: str, seed: int) -> float:
    """Passes until every phrase was reached; infinite where one was not."""
    tunes, share = SESSIONS[cell]
    plans = [_plan(tune) for tune in tunes]
    goals = [p.request.phrase.tempo for p in plans]
    learners = [_learner(growth, 31 * seed + n, {"whole": share * t}, MOST_GROWN * t) for n, t in enumerate(goals)]
    return (_by_sittings if who == OURS else _by_rule)(who, plans, goals, learners)


def _by_rule(who: str, plans: Sequence[Plan], goals: Sequence[float], learners: Sequence[Learner]) -> float:
    """The whole of each phrase by turns, three passes of each, for as many minutes."""
    teachers = [_TEACHERS[who](t, learner, "whole") for t, learner in zip(goals, learners, strict=True)]
    runs, count, reached = [0] * len(plans), 0, set()
    for day in range(SESSION_DAYS):
        if day:
            for learner in learners:
                learner.sleep()
        spent, turn = 0.0, 0
        while spent < 60 * MINUTES:
            n = (turn // 3) % len(plans)
            turn += 1
            if n in reached:
                continue
            tempo = teachers[n].next()
            clean = learners[n].play("whole", tempo)
            teachers[n].told(clean)
            spent += 60 * (float(plans[n].request.phrase.end) + COUNT_IN) / tempo
            count, runs[n] = count + 1, runs[n] + 1 if clean and tempo >= 0.995 * goals[n] else 0
            if runs[n] >= 3:
                reached.add(n)
            if len(reached) == len(plans):
                return count
    return math.inf


TRANSFER = 0.5
"""share of what a narrower drill gains that the whole gains with it"""


def _by_sittings(who: str, plans: Sequence[Plan], goals: Sequence[float], learners: Sequence[Learner]) -> float:
    kept: list[list[Pass]] = [[] for _ in plans]
    works: list[Work | None] = [None] * len(plans)
    runs, count, reached = [0] * len(plans), 0, set()
    for day in range(SESSION_DAYS):
        today = FIRST + timedelta(day)
        if day:
            for learner in learners:
                learner.sleep()
        pieces = []
        for n, plan in enumerate(plans):
            history = history_of("x", kept[n])
            before = works[n]
            works[n] = made = (
                replace(before, history=history)
                if before is not None
                else todays_work(plan, presets.practice(), Wishes(MINUTES), history, today)
            )
            if before is not None:
                made.__dict__["_own"] = before._own
            pieces.append(Piece(PhraseName(f"{n}"), made))
        sitting = Sitting(tuple(pieces), today, MINUTES)
        while (asked := sitting.next()) is not None:
            learner, name, n = learners[asked.piece], asked.drill.name, asked.piece
            key = "whole" if asked.drill.kind == "whole" else name
            if key not in learner.limits:  # what is narrower is no harder than the whole, nor as hard
                learner.limits[key] = 1.1 * learner.limits["whole"]
            before_s = math.log(learner.limits[key])
            clean = learner.play(key, asked.rung.tempo)
            if key != "whole":
                learner.limits["whole"] *= math.exp(TRANSFER * (math.log(learner.limits[key]) - before_s))
            at = datetime.combine(today, time(19)) + timedelta(seconds=round(sitting.spent_s))
            one = Pass(
                at, f"{n}", name, asked.rung.tempo, clean, pieces[n].work.notes_of(asked.drill), burst=asked.rung.burst
            )
            sitting = sitting.after(asked, one, asked.round_s + asked.rung.rest_s)
            kept[n].append(one)
            if key == "whole":
                runs[n] = runs[n] + 1 if clean and asked.rung.tempo >= 0.995 * goals[n] else 0
                if runs[n] >= 3:
                    reached.add(n)
            count += 1
            if len(reached) == len(plans):
                return count
    return math.inf


def _session_cell(asked: tuple[str, str, str, range]) -> float:
    who, cell, growth, seeds = asked
    return statistics.median(in_sessions(who, cell, growth, seed) for seed in seeds)


def bench_ladder() -> None:
    """Print all of it; `--choose` on the seeds that choose numbers."""
    first = 100 if "--choose" in sys.argv else 0
    grid = [(growth, name) for growth in GROWTHS for name in TARGETS]
    with ProcessPoolExecutor(2) as pool:
        seeds = range(first, first + SEEDS)
        asked = [(who, growth, TARGETS[name], seeds) for growth, name in grid for who in _TEACHERS]
        halves = _print([f"one drill, {g}, {n}" for g, n in grid], list(pool.map(_cell, asked)))
        seeds = range(first, first + SESSION_SEEDS)
        cells = [(cell, growth) for cell in SESSIONS for growth in ("near", "clean", "fast")]
        sessions = [(who, cell, growth, seeds) for cell, growth in cells for who in _TEACHERS]
        found = list(pool.map(_session_cell, sessions))
        _print([f"sessions, {cell}, {growth}" for cell, growth in cells], found)
    row(
        "one drill, way from the best rule to the oracle, median",
        f"{statistics.median(halves):.2f}",
        "aim: at least 0.5",
    )


def _print(names: Sequence[str], found: Sequence[float]) -> list[float]:
    halves = []
    for n, name in enumerate(names):
        by = dict(zip(_TEACHERS, found[n * len(_TEACHERS) :], strict=False))
        rule = min(by[r] for r in RULES)
        told = ", ".join(f"{who} {count:.0f}" for who, count in by.items())
        ratio = by[OURS] / rule if math.isfinite(rule) else (0.0 if math.isfinite(by[OURS]) else math.nan)
        if math.isfinite(rule) and math.isfinite(by[OURS]):
            halves.append((rule - by[OURS]) / max(rule - by[ORACLE], 1.0))
        else:
            halves.append(1.0 if math.isfinite(by[OURS]) else -1.0)
        row(f"{name}: passes / the best rule's", f"{ratio:.2f} times", f"aim: at most 1.2 ({told})")
    return halves
