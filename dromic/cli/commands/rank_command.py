"""`dromic rank FOLDER`: which tunes of a collection these hands can play, and which are one ability away."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.plan_options import player_named
from dromic.collection import Wanted, placed, rank, rank_phrases, tunes_of
from dromic.core.editing.variants import VARIANTS, variants_of
from dromic.core.reports.comparison import NUMBERED
from dromic.core.reports.ranking import RANKS, Ranked, ranking, summary_words
from dromic.core.setup.choices import Choices
from dromic.core.setup.school import LEGATO
from dromic.core.values.checks import check_range
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from dromic.store.folders import ranking_file

_TITLE = 34


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "rank", help="a collection for these hands", description="Plan every tune of a folder or a book, and rank them."
    )
    add = command.add_argument
    add("file", type=Path, metavar="FOLDER", help="a folder, whatever lies under it, or one book of tunes")
    add(
        "--by",
        choices=list(RANKS),
        default="ceiling",
        metavar="MEASURE",
        help=f"the easiest first, by one of {' '.join(RANKS)}",
    )
    add(
        "--tempo",
        type=float,
        metavar="BPM",
        help="the tempo asked for, in quarter notes a minute; else each tune's own",
    )
    add("--school", default="free", metavar="NAME", help=" ".join(presets.schools()))
    add("--player", metavar="NAME", default="fluent", help=f"{' '.join(presets.players())}, or a player file")
    add("--lean", choices=list(presets.leans()), help="which stroke ends clear")
    add("--legato", choices=LEGATO, default="never", help="which picked notes may go unpicked")
    add(
        "--of",
        choices=list(VARIANTS),
        metavar="KIND",
        help=f"rank, of one phrase, {' '.join(VARIANTS)}: its parts, or its shape elsewhere, side by side",
    )
    add("--tune", type=int, default=1, metavar="N", help="the Nth tune of the file, for --of")
    add("--top", type=int, metavar="N", help="so many of them only")
    add("--anew", action="store_true", help="forget what was ranked before; else it goes on where it stopped")
    add("--workers", type=int, metavar="N", help="processes that plan; else as many as there are cores, four at most")
    add("--json", action="store_true", help="JSON on standard output")
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    if options.school not in presets.schools():
        raise DromicError(f"there is no school {options.school!r}; choose one of {', '.join(presets.schools())}")
    if options.tempo is not None:
        check_range("--tempo", options.tempo, 10, 1000, "quarter notes a minute")
    for name in ("top", "workers"):
        if getattr(options, name) is not None and getattr(options, name) < 1:
            raise DromicError(f"--{name} is {getattr(options, name)}; it must be 1 or more")
    if not options.file.exists():
        raise DromicError("does not exist; check the name", path=options.file.name)
    player = player_named(options.player)
    if options.lean:
        player = player.with_leans(presets.leans()[options.lean])
    wanted = Wanted(Choices(school=options.school, legato=options.legato), player, options.tempo)
    if options.of:
        phrase, instrument = placed(read(options.file, options.tune), wanted)
        answers = rank_phrases(variants_of(phrase, options.of, instrument), wanted, _told, options.workers)
        found = ranking([replace(one, file=str(options.file)) for one in answers], options.by)
        return (
            _json(options, found[: options.top], found)
            if options.json
            else _table(options, found[: options.top], found)
        )
    kept = ranking_file()
    if options.anew and kept.exists():
        kept.unlink()
    found = ranking(rank(tunes_of(options.file), wanted, kept, _told, options.workers), options.by)
    shown = found[: options.top]
    return _json(options, shown, found) if options.json else _table(options, shown, found)


def _told(share: float) -> bool:
    """How far it is, where somebody looks on."""
    if sys.stderr.isatty():
        sys.stderr.write(f"\r{share:.0%} " + ("\n" if share >= 1 else ""))
        sys.stderr.flush()
    return True


def _name(options: argparse.Namespace, one: Ranked) -> str:
    """A tune's file, from the folder on."""
    path = Path(one.file)
    return str(path.relative_to(options.file)) if options.file.is_dir() else path.name


def _json(options: argparse.Namespace, shown: list[Ranked], found: list[Ranked]) -> str:
    tunes = [
        {
            "file": _name(options, one), "tune": one.tune, "title": one.title, "tempo": one.tempo, "notes": one.notes,
            "ceiling": _rounded(one.ceiling), "ceiling_range": one.ceiling_range and [_rounded(x) for x in one.ceiling_range],
            "ceiling_sustained": _rounded(one.sustained),
            "plays": one.plays(options.tempo), "work": round(one.work, 3),
            "limit": {"hand": one.hand, "kind": one.kind, "bar": one.bar, "load": round(one.load, 3)}, "needs": list(one.needs),
            "measures": {name: _rounded(value) for name, value in one.measures.items()},
            "one_away": one.away and {
                "ability": one.away.ability, "factor": round(one.away.factor, 3), "wanted": round(one.away.wanted, 2),
                "now": round(one.away.now, 2), "unit": one.away.unit,
            },
        }
        for one in shown if not one.refused
    ]  # fmt: skip
    refused = [
        {"file": _name(options, one), "tune": one.tune, "title": one.title, "why": one.refused}
        for one in shown
        if one.refused
    ]
    made = {
        "dromic": 1, "source": options.file.name, "target": options.tempo, "by": options.by, "count": len(found),
        "said": [summary_words(found, options.tempo)], "tunes": tunes, "refused": refused,
    }  # fmt: skip
    return json.dumps(made, indent=1) + "\n"


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 1)


def _table(options: argparse.Namespace, shown: list[Ranked], found: list[Ranked]) -> str:
    lines = [f"{summary_words(found, options.tempo)} (estimates)", ""]
    measured = options.by in NUMBERED and options.by != "ceiling"
    head = f"  {options.by}" if measured else ""
    lines.append(f"{'ceiling':>8}  {'own':>4}  {'work':>5}  {'tune':<{_TITLE}}{head}  what limits it; what it asks")
    for one in shown:
        title = one.title if len(one.title) <= _TITLE else one.title[: _TITLE - 1] + "…"
        if one.refused:
            lines.append(f"{'none':>8}  {'':>4}  {'':>5}  {title:<{_TITLE}}  {one.refused}")
            continue
        mark = " " if one.plays(options.tempo) else "~" if one.away else "-"
        ceiling = "any" if one.ceiling is None else f"{one.ceiling:.0f}"
        away = f"; one ability away: {one.away.factor - 1:.0%} better at “{one.away.ability}”" if one.away else ""
        value = one.measures.get(options.by)
        said = f"  {'-' if value is None else f'{value:.1f}':>{len(options.by)}}" if measured else ""
        asks = f" ({', '.join(one.needs)})" if one.needs else ""
        lines.append(
            f"{mark}{ceiling:>7}  {one.tempo:>4.0f}  {one.work:>5.2f}  {title:<{_TITLE}}{said}  {one.limit_words}{asks}{away}"
        )
    left = len(found) - len(shown)
    return "\n".join([*lines, *([f"{left} more; --top shows others"] if left else [])]) + "\n"
