"""`dromic move FILE`: a shape on other strings or along the neck, what breaks, and the ceilings of the places side by side."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from dromic.cli.plan_options import add_options, asked_of, bars_between
from dromic.core.editing.edit import Span
from dromic.core.editing.shapes import FRETS, KEEPS, Moved, everywhere, moved
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.plan.write_back import POSITIONS, phrase_with_plan
from dromic.core.reports.ceiling_words import about
from dromic.core.search.planner import judge, plan
from dromic.core.values.errors import DromicError
from dromic.formats.table import NOTHING, STRINGS, Work, writer_of
from dromic.store.saving import save


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "move", help="a shape elsewhere on the neck", description="A shape on other strings or frets, and what breaks."
    )
    add_options(command)
    add = command.add_argument
    add(
        "--strings",
        type=int,
        default=0,
        metavar="N",
        help="so many strings lower; higher with a minus, as in --strings=-1",
    )
    add("--frets", type=int, default=0, metavar="N", help="so many frets up; down with a minus")
    add("--kept", choices=KEEPS, default=FRETS, help="what stays the same on other strings")
    add("--passage", metavar="A-B", help="the bars that move; else all of it")
    add("--everywhere", action="store_true", help="every set of strings it fits, side by side")
    add("--out", type=Path, metavar="FILE", help="write the moved phrase")
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    if options.everywhere and (options.strings or options.frets or options.out):
        raise DromicError("--everywhere tries all strings; leave out --strings, --frets and --out")
    asked = asked_of(options)
    request = asked.requests[0]
    now = judge(asked.solve(request))
    phrase = phrase_with_plan(request.phrase, now, frozenset({POSITIONS}))
    span = _span(phrase, options.passage)
    if options.everywhere:
        found = list(everywhere(phrase, span, options.kept, request.instrument))
    else:
        found = [moved(phrase, span, options.strings, options.frets, options.kept, request.instrument)]
    plans = [now if one.phrase == phrase else _planned(request, one.phrase) for one in found]
    if options.out is not None:
        kind = writer_of(options.out)
        if kind.write is None or kind.needs not in (NOTHING, STRINGS):
            raise DromicError("needs a plan; write it as a phrase first, then convert that", path=options.out.name)
        save(options.out, kind.write(Work(replace(found[0].phrase, notices=()), request.instrument)))
    return (_json if options.json else _table)(options, now, found, plans)


def _span(phrase: Phrase, passage: str | None) -> Span:
    if passage is None:
        return Span(phrase.bars[0].start, phrase.end)
    first, last = bars_between(phrase, passage)
    return Span(phrase.bars[first].start, phrase.bars[last].end)


def _planned(request: Request, phrase: Phrase) -> Plan | None:
    """The plan there, strings and frets as they are; None where there is none."""
    try:
        return plan(replace(request, phrase=phrase, keep=request.keep | {POSITIONS}, pins=(), overrides=()))
    except DromicError:
        return None


def _json(options: argparse.Namespace, now: Plan, found: list[Moved], plans: list[Plan | None]) -> str:
    places = [
        {
            "words": one.words, "strings": one.strings, "frets": one.frets, "kept": one.keep, "breaks": list(one.breaks),
            "ceiling": None if made is None or made.ceiling is None else round(made.ceiling, 2),
            "cost": None if made is None else round(made.cost, 3), "playable": made is not None,
        }
        for one, made in zip(found, plans, strict=True)
    ]  # fmt: skip
    ceiling = None if now.ceiling is None else round(now.ceiling, 2)
    return json.dumps({"dromic": 1, "source": options.file.name, "ceiling": ceiling, "places": places}, indent=1) + "\n"


def _table(options: argparse.Namespace, now: Plan, found: list[Moved], plans: list[Plan | None]) -> str:
    lines = [f"where it is: {about(now.ceiling)} (estimates)"]
    for one, made in zip(found, plans, strict=True):
        if not (one.strings or one.frets):
            continue
        told = about(made.ceiling) if made is not None else "no plan fits there"
        lines.append(f"{one.words}: {told}")
        lines += [f"    {words}" for words in one.breaks]
    return "\n".join(lines) + "\n"
