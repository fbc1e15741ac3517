"""`dromic practise FILE`: a session asked for pass by pass, or those of a simulated player and how near learned rates come to its."""

from __future__ import annotations

import argparse
import json
from datetime import datetime
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.commands.asked_session import ask
from dromic.cli.plan_options import add_options, one_plan, player_named
from dromic.core.learning.learned_rates import Learned, Model, loads_under, rate_of
from dromic.core.learning.simulated_player import practised
from dromic.core.plan.plan import Plan
from dromic.core.practice.log_pass import Pass
from dromic.core.practice.wishes import MINUTES
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from dromic.store.log.logbook import Logbook

MOST_DAYS = 400


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "practise",
        help="a session as JSON lines, or sessions of a simulated player",
        description="A session as JSON lines, or sessions of a simulated player on a clock of its own.",
    )
    add_options(command, several=True)
    how = command.add_mutually_exclusive_group(required=True)
    how.add_argument(
        "--ask", action="store_true", help="ask for pass after pass, a JSON line each; answers are lines too"
    )
    how.add_argument("--simulate", type=int, metavar="SEED", help="which simulated player")
    command.add_argument("--day", metavar="YYYY-MM-DD", help="the day it is, for --ask; else today")
    command.add_argument("--cold", choices=("on", "off"), default="on", help="a cold take first, for --ask")
    command.add_argument("--days", type=int, default=1, metavar="N", help="so many daily sessions")
    command.add_argument("--minutes", type=float, default=MINUTES, metavar="N", help="of each session")
    command.add_argument(
        "--true", metavar="PLAYER", help="the hands it really has, a name or a file; else those planned for"
    )
    command.add_argument("--target", type=float, metavar="BPM", help="the tempo it works towards; else the phrase's")
    command.add_argument("--from", dest="first", default="2026-01-01", metavar="DAY", help="the first day")
    command.add_argument(
        "--db", type=Path, metavar="FILE", help="a log to keep its passes in; with --ask else the usual one"
    )
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    if not 5 <= options.minutes <= 600:
        raise DromicError(f"--minutes is {options.minutes:g}; it must lie between 5 and 600")
    if options.ask:
        return ask(options)
    if len(options.file) > 1:
        raise DromicError("a simulated player practises one file")
    [options.file] = options.file
    if not 1 <= options.days <= MOST_DAYS:
        raise DromicError(f"--days is {options.days}; it must lie between 1 and {MOST_DAYS}")
    try:
        first = datetime.fromisoformat(options.first)
    except ValueError as error:
        raise DromicError(f"--from is {options.first!r}; write it as 2026-01-01") from error
    plan = one_plan(options, "a session is made from")
    true = player_named(options.true) if options.true else plan.request.player
    numbers = presets.practice().learning
    passes = practised(
        plan, true, presets.practice(), numbers, options.days, options.minutes, options.simulate, first, options.target
    )
    if options.db is not None:
        Logbook(options.db).add(passes)
    learned = Model(plan, plan.request.player, numbers).learn(passes)
    return (_json if options.json else _table)(plan, true, passes, learned, options.days)


def _ceiling(plan: Plan, player: Player) -> float:
    return plan.request.phrase.tempo / float(loads_under(plan, player).max())


def _json(plan: Plan, true: Player, passes: list[Pass], learned: Learned, days: int) -> str:
    rates = [
        {
            "hand": rate[0], "rate": rate[1], "start": rate_of(learned.start, rate), "learned": round(value, 3),
            "true": rate_of(true, rate), "uncertainty": round(sure, 4), "known": rate in learned.known,
        }
        for rate, (value, sure) in learned.rates.items()
    ]  # fmt: skip
    ceilings = {
        name: round(_ceiling(plan, player), 2)
        for name, player in (("start", learned.start), ("learned", learned.player), ("true", true))
    }
    found = {"dromic": 1, "days": days, "passes": len(passes), "clean": sum(p.clean for p in passes),
             "ceiling": ceilings, "rates": rates}  # fmt: skip
    return json.dumps(found, indent=1) + "\n"


def _table(plan: Plan, true: Player, passes: list[Pass], learned: Learned, days: int) -> str:
    lines = [
        f"{days} {'day' if days == 1 else 'days'}, {len(passes)} passes of a simulated player, "
        f"{sum(p.clean for p in passes)} clean",
        f"ceiling: {_ceiling(plan, learned.start):.1f} at first, {_ceiling(plan, learned.player):.1f} learned, "
        f"{_ceiling(plan, true):.1f} in truth",
        "",
        f"{'rate':<24}{'first':>8}{'learned':>9}{'truth':>8}",
    ]
    for rate, (value, sure) in learned.rates.items():
        told = f"{value:9.1f}" if rate in learned.known else f"{'unknown':>9}"
        spread = f"   within about {sure:.0%}" if rate in learned.known else ""
        lines.append(f"{rate[1]:<24}{rate_of(learned.start, rate):8.1f}{told}{rate_of(true, rate):8.1f}{spread}")
    return "\n".join(lines) + "\n"
