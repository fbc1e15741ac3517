"""`./run bench --tunes`: sixty old tunes that nobody here wrote, places free, asked at tempos that fit and at others that do not.

The list is kept (real_tunes.txt): the tunes marked `choose` may be looked at when numbers are chosen, those marked `count` are only
counted. Beyond its ceiling a plan must be the plan that goes; under it, one that stays where it is from tempo to tempo.
"""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

from bench.lines import row
from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.search.planner import plan
from dromic.core.values.errors import DromicError
from dromic.formats.table import read

LIST = Path(__file__).with_name("real_tunes.txt")
SCHOOLS, TEMPOS = ("free", "pulse", "alternate", "economy"), (60, 90, 120, 160, 220)
NEAR, SAME, MORE_SHIFTS, FALLS, GAINS = 0.9, 0.95, 1.1, 0.01, 0.03
"""The share of a ceiling at which a plan fits; of notes that keep their places; times the shifts; and shares of a ceiling."""
HIGH, LOW = 9, 7
"""No fret over the one where every pitch can be had up to the other."""


@dataclass
class Counted:
    """How often each law was asked of a tune in a school, and the cases in which it did not hold."""

    asked: dict[str, int] = field(default_factory=dict)
    kept: list[float] = field(default_factory=list)
    """shares of notes that keep their places from one tempo under the ceiling to the next"""
    broken: dict[str, list[str]] = field(default_factory=dict)

    def hold(self, law: str, true: bool, said: str) -> None:
        self.asked[law] = self.asked.get(law, 0) + 1
        if not true:
            self.broken.setdefault(law, []).append(said)


def tunes() -> Iterator[tuple[str, str, int]]:
    """(choose or count, file in the corpora, number of the tune)."""
    for line in LIST.read_text().splitlines():
        if line and not line.startswith("#"):
            use, path, number = line.split()
            yield use, path, int(number)


def asked_at(phrase: Phrase, school: str, tempo: float) -> Request:
    """A tune with free places as the fluent player is asked for it."""
    player = presets.players()["fluent"]
    instrument = presets.usual_instrument()
    own = presets.school_at(school, player, tempo)
    return Request(phrase.at_tempo(tempo), instrument, player, own, keep=frozenset({"attacks"}))


def places(of: Plan) -> list[tuple[int, int]]:
    """(string, fret) of every note."""
    return [(n.string, n.fret) for n in of.notes]


def alike(one: Plan, other: Plan) -> float:
    """The share of notes in the same place."""
    pairs = list(zip(places(one), places(other), strict=True))
    return sum(a == b for a, b in pairs) / len(pairs)


def _tried(case: tuple[str, int, str]) -> Counted:
    """The laws of one tune in one school."""
    import music21

    path, number, school = case
    phrase = read(Path(music21.__file__).parent / "corpus" / path, number)
    made: dict[float, Plan] = {}

    def at(tempo: float) -> Plan:
        if tempo not in made:
            made[tempo] = plan(asked_at(phrase, school, tempo))
        return made[tempo]

    found, name = Counted(), f"{Path(path).stem} {number} {school}"
    try:
        plans = [(tempo, at(float(tempo))) for tempo in TEMPOS]
    except DromicError as error:
        found.hold("planned", False, f"{name}: {error}")
        return found
    guitar = presets.usual_instrument()
    low = all(min(f for _, f in guitar.places_of(n.pitch)) <= LOW for n in plans[0][1].notes)
    for tempo, one in plans:
        ceiling, most = one.ceiling or 1000.0, max(n.fret for n in one.notes)
        if low:
            found.hold("no fret over 9", most <= HIGH, f"{name} at {tempo}: fret {most}")
        if tempo <= ceiling:
            continue
        fits = at(round(NEAR * ceiling, 1))
        same, limit = alike(one, fits), MORE_SHIFTS * fits.totals.shifts
        found.hold(
            "places beyond the ceiling", same >= SAME, f"{name} at {tempo}: {same:.0%} as at {NEAR * ceiling:.0f}"
        )
        found.hold("shifts beyond it", one.totals.shifts <= limit,
                   f"{name} at {tempo}: {one.totals.shifts} shifts, {fits.totals.shifts} at {NEAR * ceiling:.0f}")  # fmt: skip
        found.hold("ceiling from nine tenths on", ceiling >= (1 - FALLS) * (fits.ceiling or 0.0),
                   f"{name} at {tempo}: ceiling {ceiling:.0f}, {fits.ceiling or 0:.0f} at {NEAR * ceiling:.0f}")  # fmt: skip
    for (a, one), (b, other) in pairwise(plans):
        if one.ceiling is not None and other.ceiling is not None and b <= other.ceiling:
            same, gains = alike(one, other), other.ceiling / one.ceiling - 1
            if gains < GAINS:
                found.kept.append(same)
            found.hold(
                "places under it",
                same >= SAME or gains >= GAINS,
                f"{name} {a} to {b}: {same:.0%}, ceiling {gains:+.1%}",
            )
        elif one.ceiling is not None and other.ceiling is not None and b > NEAR * one.ceiling:
            found.hold("ceiling as the tempo rises", other.ceiling >= (1 - FALLS) * one.ceiling,
                       f"{name} {a} to {b}: ceiling {one.ceiling:.0f} to {other.ceiling:.0f}")  # fmt: skip
    return found


def bench_real_tunes(told: bool = False) -> None:
    """Print the laws, those that choose and those that are counted apart; with `told` every case that breaks one."""
    for use in ("choose", "count"):
        cases = [(path, number, school) for u, path, number in tunes() if u == use for school in SCHOOLS]
        with ProcessPoolExecutor(2) as pool:
            results = list(pool.map(_tried, cases))
        laws = sorted({law for one in results for law in (*one.asked, *one.broken)})
        for law in laws:
            asked = sum(one.asked.get(law, 0) for one in results)
            broken = [said for one in results for said in one.broken.get(law, ())]
            row(f"{use}: {law}", f"{asked - len(broken)} of {asked}", "aim: all")
            for said in broken if told else ():
                print(f"    {said}")
        kept = statistics.fmean(share for one in results for share in one.kept)
        row(f"{use}: notes that keep their places under it", f"{kept:.1%}", "aim: 95%")
