"""`dromic ask FILE`: the questions a player asks of a phrase, every other way to play a note, one's own way; `dromic differ`: what
differs between two phrases."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.plan_options import add_options, asked_of, bars_between
from dromic.core.editing.differences import differences, parts_differ
from dromic.core.plan.request import Request
from dromic.core.questions.own_way import OwnWay, is_stated, judge_own_way
from dromic.core.questions.questions import QUESTIONS, Subject, answers
from dromic.core.questions.whatif import Choice, what_if
from dromic.core.reports.ceiling_words import about
from dromic.core.search.meant_pins import freely
from dromic.core.search.planner import judge
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from dromic.plan_workers import Workers

WAY, FASTEST = "way", "fastest"
_NAMES = (*(q.name for q in QUESTIONS), WAY)


def add_to(commands: Any) -> None:
    ask = commands.add_parser("ask", help="a question about a phrase", description="Ask something about a phrase.")
    add_options(ask)
    texts = "; ".join(f"{q.name}: {q.text}" for q in QUESTIONS)
    ask.add_argument("--question", metavar="NAME", help=f"{texts}; {WAY}: how good is the way written or pinned?")
    ask.add_argument("--note", type=int, metavar="N", help="every other way to play a note, and what it would bring")
    ask.set_defaults(run=_ask)
    differ = commands.add_parser(
        "differ", help="what differs between two phrases", description="What differs between two phrases."
    )
    differ.add_argument("file", type=Path)
    differ.add_argument("other", type=Path, nargs="?", help="else another tune of the same file")
    differ.add_argument("--tune", type=int, default=1, metavar="N")
    differ.add_argument("--other-tune", type=int, default=None, metavar="N")
    differ.add_argument("--bars", metavar="A-B", help="a passage of the phrase, against --other-bars of the same one")
    differ.add_argument("--other-bars", metavar="C-D")
    differ.add_argument("--json", action="store_true", help="JSON on standard output")
    differ.set_defaults(run=_differ)


def _ask(options: argparse.Namespace) -> str:
    if (options.question is None) == (options.note is None):
        raise DromicError(f"ask --question with one of {', '.join(_NAMES)}, or --note with a number")
    if options.question is not None and options.question not in _NAMES:
        raise DromicError(f"there is no question {options.question!r}; ask one of {', '.join(_NAMES)}")
    asked = asked_of(options)
    request = asked.requests[0]
    if options.note is not None:
        return _what_if(options, asked.solve(request), request)
    if options.question == WAY:
        return _way(options, request)
    weighed = _weighed(request) if options.question == FASTEST else []
    subject = Subject(asked.solve(request), request.phrase.tempo, weighed, presets.other_leans())
    lines = answers(subject, options.question)
    if not options.json:
        return "\n".join(lines) + "\n"
    return _json(options, question=options.question, answer=list(lines))


def _weighed(request: Request) -> list[tuple[str, Any]]:
    """The phrase in every school but the pattern's, which needs one."""
    schools = [s for name, s in presets.schools().items() if name != "pattern"]
    workers = Workers()
    try:
        found = workers.plan([freely(replace(request, school=s, pins=(), overrides=())) for s in schools])
    finally:
        workers.close()
    return [(school.label, one.plan) for school, one in zip(schools, found, strict=True)]


def _what_if(options: argparse.Namespace, solved: Any, request: Request) -> str:
    event = next((n.event for n in judge(solved).notes if n.index + 1 == options.note), None)
    if event is None:
        raise DromicError(f"there is no note {options.note}; the phrase has {len(judge(solved).notes)}")
    found = what_if(solved, event)
    if options.json:
        choices = [
            {"change": one.change.text, "ceiling": _rounded(one.ceiling), "gain": round(one.gain, 2),
             "picking": round(one.picking, 3), "fretting": round(one.fretting, 3),
             "strain": round(one.strain, 3), "whole": round(one.whole, 3), "others": one.others, "after": one.after}
            for one in found
        ]  # fmt: skip
        return _json(options, note=options.note, ceiling=_rounded(judge(solved).ceiling), choices=choices)
    head = f"note {options.note}: {about(judge(solved).ceiling)} as it is planned; {len(found)} other ways (estimates)"
    return "\n".join([head, *(f"  {_choice(one)}" for one in found)]) + "\n"


def _choice(one: Choice) -> str:
    more = f", picking {one.picking:+.2f}, fretting {one.fretting:+.2f}; {one.others} other notes change"
    return f"{one.change.text}: {about(one.ceiling)} ({one.gain:+.0f}){more}{'; ' + one.after if one.after else ''}"


def _way(options: argparse.Namespace, request: Request) -> str:
    if not is_stated(request):
        raise DromicError("there is no way of your own to judge; write strokes or fingers into the file, or --pin some")
    way = judge_own_way(request)
    if options.json:
        return _json(
            options, question=WAY, ceiling=_rounded(way.plan.ceiling), best=_rounded(way.best.ceiling), breaks=list(way.breaks),
            more=way.more, differences=[
                {"events": list(d.events), "own": d.own, "best": d.best, "ceiling": _rounded(d.ceiling), "gain": _rounded(d.gain)}
                for d in way.differences
            ],
        )  # fmt: skip
    return "\n".join(_way_lines(way)) + "\n"


def _way_lines(way: OwnWay) -> list[str]:
    lines = [
        f"your way: {about(way.plan.ceiling)}; the best of the same school: {about(way.best.ceiling)} (estimates)",
        *way.breaks,
    ]
    for one in way.differences:
        note = way.plan.events[one.events[0]][0]
        gain = f" ({one.gain:+.0f} without it)" if one.gain is not None else ""
        lines.append(f"bar {note.bar_number}, note {note.index + 1}: you {one.own}; the best {one.best}{gain}")
    return lines + [f"{way.more} more"] * bool(way.more)


def _differ(options: argparse.Namespace) -> str:
    if options.bars or options.other_bars:
        return _parts(options)
    other = options.other or options.file
    tune = options.other_tune if options.other_tune is not None else 1 if options.other else options.tune + 1
    first, second = read(options.file, options.tune), read(other, tune)
    found = differences(first, second)
    if options.json:
        return _json(options, first=first.title, second=second.title, differences=found)
    return "\n".join([f"{first.title} against {second.title}: {len(found)} differences", *found]) + "\n"


def _parts(options: argparse.Namespace) -> str:
    """Two passages of one phrase against each other."""
    if not (options.bars and options.other_bars):
        raise DromicError("--bars and --other-bars go together; give both as 1-4")
    phrase = read(options.file, options.tune)
    first, second = (bars_between(phrase, text) for text in (options.bars, options.other_bars))
    found = parts_differ(phrase, first, second)
    if options.json:
        return _json(options, first=options.bars, second=options.other_bars, differences=found)
    return "\n".join([f"bars {options.bars} against {options.other_bars}: {len(found)} differences", *found]) + "\n"


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _json(options: argparse.Namespace, **found: Any) -> str:
    return json.dumps({"dromic": 1, "source": options.file.name, **found}, indent=1) + "\n"
