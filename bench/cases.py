"""`./run bench --cases`: how many of the signed cases and of the published chords come out, and the rates players know.

In-fold counts are of the numbers that ship, which are fitted to all cases and chords; out-of-fold ones count each case under numbers
that were fitted without its fold (`bench.fit`).
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial

from bench.fit import fold_of, fold_players
from bench.lines import row
from dromic import presets
from dromic.core.search.planner import judge, solve
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from tests.cases import Case, cases
from tests.chords import Chord, chords
from tests.rates import RATES

AIMS = {"fingers": 0.90, "strokes": 0.92, "positions": 0.90, "all together": 0.92}
CHORDS = 0.90
"""Shares that are to come out under numbers fitted without them."""


def bench_cases() -> None:
    """Prints a row a count."""
    every, published = cases(), chords()
    shipped, folds = presets.players()["fluent"], fold_players()
    with ProcessPoolExecutor(2) as pool:
        inside = dict(
            zip((c.name for c in every), pool.map(partial(_signed, players=[shipped]), every, chunksize=8), strict=True)
        )
        outside = dict(
            zip((c.name for c in every), pool.map(partial(_signed, players=folds), every, chunksize=8), strict=True)
        )
        chords_in = list(pool.map(partial(_as_published, players=[shipped]), published, chunksize=50))
        chords_out = list(pool.map(partial(_as_published, players=folds), published, chunksize=50))
    for kind, aim in AIMS.items():
        some = [c.name for c in every if kind in (c.kind, "all together")]
        told = (
            f"{_share([outside[name] for name in some])} out of fold, {_share([inside[name] for name in some])} in it"
        )
        row(f"cases, {kind}", told, f"aim: {aim:.0%} out of fold")
    row("  not signed out of fold", ", ".join(c.name for c in every if not outside[c.name]))
    row("  not signed in fold", ", ".join(c.name for c in every if not inside[c.name]))
    row(
        "published chords",
        f"{_share(chords_out)} out of fold, {_share(chords_in)} in it",
        f"aim: {CHORDS:.0%} out of fold",
    )
    for rate in RATES:
        row(f"rate: {rate.name}", f"{rate.ceiling():.0f} quarters/min", f"from memory: {rate.low:g} to {rate.high:g}")


def _share(right: Sequence[bool]) -> str:
    return f"{sum(right)} of {len(right)}, {sum(right) / len(right):.1%}"


def _of_fold(players: Sequence[Player], name: str) -> Player:
    """The one player, or of one a fold that of a name's."""
    return players[fold_of(name) if len(players) > 1 else 0]


def _signed(case: Case, players: Sequence[Player]) -> bool:
    return case.right(judge(solve(case.request(_of_fold(players, case.name)))))


def _as_published(chord: Chord, players: Sequence[Player]) -> bool:
    try:
        return chord.right(judge(solve(chord.request(_of_fold(players, chord.name)))))
    except DromicError:
        return False
