"""A player who is not there: practises sittings on a clock of its own, clean or not by what its true hands can do. It serves the
demonstration log, the tests, and trying whether learning comes near true rates."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from dromic.core.learning.learned_rates import Model, loads_under
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import next_rung
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.setup.player import Player
from dromic.core.setup.practice_settings import PracticeSettings

_HOUR = 19
"""of the day at which it begins"""
_COUNT_IN_QUARTERS = 4


def practised(
    plan: Plan, true: Player, settings: PracticeSettings, numbers: Mapping[str, float], days: int, minutes: float, seed: int,
    first: datetime, target: float | None = None,
) -> list[Pass]:  # fmt: skip
    """The passes of so many daily sittings. `true` are its hands; `plan` is made for the hands it believes it has."""
    chance = np.random.default_rng(seed)
    model = Model(plan, plan.request.player, numbers)
    loads = loads_under(plan, true)
    kept: list[Pass] = []
    for day in range(days):
        now = first.replace(hour=_HOUR, minute=0, second=0, microsecond=0) + timedelta(days=day)
        work = todays_work(plan, settings, minutes, kept, now.date(), target=target)
        for slot in work.schedule.slots:
            end = now + timedelta(minutes=slot.minutes)
            if slot.drill is not None:
                kept += _drilled(work, slot.drill, model, loads, kept, now, end, settings, numbers["steepness"], chance)
            now = end
    return kept


def _drilled(
    work: Work, index: int, model: Model, loads: np.ndarray, kept: list[Pass], now: datetime, end: datetime,
    settings: PracticeSettings, steepness: float, chance: np.random.Generator,
) -> list[Pass]:  # fmt: skip
    drill, phrase = work.drills[index], work.plan.request.phrase.title
    mine = [p for p in kept if p.drill == drill.name]
    made: list[Pass] = []
    while now < end:
        rung = next_rung([*mine, *made], now.date(), work.target, work.ceiling_of(drill), settings.ladder)
        quarters = float(drill.phrase.end) + _COUNT_IN_QUARTERS
        now += timedelta(seconds=60.0 * quarters / rung.tempo + rung.rest_s)
        bare = Pass(now.replace(microsecond=0), phrase, drill.name, round(rung.tempo, 2), True, work.notes_of(drill),
                    seconds=round(60.0 * quarters / rung.tempo, 1), burst=rung.burst, player="simulated")  # fmt: skip
        over = np.where(model.rows_of(bare), loads, 0.0) * rung.tempo / work.plan.request.phrase.tempo
        clean = bool(chance.random() < 1.0 / (1.0 + np.exp(-steepness * (1.0 - over.max(initial=0.0)))))
        hand = (
            None if clean else "picking" if over[:, 0].max(initial=0.0) >= over[:, 1].max(initial=0.0) else "fretting"
        )
        made.append(bare if clean else _missed(bare, hand))
    return made


def _missed(one: Pass, hand: str | None) -> Pass:
    return replace(one, clean=False, hand=hand)
