"""`dromic practise FILE --ask`: a session as JSON lines, so that any player, program or pedal can practise by it."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterator
from copy import copy
from dataclasses import replace
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.commands.practice_commands import day_of
from dromic.cli.plan_options import one_named
from dromic.core.practice.log_pass import FAULTS, HANDS, Pass
from dromic.core.practice.sitting import COLD, Asked, Piece, Sitting
from dromic.core.practice.todays_work import todays_work
from dromic.core.practice.wishes import Wishes
from dromic.core.values.checks import check_choice, check_range, check_whole
from dromic.core.values.errors import DromicError
from dromic.formats.text.quick_line import write
from dromic.store.log.logbook import Logbook
from dromic.store.log.writer import LogWriter

_HOUR = 19
"""of a day that is given, at which its session begins"""
_KEPT_S = 5.0
"""How long a pass is waited for to be in the log, or safely waiting for it, s."""
_MOST_SECONDS = 86400.0
_ANSWERS = frozenset({"clean", "hand", "fault", "seconds", "soreness", "end"})


def ask(options: argparse.Namespace) -> str:
    """Ask for one pass after the other until the minutes, the answers or their file are over."""
    day = day_of(options.day)
    book = Logbook(options.db)
    book.make()
    writer = LogWriter(book, lambda words, calm: print(f"dromic: {words}", file=sys.stderr), lambda: None)
    try:
        sitting, names = _begun(options, book, day)
        _run(sitting, names, writer, _first_moment(sitting, day, options.day is not None))
    finally:
        writer.close()
    return ""


def _begun(options: argparse.Namespace, book: Logbook, day: date) -> tuple[Sitting, list[dict[str, Any]]]:
    """The sitting, and what each line says of whose it is: nothing where there is one phrase."""
    wishes = Wishes(options.minutes, target=options.target)
    pieces, names = [], []
    for file in options.file:
        single = copy(options)
        single.file = file
        plan, name = one_named(single, "a session is made from")
        history = book.history(name, day)
        pieces.append(Piece(name, todays_work(plan, presets.practice(), wishes, history, day)))
        names.append({"source": Path(file).name, "tune": options.tune} if len(options.file) > 1 else {})
    sore = max((p.soreness for piece in pieces for p in piece.work.history.recent if p.day == day), default=0)
    if sore:
        pieces = [_sore(piece, sore) for piece in pieces]
    cold = () if options.cold == "on" else tuple(range(len(pieces)))
    return Sitting(tuple(pieces), day, options.minutes, cold=cold, soreness=sore), names


def _sore(piece: Piece, soreness: int) -> Piece:
    return replace(piece, work=replace(piece.work, wishes=replace(piece.work.wishes, soreness=soreness)))


def _run(sitting: Sitting, names: list[dict[str, Any]], writer: LogWriter, began: datetime) -> None:
    said, answers = sitting.said, _lines()
    count = clean = 0
    while (asked := sitting.next()) is not None:
        _tell({**_line(sitting, asked), **names[asked.piece], **({"said": said} if said else {})})
        said = ""
        answer = _answer(answers, asked)
        if answer is None:
            break
        seconds = float(answer.get("seconds", asked.round_s))
        spent = sitting.spent_s + seconds + asked.rung.rest_s
        one = _pass(sitting, asked, answer, began + timedelta(seconds=spent), seconds)
        writer.keep([one])
        writer.settled(_KEPT_S)
        was = sitting
        sitting = sitting.after(asked, one, spent - sitting.spent_s)
        if sitting.soreness > was.soreness:
            sitting = replace(sitting, pieces=tuple(_sore(piece, sitting.soreness) for piece in sitting.pieces))
            said = sitting.said or "Hands are sore: no faster than this today; leave it if it gets worse."
        count, clean = count + 1, clean + one.clean
    many = len(sitting.pieces) > 1
    best = [
        {"drill": name, "tempo": now, "before": before, **(names[sitting.pieces.index(piece)] if many else {})}
        for piece, name, now, before in sitting.best()
    ]
    end = {"ask": "end", "minutes": round(sitting.spent_s / 60, 1), "passes": count, "clean": clean, "best": best,
           "tomorrow": sitting.tomorrow()}  # fmt: skip
    _tell({**end, **({"said": said} if said else {})})


def _line(sitting: Sitting, asked: Asked) -> dict[str, Any]:
    piece, drill = sitting.pieces[asked.piece], asked.drill
    return {
        "ask": "pass", "drill": drill.name, "kind": drill.kind, "hand": drill.hand, "bars": list(drill.bars),
        "notes": list(piece.work.notes_of(drill)), "figure": write(drill.phrase), "tempo": asked.rung.tempo,
        "target": piece.work.target, "ceiling": _rounded(asked.ceiling, 1), "load": _rounded(asked.load, 3),
        "round_s": round(asked.round_s, 2), "rest_s": asked.rung.rest_s, "burst": asked.rung.burst,
        "cold": asked.what == COLD, "minute": round(sitting.spent_s / 60, 2), "of": sitting.minutes,
        "reason": f"{drill.reason}; {asked.rung.reason}",
    }  # fmt: skip


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _tell(line: dict[str, Any]) -> None:
    print(json.dumps(line, ensure_ascii=False), flush=True)


def _lines() -> Iterator[str]:
    yield from iter(sys.stdin.readline, "")


def _answer(lines: Iterator[str], asked: Asked) -> dict[str, Any] | None:
    """What is answered to a pass; None for the end. A line that cannot be meant is told, and the next is read."""
    for line in lines:
        if not line.strip():
            continue
        try:
            answer = json.loads(line)
            if not isinstance(answer, dict):
                raise DromicError('an answer is an object such as {"clean": true}')
            if answer.get("end") is True:
                return None
            _check(answer)
            return answer
        except json.JSONDecodeError:
            words = 'an answer is a line of JSON such as {"clean": true}'
        except DromicError as error:
            words = str(error)
        print(
            f"dromic: {words}; {asked.drill.name} at {asked.rung.tempo:g} is asked again", file=sys.stderr, flush=True
        )
    return None


def _check(answer: dict[str, Any]) -> None:
    """DromicError for what no answer can hold."""
    for name in answer:
        if name not in _ANSWERS:
            raise DromicError(f"an answer has no {name!r:.40}; it has {', '.join(sorted(_ANSWERS))}")
    if not isinstance(answer.get("clean"), bool):
        raise DromicError(f"clean must be true or false, not {answer.get('clean')!r:.40}")
    if answer.get("hand") is not None:
        check_choice("hand", answer["hand"], HANDS)
    if answer.get("fault") is not None:
        check_choice("fault", answer["fault"], FAULTS)
    if "seconds" in answer:
        if isinstance(answer["seconds"], bool) or not isinstance(answer["seconds"], int | float):
            raise DromicError(f"seconds must be a number, not {answer['seconds']!r:.40}")
        check_range("seconds", answer["seconds"], 0, _MOST_SECONDS, "seconds")
    if "soreness" in answer:
        check_whole("soreness", answer["soreness"], 0, 3)


def _pass(sitting: Sitting, asked: Asked, answer: dict[str, Any], at: datetime, seconds: float) -> Pass:
    piece, request = sitting.pieces[asked.piece], sitting.pieces[asked.piece].work.plan.request
    clean = answer["clean"]
    return Pass(
        at.replace(microsecond=0), piece.of.title, asked.drill.name, asked.rung.tempo, clean, piece.work.notes_of(asked.drill),
        None if clean else answer.get("hand"), None if clean else answer.get("fault"), True, round(seconds, 1),
        max(sitting.soreness, answer.get("soreness", 0)), asked.rung.burst, request.player.name, request.school.name,
        phrase_id=piece.of.id,
    )  # fmt: skip


def _first_moment(sitting: Sitting, day: date, given: bool) -> datetime:
    """When it begins: now, or in the evening of a day that is given; after what the log has of that day."""
    begins = datetime.combine(day, time(_HOUR)) if given else datetime.now()
    last = max((p.at for piece in sitting.pieces for p in piece.work.history.recent if p.day == day), default=begins)
    return max(begins, last + timedelta(seconds=1))
