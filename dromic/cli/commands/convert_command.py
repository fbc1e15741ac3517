"""`dromic convert IN OUT`: from any kind that can be read to any that can be written."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.plan_options import add_options, asked_of
from dromic.core.plan.write_back import POSITIONS, phrase_with_plan
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import judge
from dromic.core.values.errors import DromicError
from dromic.formats.table import NOTHING, PLAN, Work, writable, writer_of
from dromic.store.saving import save


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "convert", help="write a phrase as another kind of file",
        description="Write a phrase as another kind of file. What needs a plan (sheets, tables, strings nobody has "
        "chosen yet) is planned as by `dromic plan`.",
    )  # fmt: skip
    add_options(command)
    command.add_argument("out", type=Path, help=" ".join(writable()))
    command.add_argument("--planned", action="store_true", help="write the plan's strings, fingers and strokes")
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    kind = writer_of(options.out)
    assert kind.write is not None
    try:
        work, notices = _work(options, kind.needs)
    except DromicError as error:
        raise error if error.path else error.at(options.file.name) from error
    lost = [*notices, *kind.left_out(work)]
    save(options.out, kind.write(work))
    if options.json:
        return (
            json.dumps({"dromic": 1, "source": options.file.name, "written": options.out.name, "lost": lost}, indent=1)
            + "\n"
        )
    for sentence in lost:
        sys.stderr.write(f"dromic: {options.out.name}: not carried over: {sentence}\n")
    return ""


def _work(options: argparse.Namespace, needs: str) -> tuple[Work, list[str]]:
    """What to write, planned as far as the kind needs it, and what was decided on the way."""
    if options.school == "all":
        raise DromicError("--school all cannot be written to one file; choose one school")
    asked = asked_of(options)
    request, entry = asked.requests[0], asked.entry
    phrase, notices = request.phrase, list(request.phrase.notices)
    if not phrase.events and (needs != NOTHING or options.planned):
        raise DromicError("there are no notes to plan; give it at least one note")
    bare = any(n.string is None or n.fret is None for e in phrase.events for n in e.notes)
    if needs == PLAN or options.planned or (needs != NOTHING and bare):
        solved = asked.solve(request)
        plan = (
            with_remedies(solved, presets.other_leans(), schools=presets.carrying_schools())
            if needs == PLAN
            else judge(solved)
        )
        if needs == PLAN:
            return Work(plan.request.phrase, request.instrument, plan, entry), []
        if options.planned:
            return Work(phrase_with_plan(phrase, plan), request.instrument, plan, entry), notices
        notices.append(f"strings nobody had chosen are the planner's, for the school {request.school.name}")
        phrase = phrase_with_plan(phrase, plan, frozenset({POSITIONS}))
    return Work(replace(phrase, notices=()), request.instrument, None, entry), notices
