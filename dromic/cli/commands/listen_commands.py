"""`dromic check` compares a take with the plan; `dromic perform` has the simulated player play one."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.plan_options import add_options, one_plan
from dromic.core.listening.due import due_notes
from dromic.core.listening.performance import Played, perform
from dromic.core.listening.report import TakeReport
from dromic.core.listening.verdicts import CLEAN, CONNECT, IDEALS, SIGNALS, Manner
from dromic.core.plan.plan import Plan
from dromic.core.practice.ladder import first_tempo
from dromic.core.values.errors import DromicError
from dromic.store.saving import save


def add_to(commands: Any) -> None:
    check = commands.add_parser(
        "check",
        help="a take against the plan",
        description="Which notes of a take were late, weak, missing or doubled.",
    )
    add_options(check)
    check.add_argument("take", type=Path, metavar="TAKE", help=".wav .flac .ogg .mid")
    check.add_argument("--ideal", choices=IDEALS, default=CONNECT, help="what notes are to do at their ends")
    check.add_argument("--signal", choices=SIGNALS, default=CLEAN, help="a driven signal says little of loudness")
    check.set_defaults(run=_check)
    make = commands.add_parser(
        "perform", help="a simulated player's take", description="A take of the plan by the simulated player, as WAV."
    )
    add_options(make)
    make.add_argument("out", type=Path, metavar="OUT.wav")
    make.add_argument("--seed", type=int, default=1, metavar="N", help="which take")
    make.add_argument(
        "--level", type=float, default=0.0, metavar="L", help="from 0, as planned, to 1, well over the ceiling"
    )
    make.add_argument("--faster", type=float, default=1.0, metavar="X", help="so many times the plan's tempo")
    make.add_argument("--truth", type=Path, metavar="OUT.json", help="what was really played")
    make.set_defaults(run=_perform)


def _check(options: argparse.Namespace) -> str:
    from dromic.sound.hearing.listening import check
    from dromic.sound.hearing.take_file import check_size

    plan = one_plan(options, "a take is set against")
    check_size(options.take)
    report = check(plan, options.take, options.take.name, Manner(options.ideal, options.signal))
    return (_json if options.json else _table)(plan, report, options.file.name, options.take.name)


def _json(plan: Plan, report: TakeReport, source: str, take: str) -> str:
    notes = [
        {
            "index": n.index, "due_s": round(n.due_s, 4), "heard_s": _rounded(n.heard_s, 4), "error_ms": _rounded(n.error_ms, 1),
            "gap_error_ms": _rounded(n.gap_error_ms, 1), "gap_share": _rounded(n.gap_share, 3),
            "loudness_db": _rounded(n.db, 1), "cents": _rounded(n.cents, 1),
            "verdict": n.verdict, "sure": n.sure, "load": round(n.load, 3), "apart_ms": _rounded(n.apart_ms, 1),
        }
        for n in report.notes
    ]  # fmt: skip
    ladder, target = presets.practice().ladder, plan.request.phrase.tempo
    worst = [
        {
            "notes": list(w.notes), "what": w.what, "ms": w.ms, "likely": w.likely, "hand": w.hand,
            "drill": {"kind": "move", "tempo": round(first_tempo(target, plan.ceiling, ladder), 1)},
        }
        for w in report.worst
    ]  # fmt: skip
    found = {
        "dromic": 1, "source": source, "take": take, "tempo": round(report.tempo, 2), "started_s": round(report.started_s, 4),
        "confidence": report.confidence, "notes": notes, "extra": [{"s": round(s, 3), "near": near} for s, near in report.extra],
        "evenness": {"timing_ms": round(report.timing_ms, 1), "loudness_db": round(report.loudness_db, 1)},
        "long_short": _rounded(report.long_short, 3), "worst": worst, "said": list(report.said),
        "by_kind": [
            {"group": e.group, "kind": e.kind, "notes": e.count, "late_ms": round(e.late_ms, 1), "timing_ms": round(e.timing_ms, 1),
             "db": round(e.db, 1), "loudness_db": round(e.loudness_db, 1)} for e in report.even
        ],
        "strings": [{"note": o.index, "string": o.string, "db": round(o.db, 1)} for o in report.strings],
        "ratios": [
            {"kind": r.kind, "meant": round(r.meant, 3), "played": round(r.played, 3), "beats": r.count} for r in report.ratios
        ],
        "steady": None if report.steady is None else {
            "slowest": round(report.steady.slowest, 1), "fastest": round(report.steady.fastest, 1),
            "drift": round(report.steady.drift, 3),
        },
    }  # fmt: skip
    return json.dumps(found, indent=1) + "\n"


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _table(plan: Plan, report: TakeReport, source: str, take: str) -> str:
    lines = [
        f"{take} against {source}: played at {report.tempo:.1f}, {len(report.notes) - len(report.faults)} of {len(report.notes)} "
        f"notes as they are meant (estimates; sure to {report.confidence:.0%})",
        f"timing {report.timing_ms:.1f} ms, loudness {report.loudness_db:.1f} dB uneven"
        + "".join(f", {r.kind} {r.played:.2f} to 1 ({r.meant:.2f} meant)" for r in report.ratios),
        *report.said,
    ]
    if report.steady is not None:
        lines.append(f"tempo from {report.steady.slowest:.0f} to {report.steady.fastest:.0f}")
    if report.even:
        lines += ["", f"{'apart':<17} {'kind':<20} {'notes':>5} {'late ms':>8} {'uneven':>7} {'dB':>6}"]
        lines += [
            f"{e.group:<17} {e.kind:<20} {e.count:>5} {e.late_ms:>+8.1f} {e.timing_ms:>7.1f} {e.db:>+6.1f}"
            for e in report.even
        ]
    if report.faults:
        lines += ["", f"{'note':>5} {'bar':>4}  {'verdict':<9} {'ms':>7} {'dB':>6} {'load':>5}"]
    bars = {n.index: n.bar_number for n in plan.notes}
    for n in report.faults:
        error = "" if n.error_ms is None else f"{n.error_ms:+.0f}"
        loud = "" if n.db is None else f"{n.db:+.1f}"
        lines.append(f"{n.index:>5} {bars[n.index]:>4}  {n.verdict:<9} {error:>7} {loud:>6} {n.load:5.2f}")
    return "\n".join(lines) + "\n"


def _perform(options: argparse.Namespace) -> str:
    from dromic.sound.take_render import LEAD_S, take_sound
    from dromic.sound.wav import samples_bytes

    if not 0 <= options.level <= 1:
        raise DromicError(f"--level is {options.level:g}; it must lie between 0 and 1")
    if not 0.3 <= options.faster <= 3:
        raise DromicError(f"--faster is {options.faster:g}; it must lie between 0.3 and 3")
    plan = one_plan(options, "a take is set against")
    due = due_notes(plan)
    if not due:
        raise DromicError("there are no notes to play; write some first")
    played = perform(due, presets.listening(), options.level, options.seed, options.faster)
    samples, rate = take_sound(played, plan.request.phrase, options.seed)
    save(options.out, samples_bytes(samples, rate))
    truth = {"dromic": 1, "seed": options.seed, "level": options.level, "tempo": plan.request.phrase.tempo * options.faster,
             "notes": [_truth(one, LEAD_S) for one in played]}  # fmt: skip
    if options.truth is not None:
        save(options.truth, (json.dumps(truth, indent=1) + "\n").encode())
    return json.dumps(truth, indent=1) + "\n" if options.json else ""


def _truth(one: Played, lead: float) -> dict[str, Any]:
    start, end = (None if s is None else round(s + lead, 5) for s in (one.start_s, one.end_s))
    again = None if one.again_s is None else round(one.again_s + lead, 5)
    return {
        "index": one.due.note.index, "onset_s": start, "end_s": end, "again_s": again,
        "loudness_db": round(one.db, 2), "cents": round(one.cents, 1), "verdict": one.verdict,
        "apart_ms": round(1000 * one.apart_s, 1), "brushed": None if one.brushed is None else one.brushed[0],
    }  # fmt: skip
