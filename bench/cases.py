"""`./run bench --cases`: how many of the signed cases and of the published chords come out, and the rates players know."""

from __future__ import annotations

from bench.lines import row
from dromic.core.search.planner import judge, solve
from dromic.core.values.errors import DromicError
from tests.cases import cases
from tests.chords import Chord, chords
from tests.rates import RATES


def bench_cases() -> None:
    """Prints a row a count; the odd lines of the cases and every second chord chose the numbers, the others did not."""
    every = cases()
    wrong = {c.name for c in every if not c.right(judge(solve(c.request())))}
    for words, some, aim in (
        ("odd lines (chose the numbers)", every[::2], 75),
        ("even lines (only counted)", every[1::2], 68),
    ):
        missed = [c.name for c in some if c.name in wrong]
        row(f"cases, {words}", f"{len(some) - len(missed)} of {len(some)}", f"aim: {aim}")
        if missed:
            row("  not signed", ", ".join(missed))
    for kind in ("fingers", "strokes", "positions"):
        some = [c for c in every if c.kind == kind]
        row(f"  of these {kind}", f"{sum(c.name not in wrong for c in some)} of {len(some)}")
    published = chords()
    right = [_as_published(chord) for chord in published]
    row("published chords, all", f"{sum(right)} of {len(right)}, {sum(right) / len(right):.1%}", "aim: 85 %")
    row("  the half that chose the numbers", f"{sum(right[::2]) / len(right[::2]):.1%}")
    row("  the other half", f"{sum(right[1::2]) / len(right[1::2]):.1%}")
    for rate in RATES:
        row(f"rate: {rate.name}", f"{rate.ceiling():.0f} quarters/min", f"from memory: {rate.low:g} to {rate.high:g}")


def _as_published(chord: Chord) -> bool:
    try:
        return chord.right(judge(solve(chord.request())))
    except DromicError:
        return False
