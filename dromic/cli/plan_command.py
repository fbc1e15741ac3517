"""`dromic plan FILE`: read, plan, print."""

from __future__ import annotations

import argparse
import json
import time
from pathlib import Path
from typing import Any

from dromic import presets
from dromic.cli.as_json import plan_json, report_json
from dromic.cli.as_table import table
from dromic.core.errors import DromicError
from dromic.core.metre import UNITS
from dromic.core.plan import Plan, Request
from dromic.core.planner import plan
from dromic.core.player import Player
from dromic.core.settle import settled
from dromic.formats.table import read

KEEPS = ("positions", "fingers", "strokes", "attacks")
LATER_SCHOOLS = ("downstart", "sweep", "pattern", "hybrid", "legato", "fingers")


def add_to(commands: Any) -> None:
    command = commands.add_parser(
        "plan", help="plan both hands of a phrase", description="Plan both hands of a phrase."
    )
    add = command.add_argument
    add("file", type=Path, help=".dromic .musicxml .xml .mxl .abc")
    add("--school", metavar="NAME", help=f"{' '.join(presets.schools())}, or all")
    add("--pulse", choices=UNITS, help="unit of the pulse, for pulse and downs")
    add("--skip-through", choices=("on", "off"), default="on", help="economy carries through over a skipped string")
    add("--tune", type=int, default=1, metavar="N", help="the Nth tune of a book or songbook")
    add("--unroll", action="store_true", help="write repeats out")
    add("--start", choices=("down", "up", "either"), help="stroke of the first picked note")
    add("--pattern", metavar="STROKES", help="for the school pattern")
    add("--instrument", metavar="NAME", help=f"{' '.join(presets.instruments())}, or a tuning low to high")
    add("--player", metavar="NAME", default="fluent", help=f"{' '.join(presets.players())}, or a player file")
    add("--lean", choices=tuple(presets.leans()), help="which stroke ends clear")
    add("--tempo", type=float, metavar="BPM", help="quarter notes a minute")
    add("--keep", default="positions,attacks", metavar="LIST", help=f"any of {','.join(KEEPS)}, or none")
    add("--legato", choices=("never", "turnarounds", "anywhere"), default="never")
    add("--bars", metavar="A-B", help="a passage")
    add("--part", type=int, default=1, metavar="N", help="a part")
    add("--repeat", action="store_true", help="the passage loops")
    add("--alternatives", type=int, default=1, metavar="K", help="so many plans that really differ")
    add("--json", action="store_true", help="JSON on standard output")
    command.set_defaults(run=run)


def run(options: argparse.Namespace) -> str:
    _refuse_unbuilt(options)
    try:
        requests = requests_of(options)
        plans: list[tuple[Plan, float]] = []
        for request in requests:
            began = time.perf_counter()
            plans.append((plan(request), time.perf_counter() - began))
    except DromicError as error:
        raise error if error.path else error.at(options.file.name) from error
    if options.json:
        return (
            json.dumps(report_json(options.file.name, [plan_json(p, s) for p, s in plans], plans[0][0]), indent=1)
            + "\n"
        )
    return "\n".join(table(p) for p, _ in plans)


def requests_of(options: argparse.Namespace) -> list[Request]:
    """What to plan, one request a school."""
    phrase = read(options.file, options.tune, options.part)
    instrument = presets.instrument_named(options.instrument) if options.instrument else phrase.instrument
    phrase = settled(phrase, instrument or presets.instruments()["guitar"])
    if options.unroll:
        phrase = phrase.unrolled()
    if options.bars:
        phrase = phrase.passage(*_bars(options.bars))
    if options.tempo is not None:
        phrase = phrase.at_tempo(options.tempo)
    assert phrase.instrument is not None
    names = _schools(options.school or phrase.school or "free")
    return [
        Request(
            phrase=phrase,
            instrument=phrase.instrument,
            player=player_named(options.player, options.lean),
            school=presets.schools()[name],
            pulse=options.pulse,
            start=options.start,
            skip_through=options.skip_through == "on",
            keep=_keep(options.keep),
        )
        for name in names
    ]


def player_named(name: str, lean: str | None) -> Player:
    """A starting player or one from a file, with another lean if asked for."""
    if name in presets.players():
        player = presets.players()[name]
    elif Path(name).suffix or Path(name).exists():
        player = presets.player_from_file(Path(name))
    else:
        raise DromicError(
            f"there is no player {name!r}; choose one of {', '.join(presets.players())}, or a player file"
        )
    return player.with_leans(presets.leans()[lean]) if lean else player


def _schools(name: str) -> list[str]:
    if name == "all":
        return list(presets.schools())
    if name in LATER_SCHOOLS:
        raise DromicError(f"the school {name} cannot be planned yet; choose one of {', '.join(presets.schools())}")
    if name not in presets.schools():
        raise DromicError(f"there is no school {name!r}; choose one of {', '.join(presets.schools())}, or all")
    return [name]


def _keep(text: str) -> frozenset[str]:
    words = frozenset(w.strip() for w in text.split(",") if w.strip())
    if words == {"none"}:
        return frozenset()
    wrong = words - set(KEEPS)
    if wrong:
        raise DromicError(f"--keep cannot hold {sorted(wrong)[0]!r}; choose any of {','.join(KEEPS)}, or none")
    return words


def _bars(text: str) -> tuple[int, int]:
    first, _, last = text.partition("-")
    last = last or first
    if not (first.isdigit() and last.isdigit()) or int(first) > int(last):
        raise DromicError(f"--bars is {text!r}; write it as 3-6")
    return int(first), int(last)


def _refuse_unbuilt(options: argparse.Namespace) -> None:
    """Say of options that cannot be honoured yet that they cannot, rather than ignore them."""
    for given, what in (
        (options.pattern, "--pattern"),
        (options.repeat, "--repeat"),
        (options.legato != "never", f"--legato {options.legato}"),
        (options.alternatives != 1, f"--alternatives {options.alternatives}"),
    ):
        if given:
            raise DromicError(f"{what} cannot be planned yet; leave it out")
