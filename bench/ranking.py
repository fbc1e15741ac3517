"""`./run bench --rank`: a collection ranked, against two plain processes that read and plan the same tunes; resuming; memory."""

from __future__ import annotations

import resource
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from bench.lines import row
from dromic import presets
from dromic.collection import Tune, Wanted, rank, ranked, tunes_of
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.core.values.errors import DromicError
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for

TUNES, TARGET = 160, 150.0
"""tunes of a collection taken, and the tempo asked for where one is"""
_MB = 1024


def _plain(tunes: Sequence[Tune]) -> int:
    count = 0
    for tune in tunes:
        try:
            phrase = read(tune.path, tune.number)
            planned(request_for(phrase, first_choices(phrase, Choices(school="pulse")), presets.players()))
        except DromicError:
            continue
        count += 1
    return count


def bench_ranking() -> None:
    import music21

    place = Path(music21.__file__).parent / "corpus" / "ryansMammoth"
    began = time.perf_counter()
    every = tunes_of(place)
    row("tunes found in a folder", f"{len(every)} in {time.perf_counter() - began:.1f} s")
    tunes = every[:: max(1, len(every) // TUNES)][:TUNES]
    wanted = Wanted(Choices(school="pulse"), presets.players()["fluent"])
    began = time.perf_counter()
    with ProcessPoolExecutor(2) as pool:
        list(pool.map(_plain, [tunes[::2], tunes[1::2]]))
    plain = time.perf_counter() - began
    with tempfile.TemporaryDirectory() as folder:
        kept = Path(folder) / "ranked.jsonl"
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        began = time.perf_counter()
        found = rank(tunes, wanted, kept, workers=2)
        took = time.perf_counter() - began
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / _MB
        row(
            f"{len(found)} tunes ranked, against two plain processes",
            f"{took / plain:.2f} times ({took:.0f} s)",
            "aim: 1.2",
        )
        row("  memory it adds to the program", f"{grown:.0f} MB", "flat")
        began = time.perf_counter()
        rank(tunes, wanted, kept, workers=2)
        row("  again, from what was kept", f"{(time.perf_counter() - began) / took:.3f} of that")
    asked = Wanted(wanted.choices, wanted.player, TARGET)
    near = [one for one in (ranked(t, asked) for t in tunes[:40]) if one.away is not None]
    row(f"  of 40 at {TARGET:g}, one ability away", f"{len(near)}")
