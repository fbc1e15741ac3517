"""Many broken files of every kind (`./run bench --slow`): what each comes to, the slowest, and the memory taken."""

from __future__ import annotations

import multiprocessing
import resource
import signal
import time
import traceback
from collections import Counter

from bench.lines import row
from dromic.core.values.errors import DromicError
from dromic.formats.table import FORMATS
from tests.broken import many

COUNT, SHARES, MOST_S = 20_000, 2, 10


def _share(seed: int) -> tuple[Counter[str], float, int, list[str]]:
    """(outcomes, slowest in seconds, memory in MB, faults) of one share of the files."""

    def late(_signal: int, _frame: object) -> None:
        raise TimeoutError

    signal.signal(signal.SIGALRM, late)
    outcomes: Counter[str] = Counter()
    slowest, faults = 0.0, []
    for ending, data in many(COUNT // SHARES, seed):
        kind = next(f for f in FORMATS if ending in f.extensions)
        assert kind.read is not None
        began = time.perf_counter()
        signal.alarm(MOST_S)
        try:
            kind.read(data, 1, 1)
            outcomes["a phrase"] += 1
        except DromicError as error:
            sound = "\n" not in str(error) and len(str(error)) < 400
            outcomes["one sentence" if sound else "a bad sentence"] += 1
        except BaseException:  # noqa: BLE001
            outcomes["a traceback"] += 1
            faults.append(f"{ending}: {traceback.format_exc().strip().splitlines()[-1]}")
        finally:
            signal.alarm(0)
        slowest = max(slowest, time.perf_counter() - began)
    return outcomes, slowest, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024, faults


def bench_fuzz() -> None:
    with multiprocessing.get_context("spawn").Pool(SHARES) as pool:
        parts = pool.map(_share, range(1, SHARES + 1))
    outcomes = sum((p[0] for p in parts), Counter())
    told = ", ".join(f"{n} {what}" for what, n in sorted(outcomes.items()))
    row(f"{sum(outcomes.values())} broken files", told, "aim: phrases and sentences only")
    row(
        "  the slowest; memory",
        f"{max(p[1] for p in parts):.1f} s; {max(p[2] for p in parts)} MB",
        "aim: a few seconds; 500 MB",
    )
    for fault in [f for p in parts for f in p[3]][:10]:
        row("  ", fault)
