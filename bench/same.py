"""`./run bench --same`: whether plans are what they were.

Every phrase of the demo and twenty old tunes in every school, with positions as written and left free; every signed case
and published chord as it is asked for: strings and frets, strokes, fingers and cost of each plan. `--write FILE` keeps
them, `--against FILE` says which are others than those kept, by school; without either a digest a school is printed.
"""

from __future__ import annotations

import hashlib
import json
import multiprocessing
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import music21

from bench.lines import row
from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.search.meant_pins import solve_meant
from dromic.core.search.planner import judge
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook
from dromic.formats.table import read_entry
from dromic.plan_requests import request_for
from tests.cases import cases
from tests.chords import chords

SONGBOOK = Path(__file__).parents[1] / "dromic" / "data" / "songs" / "copper-wren.dromic"
TUNES, AT_ONCE, CHUNK = 20, 2, 4
_DIGITS = 9
"""of a cost: nearer than this two are one"""
_PATTERN, _MOST_NAMED = "ddu", 5
Planned = dict[str, Any]


def _tunes() -> list[Path]:
    found = sorted((Path(music21.__file__).parent / "corpus" / "ryansMammoth").glob("*.abc"))
    return found[:: len(found) // TUNES][:TUNES]


def _phrases() -> Iterator[tuple[str, Phrase]]:
    for n, entry in enumerate(read_songbook(SONGBOOK.read_bytes()).entries, start=1):
        yield f"demo {n}", entry.phrase
    for path in _tunes():
        yield f"tune {path.stem}", read_entry(path).phrase


def _asked() -> Iterator[tuple[str, Request]]:
    """(key, request) of all that is planned."""
    for name, phrase in _phrases():
        for school in presets.schools():
            for positions in (True, False):
                chosen = Choices(
                    tempo=phrase.tempo,
                    school=school,
                    positions=positions,
                    pattern=_PATTERN if school == "pattern" else "",
                )
                key = f"{school} | {name} | {'as written' if positions else 'free'}"
                yield key, request_for(phrase, chosen, presets.players())
    for case in cases():
        request = case.request()
        yield f"{request.school.name} | case {case.name}", request
    for number, chord in enumerate(chords()):
        yield f"free | chord {number}", chord.request()


def _planned(asked: tuple[str, Request]) -> tuple[str, Planned]:
    key, request = asked
    try:
        plan = judge(solve_meant(request))
    except DromicError as error:
        return key, {"refused": str(error)}
    return key, {
        "places": [[n.string, n.fret] for n in plan.notes], "strokes": [n.stroke for n in plan.notes],
        "fingers": [n.finger for n in plan.notes], "cost": round(plan.cost, _DIGITS),
    }  # fmt: skip


def plans() -> dict[str, Planned]:
    """Of every request, by its key, what is planned."""
    with multiprocessing.get_context("spawn").Pool(AT_ONCE) as pool:
        return dict(pool.imap(_planned, _asked(), CHUNK))


def bench_same() -> None:
    found = plans()
    if "--write" in sys.argv:
        path = Path(sys.argv[sys.argv.index("--write") + 1])
        path.write_text("".join(json.dumps([key, one]) + "\n" for key, one in sorted(found.items())), "utf-8")
        row(f"{len(found)} plans", f"written to {path.name}")
        return
    if "--against" in sys.argv:
        path = Path(sys.argv[sys.argv.index("--against") + 1])
        _compare(found, dict(json.loads(line) for line in path.read_text("utf-8").splitlines()))
        return
    for school in presets.schools():
        some = {key: one for key, one in sorted(found.items()) if key.startswith(f"{school} |")}
        row(f"{len(some)} plans, {school}", hashlib.sha256(json.dumps(some).encode()).hexdigest()[:32])


def _compare(found: dict[str, Planned], before: dict[str, Planned]) -> None:
    """Says what is planned otherwise, by school and by what differs."""
    for school in presets.schools():
        keys = [key for key in found if key.startswith(f"{school} |") and key in before]
        moved = {key: _moved(before[key], found[key]) for key in keys}
        parts = {
            what: sum(what in of for of in moved.values())
            for what in ("places", "strokes", "fingers", "cost", "refused")
        }
        told = ", ".join(f"{count} {what}" for what, count in parts.items() if count)
        others = [key for key, of in moved.items() if of]
        row(f"{len(keys)} plans, {school}", f"{len(others)} others{f': {told}' if told else ''}", "aim: none")
        for key in others[:_MOST_NAMED]:
            row("  ", f"{key}: {', '.join(moved[key])}")
    if lost := set(before) ^ set(found):
        row(f"{len(lost)} plans", "are in one of the two alone")


def _moved(before: Planned, after: Planned) -> list[str]:
    def differs(what: str) -> bool:
        a, b = before.get(what), after.get(what)
        return abs(a - b) > 10**-_DIGITS * max(1.0, abs(a)) if what == "cost" and a and b else a != b

    return [what for what in sorted({*before, *after}) if differs(what)]
