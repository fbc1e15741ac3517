"""`dromic places FILE`: the lists players make by hand of a planned phrase."""

from __future__ import annotations

import argparse
import json
from typing import Any

from dromic.cli.plan_options import add_options, one_plan
from dromic.core.reports.places.lists import BY_NAME, LISTS, places_of
from dromic.core.values.errors import DromicError


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "places", help="places of a plan, one by one", description="Lists that players make by hand, from a plan."
    )
    add_options(command)
    names = " ".join(f"{one.name} ({one.why})" for one in LISTS)
    command.add_argument("--of", metavar="NAME", help=f"one list, else how many places each holds: {names}")
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    if options.of is not None and options.of not in BY_NAME:
        raise DromicError(f"there is no list {options.of!r}; choose one of {', '.join(BY_NAME)}")
    plan = one_plan(options, "places are listed of")
    names = [options.of] if options.of else list(BY_NAME)
    found = {name: places_of(plan, name) for name in names}
    if options.json:
        lists = [
            {"name": name, "title": BY_NAME[name].title, "places": [
                {"event": p.event, "note": p.note, "bar": p.bar, "said": p.words} for p in of
            ]}
            for name, of in found.items()
        ]  # fmt: skip
        return json.dumps({"dromic": 1, "source": options.file.name, "lists": lists}, indent=1) + "\n"
    if options.of is None:
        return "\n".join(f"{name:<11} {len(of):>4}  {BY_NAME[name].why}" for name, of in found.items()) + "\n"
    lines = [f"bar {p.bar:>3}, note {p.note:>3}: {p.words}" for p in found[options.of]]
    return "\n".join([f"{BY_NAME[options.of].title}: {len(lines)}", *lines]) + "\n"
