"""`dromic plan FILE`: read, plan, print."""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from typing import Any

from dromic import presets
from dromic.cli.as_table import beside_each_other, frontier_table, table
from dromic.cli.plan_options import add_options, asked_of
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.questions.alternatives import Balance, alternatives, frontier
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.as_json import plan_json, report_json, rounded
from dromic.core.search.meant_pins import freely
from dromic.core.search.planner import Solved
from dromic.core.values.errors import DromicError
from dromic.plan_workers import Workers


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "plan", help="plan both hands of a phrase", description="Plan both hands of a phrase."
    )
    add_options(command)
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    try:
        asked = asked_of(options)
        requests = asked.requests
        if options.frontier:
            return _frontier(options, requests[0])
        if len(requests) > 1 and options.alternatives == 1:
            plans = _side_by_side(requests, asked.meant)
        else:
            plans = [found for request in requests for found in _planned(asked.solve, request, options.alternatives)]
    except DromicError as error:
        raise error if error.path else error.at(options.file.name) from error
    if options.json:
        entries = [plan_json(p, s, rank) for p, s, rank in plans]
        return json.dumps(report_json(options.file.name, entries, plans[0][0]), indent=1) + "\n"
    made = [p for p, _, _ in plans]
    tables = [table(p) for p in made]
    return "\n".join([*tables, beside_each_other(made)] if len(requests) > 1 else tables)


def _planned(solve: Callable[[Request], Solved], request: Request, count: int) -> list[tuple[Plan, float, int]]:
    """(plan, seconds it took, rank) of a request and its alternatives."""
    began = time.perf_counter()
    solved = solve(request)
    others = alternatives(solved, count) if count > 1 else (solved,)
    found = []
    for rank, one in enumerate(others, start=1):
        plan = with_remedies(one, presets.other_leans(), schools=presets.carrying_schools())
        found.append((plan, time.perf_counter() - began, rank))
        began = time.perf_counter()
    return found


def _side_by_side(requests: list[Request], meant: bool) -> list[tuple[Plan, float, int]]:
    workers = Workers()
    try:
        answers = workers.plan([freely(r) if meant else r for r in requests], presets.other_leans())
    finally:
        workers.close()
    refused = next((a.refused for a in answers if a.plan is None), None)
    if refused is not None:
        raise DromicError(refused)
    return [(a.plan, a.seconds, 1) for a in answers if a.plan is not None]


def _frontier(options: argparse.Namespace, request: Request) -> str:
    balances = frontier(request)
    if not options.json:
        return frontier_table(balances)
    return json.dumps(_frontier_json(options.file.name, balances), indent=1) + "\n"


def _frontier_json(source: str, balances: tuple[Balance, ...]) -> dict[str, Any]:
    """The frontier between the two hands' work and the notes left unpicked."""
    return {
        "dromic": 1,
        "source": source,
        "frontier": [
            {
                "picking_work": rounded(b.picking_work),
                "fretting_work": rounded(b.fretting_work),
                "unpicked": b.unpicked,
                "ceiling": rounded(b.plan.ceiling),
                "strokes": [n.stroke for n in b.plan.notes],
                "strings": [n.string for n in b.plan.notes],
                "frets": [n.fret for n in b.plan.notes],
            }
            for b in balances
        ],
    }
