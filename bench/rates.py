"""`./run bench --rates`: ceilings beside what a teacher believes, and the findings of known phrases at 125 % of their tempo.

The phrases (tests/data/believed_ceilings.jsonl) were written down before a price of the ceilings was changed.
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from itertools import pairwise

from bench.lines import row
from dromic import presets
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import solve
from dromic.core.values.errors import DromicError
from tests.believed import PLAYERS, Believed, believed, on_the_better_hand
from tests.cases import cases
from tests.demos import demo_requests

FASTER = 1.25
"""Times their tempo at which the findings of phrases are looked at."""
_SAME = 1e-6


def bench_rates() -> None:
    """Print all of it."""
    phrases = believed()
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_ceilings, phrases))
        better = list(pool.map(_better, phrases))
        told = list(pool.map(_told, [_faster(r) for r in (*demo_requests(), *(case.request() for case in cases()))]))
    near = 0
    for phrase, ceilings in zip(phrases, found, strict=True):
        right = [phrase.right(name, ceiling) for name, ceiling in zip(PLAYERS, ceilings, strict=True)]
        near += sum(right)
        figures = " / ".join(f"{c:.0f}" for c in ceilings)
        wants = " / ".join(f"{phrase.ceilings[name]:g}" for name in PLAYERS)
        row(f"ceiling: {phrase.name}", f"{figures} quarters/min", f"believed: {wants}, within {phrase.within:.0%}")
    row("ceilings as believed", f"{near} of {len(PLAYERS) * len(phrases)}")
    row("lesser plans that a better hand plays no slower", f"{sum(a for a, _ in better)} of {len(better)}", "aim: all")
    row(
        "better plans at a lesser hand's ceiling, largest load", f"{max(b for _, b in better):.3f}", "aim: at most 1.02"
    )
    places, helped, failed = (sum(one[n] for one in told) for n in range(3))
    row("places told at 125 % of the tempo, with a remedy", f"{helped} of {places}", "aim: half")
    row("remedies that leave their place too fast", f"{failed}", "aim: none")


def _ceilings(phrase: Believed) -> list[float]:
    return [phrase.ceiling(name) for name in PLAYERS]


def _better(phrase: Believed) -> tuple[bool, float]:
    """Whether no better hand is slower with a lesser's plan, and the largest load of a better one's own at a lesser's ceiling."""
    pairs = [on_the_better_hand(phrase, lesser, better) for lesser, better in pairwise(PLAYERS)]
    return all(now >= was * (1 - _SAME) for was, now, _ in pairs), max(load for _, _, load in pairs)


def _faster(request: Request) -> Request:
    return replace(request, phrase=request.phrase.at_tempo(min(FASTER * request.phrase.tempo, 999.0)))


def _told(request: Request) -> tuple[int, int, int]:
    """Places told of, those with a remedy, and remedies that leave a place which did not fit as it was."""
    try:
        plan: Plan = with_remedies(solve(request), presets.other_leans(), schools=presets.carrying_schools())
    except DromicError:
        return 0, 0, 0
    told = [f for f in plan.findings if f.tried]
    mended = [f for f in told if f.remedy is not None]
    tempo = request.phrase.tempo
    failed = [
        f
        for f in mended
        if f.load > 1 and f.remedy and f.remedy.place_ceiling and f.remedy.place_ceiling < tempo - 0.01
    ]
    return len(told), len(mended), len(failed)
