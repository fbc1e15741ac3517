"""A player who is not there: practises sessions on a clock of its own, clean or not by what its true hands can do. It serves the
demonstration log, the tests, and trying whether learning comes near true rates."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from dromic.core.drills.drill_kinds import next_in_turn
from dromic.core.learning.learned_rates import Model, loads_under
from dromic.core.plan.plan import Plan
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.log_summary import history_of
from dromic.core.practice.sitting import COUNT_IN
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.practice.wishes import Wishes
from dromic.core.setup.player import Player
from dromic.core.setup.practice_settings import LearningNumbers, PracticeSettings

_HOUR = 19
"""of the day at which it begins"""


def practised(
    plan: Plan, true: Player, settings: PracticeSettings, numbers: LearningNumbers, days: int, minutes: float, seed: int,
    first: datetime, target: float | None = None,
) -> list[Pass]:  # fmt: skip
    """The passes of so many daily sessions. `true` are its hands; `plan` is made for the hands it believes it has."""
    chance = np.random.default_rng(seed)
    model = Model(plan, plan.request.player, numbers)
    loads = loads_under(plan, true)
    kept: list[Pass] = []
    by_drill: dict[str, list[Pass]] = {}
    for day in range(days):
        now = first.replace(hour=_HOUR, minute=0, second=0, microsecond=0) + timedelta(days=day)
        history = history_of(plan.request.phrase.title, kept)
        work = todays_work(plan, settings, Wishes(minutes, target=target), history, now.date())
        for slot in work.schedule.slots:
            end = now + timedelta(minutes=slot.minutes)
            if slot.drill is not None:
                kept += _drilled(work, slot.drill, model, loads, by_drill, now, end, numbers.steepness, chance)
            now = end
    return kept


def _drilled(
    work: Work, index: int, model: Model, loads: np.ndarray, by_drill: dict[str, list[Pass]], now: datetime, end: datetime,
    steepness: float, chance: np.random.Generator,
) -> list[Pass]:  # fmt: skip
    """The passes of a part of a session; they go into `by_drill` as well."""
    phrase = work.plan.request.phrase.title
    made: list[Pass] = []
    ticked = set(work.history.record.ever_clean)
    while now < end:
        drill = work.drills[index]
        mine = by_drill.setdefault(drill.name, [])
        rung = work.next_rung(drill, mine, now.date())
        quarters = float(drill.phrase.end) + COUNT_IN
        now += timedelta(seconds=60.0 * quarters / rung.tempo + rung.rest_s)
        bare = Pass(now.replace(microsecond=0), phrase, drill.name, round(rung.tempo, 2), True, work.notes_of(drill),
                    seconds=round(60.0 * quarters / rung.tempo, 1), burst=rung.burst, player="simulated")  # fmt: skip
        over = np.where(model.rows_of(bare), loads, 0.0) * rung.tempo / work.plan.request.phrase.tempo
        clean = bool(chance.random() < 1.0 / (1.0 + np.exp(-steepness * (1.0 - over.max(initial=0.0)))))
        hand = (
            None if clean else "picking" if over[:, 0].max(initial=0.0) >= over[:, 1].max(initial=0.0) else "fretting"
        )
        one = bare if clean else replace(bare, clean=False, hand=hand)
        mine.append(one)
        made.append(one)
        if clean:
            ticked.add(drill.name)
            index = next_in_turn(work.drills, index, ticked)
    return made
