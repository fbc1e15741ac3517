"""`dromic drills` prints what to practise; `dromic log` keeps and tells what was practised."""

from __future__ import annotations

import argparse
import json
import sys
import time
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.plan_options import add_options, one_named
from dromic.core.drills.drill import FRETTING, PICKING
from dromic.core.drills.drill_kinds import KINDS
from dromic.core.practice.ladder import BEST, SCHOOLS
from dromic.core.practice.log_pass import FAULTS, HANDS, Pass, PhraseName
from dromic.core.practice.log_summary import Goal, History, history_of
from dromic.core.practice.todays_work import Work, todays_work
from dromic.core.practice.wishes import MINUTES, Wishes
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import write
from dromic.store.log.exchange import as_csv, as_json, read_passes, taken_words, write_passes
from dromic.store.log.logbook import Logbook


def add_to(commands: Any) -> None:
    drills = commands.add_parser("drills", help="the practice list of a plan", description="What to practise, and why.")
    _drill_options(drills)
    log = commands.add_parser("log", help="the log of practice", description="What was practised.")
    log.add_argument(
        "what", nargs="?", choices=("list", "add", "export", "import", "summary", "backup"), default="list"
    )
    log.add_argument("--file", type=Path, metavar="FILE", help="for import and export: a .csv or .json file")
    log.add_argument("--db", type=Path, metavar="FILE", help="the log, else the usual one")
    log.add_argument("--json", action="store_true", help="JSON on standard output")
    log.add_argument("--phrase", metavar="NAME", help="of one phrase alone")
    log.add_argument("--id", metavar="ID", help="of one phrase of a songbook, by its id")
    log.add_argument("--day", metavar="YYYY-MM-DD", help="the day it is, else today")
    log.add_argument("--force", action="store_true", help="back up over whatever stands there")
    add = log.add_argument_group("a pass to add")
    for name, kind in (("--drill", str), ("--tempo", float), ("--seconds", float), ("--at", str), ("--note", str)):
        add.add_argument(name, type=kind)
    add.add_argument("--missed", action="store_true", help="it was not clean")
    add.add_argument("--hand", choices=HANDS, help="which was to blame")
    add.add_argument("--fault", choices=FAULTS)
    add.add_argument("--soreness", type=int, choices=range(4), default=0)
    add.add_argument("--background", action="store_true", help="repeated without attention")
    log.set_defaults(run=_log)


def _drill_options(drills: Any) -> None:
    drills.add_argument("--kinds", action="store_true", help="list the kinds of drill instead")
    add_options(drills, file_needed=False)
    drills.add_argument("--minutes", type=float, default=MINUTES, metavar="N", help="how long today")
    drills.add_argument("--log", type=Path, metavar="DB", help="the log to go on from")
    drills.add_argument("--first", choices=(FRETTING, PICKING), default=FRETTING, help="which hand goes first")
    drills.add_argument("--without", default="", metavar="KINDS", help="kinds to leave out, with commas")
    drills.add_argument(
        "--target", type=float, metavar="BPM", help="the tempo to work towards; else the log's, or the phrase's"
    )
    drills.add_argument("--soreness", type=int, choices=range(4), default=0, help="how sore hands are today")
    drills.add_argument("--ladder", choices=SCHOOLS, default=BEST, help="which school of tempo")
    drills.set_defaults(run=_drills)


def _drills(options: argparse.Namespace) -> str:
    if options.kinds:
        entries = [{"kind": k.name, "hand": k.hand, "meaning": k.meaning} for k in KINDS]
        if options.json:
            return json.dumps({"dromic": 1, "kinds": entries}, indent=1) + "\n"
        return "".join(f"{k.name:<12} {k.hand:<9} {k.meaning}\n" for k in KINDS)
    if options.file is None:
        raise DromicError("drills needs a file to plan; or --kinds")
    left = tuple(name for name in options.without.split(",") if name)
    wishes = Wishes(options.minutes, options.first, options.ladder, left, options.soreness, options.target)
    plan, name = one_named(options, "drills are made from")
    work = todays_work(plan, presets.practice(), wishes, _history(options.log, name) if options.log else None)
    return (_json if options.json else _table)(work, options.file.name)


def _book(path: Path | None) -> Logbook:
    """A log; what is of an older Dromic is brought up, and that is told where it takes long."""
    began = told = time.monotonic()

    def upgrading(share: float) -> bool:
        nonlocal told
        if time.monotonic() - max(told, began + 1.0) > 0:
            told = time.monotonic() + 2.0
            print(
                f"the log is of an older Dromic and is brought up: {share:.0%}; Ctrl+C leaves it as it was",
                file=sys.stderr,
            )
        return True

    return Logbook(path, upgrading)


def _history(log: Path, name: PhraseName) -> History:
    """What a log has of a phrase. What stands under its title alone counts too, and is left there: the window moves it."""
    book = _book(log)
    titled = book.passes(PhraseName(name.title))
    if not titled:
        return book.history(name)
    if name.id:
        count = len(titled)
        print(
            f"{count} {'pass stands' if count == 1 else 'passes stand'} under the title alone and {'is' if count == 1 else 'are'} "
            "counted; open the phrase in the window to give them to it",
            file=sys.stderr,
        )  # fmt: skip
    goal = book.goal(name)
    if goal == Goal():
        goal = book.goal(PhraseName(name.title))
    passes = sorted([*book.passes(name), *titled], key=lambda one: one.utc)
    return replace(history_of(name.title, passes), goal=goal)


def _json(work: Work, source: str) -> str:
    drills: list[dict[str, Any]] = []
    for drill, rung in zip(work.drills, work.rungs, strict=True):
        drills.append({
            "kind": drill.kind, "hand": drill.hand, "notes": list(work.notes_of(drill)),
            "bars": list(drill.bars),
            "reason": drill.reason, "tempo": round(rung.tempo, 1), "target": work.target,
            "minutes": round(work.minutes_of(len(drills)), 1), "figure": write(drill.phrase), "load": round(drill.load, 3),
            "name": drill.name, "tempo_reason": rung.reason,
        })  # fmt: skip
    slots = work.schedule.slots
    session = [{"what": s.what, "minutes": round(s.minutes, 1), "drill": s.drill} for s in slots]
    order = [s.drill for s in slots if s.drill is not None]
    found = {"dromic": 1, "source": source, "drills": drills, "order": order, "minutes": round(work.schedule.minutes, 1),
             "sitting": session, "said": list(work.schedule.said)}  # fmt: skip
    return json.dumps(found, indent=1) + "\n"


def _table(work: Work, source: str) -> str:
    lines = [f"{source}: {work.plan.request.phrase.title}, target {work.target:g}; tempos and loads are estimates", ""]
    for slot in work.schedule.slots:
        if slot.drill is None:
            lines.append(f"{slot.minutes:4.1f} min  {slot.what}")
            continue
        drill, rung = work.drills[slot.drill], work.rungs[slot.drill]
        lines.append(f"{slot.minutes:4.1f} min  {drill.hand:<9} {drill.kind:<10} at {rung.tempo:5.1f}  {drill.reason}")
        lines.append(f"{'':19}{'':21}{rung.reason}")
    lines += ["", *work.schedule.said]
    return "\n".join(lines).rstrip() + "\n"


def _log(options: argparse.Namespace) -> str:
    book, day = _book(options.db), day_of(options.day)
    if options.what == "add":
        for name in ("phrase", "drill", "tempo"):
            if getattr(options, name) is None:
                raise DromicError(f"a pass needs --{name}")
        book.add([_added(options).played_by(day)])
        return ""
    if options.what == "import":
        if options.file is None:
            raise DromicError("import needs a file, .csv or .json as export writes it")
        taken = read_passes(options.file, day)
        for words in taken.bad:
            print(f"left out, {words}", file=sys.stderr)
        return taken_words(book.take_in(taken.passes), taken) + "\n"
    if options.what == "backup":
        if options.file is None:
            raise DromicError("backup needs --file, a place for the copy")
        book.copy_to(options.file, over=options.force)
        return f"copied to {options.file.name}\n"
    if options.what == "summary":
        found = book.summary(day)
        if options.json:
            return json.dumps({"dromic": 1, "phrases": found}, indent=1) + "\n"
        return "".join(f"{phrase}: {told['why']}\n" for phrase, told in found.items()) or "the log is empty\n"
    passes = book.passes(PhraseName(options.phrase or "", options.id) if options.id else options.phrase)
    if book.unreadable:
        print(f"{book.unreadable} rows of the log cannot be read and are left out", file=sys.stderr)
    if options.what == "export" and options.file is not None:
        write_passes(options.file, passes)
        return f"{len(passes)} passes written to {options.file.name}\n"
    if options.json:
        return as_json(passes)
    return as_csv(passes) if options.what == "export" else "".join(_line(p) for p in passes)


def day_of(text: str | None) -> date:
    """The day asked for, else today."""
    try:
        return date.fromisoformat(text) if text else date.today()
    except ValueError as error:
        raise DromicError(f"--day is {text!r:.40}; write it as 2026-11-25") from error


def _added(options: argparse.Namespace) -> Pass:
    try:
        at = datetime.fromisoformat(options.at) if options.at else datetime.now().replace(microsecond=0)
    except ValueError as error:
        raise DromicError(f"--at is {options.at!r}; write it as 2026-11-25T20:41:00") from error
    return Pass(
        at, options.phrase, options.drill, options.tempo, not options.missed, hand=options.hand, fault=options.fault,
        attentive=not options.background, seconds=options.seconds or 0.0, soreness=options.soreness, note=options.note or "",
        phrase_id=options.id or "",
    )  # fmt: skip


def _line(one: Pass) -> str:
    blamed = f", {one.hand} hand" if one.hand else ""
    how = "clean" if one.clean else f"missed{blamed}"
    return f"{one.at:%Y-%m-%d %H:%M}  {one.tempo:6.1f}  {how:<22} {one.drill}  {one.phrase}\n"
