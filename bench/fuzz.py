"""Many broken files of every kind (`./run bench --slow`, `--fuzz`): what each comes to, the slowest, and the memory taken; of phrases,
and of what a player keeps beside them."""

from __future__ import annotations

import multiprocessing
import os
import resource
import signal
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

from bench.journal import Journal, asked_journal
from bench.lines import row
from dromic.core.values.errors import DromicError
from dromic.formats.table import FORMATS
from tests.broken import many
from tests.broken_kept import many_kept, read_kept

COUNT, PART, AT_ONCE, MOST_S = 20_000, 500, 2, 10
"""files of a run, those of a part of it (a process each), and seconds of CPU that none may take"""


def _of_phrases(part: int, folder: Path) -> Iterator[tuple[str, Callable[[], object]]]:
    for ending, data in many(PART, part + 1):
        kind = next(f for f in FORMATS if ending in f.extensions)
        assert kind.read is not None
        yield ending, lambda kind=kind, data=data: kind.read(data, 1, 1)  # type: ignore[misc]


def _of_kept(part: int, folder: Path) -> Iterator[tuple[str, Callable[[], object]]]:
    for n, (name, data) in enumerate(many_kept(PART, part + 1)):
        path = folder / f"{n} {name}"
        path.write_bytes(data)
        yield name, lambda path=path: read_kept(path)  # type: ignore[misc]


_KINDS = {"of phrases": _of_phrases, "that a player keeps": _of_kept}


def _part(asked: tuple[str, int]) -> tuple[dict[str, int], float, int, list[str]]:
    """(outcomes, slowest in seconds of CPU, memory in MB, faults) of one part of the files."""

    def late(_signal: int, _frame: object) -> None:
        raise TimeoutError

    kind, part = asked
    signal.signal(signal.SIGPROF, late)
    outcomes: Counter[str] = Counter()
    slowest, faults = 0.0, []
    with TemporaryDirectory() as folder:
        for name, read in _KINDS[kind](part, Path(folder)):
            began = time.process_time()
            signal.setitimer(signal.ITIMER_PROF, MOST_S)
            try:
                read()
                outcomes["sound"] += 1
            except DromicError as error:
                sound = "\n" not in str(error) and len(str(error)) < 400
                outcomes["one sentence" if sound else "a bad sentence"] += 1
            except BaseException:  # noqa: BLE001
                outcomes["a traceback"] += 1
                faults.append(f"{name}, part {part}: {traceback.format_exc().strip().splitlines()[-1]}")
            finally:
                signal.setitimer(signal.ITIMER_PROF, 0)
            slowest = max(slowest, time.process_time() - began)
    return dict(outcomes), slowest, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024, faults


def _apart(kind: str, part: int) -> tuple[dict[str, int], float, int, list[str]]:
    """The same in a process of its own, whose memory is its own."""
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        return pool.apply(_part, ((kind, part),))


def bench_fuzz() -> None:
    journal, parts = asked_journal(), range(COUNT // PART)
    for kind in _KINDS:
        with ThreadPoolExecutor(min(AT_ONCE, os.cpu_count() or 1)) as pool:
            found = list(pool.map(lambda part, kind=kind: _known(journal, kind, part), parts))  # type: ignore[misc]
        outcomes = sum((Counter(f[0]) for f in found), Counter())
        told = ", ".join(f"{n} {what}" for what, n in sorted(outcomes.items()))
        row(f"{sum(outcomes.values())} broken files {kind}", told, "aim: sound or a sentence")
        row(
            "  the slowest; memory", f"{max(f[1] for f in found):.1f} s of CPU; {max(f[2] for f in found)} MB",
            "aim: under 10 s; under 700 MB",
        )  # fmt: skip
        for fault in [f for one in found for f in one[3]][:10]:
            row("  ", fault)


def _known(journal: Journal, kind: str, part: int) -> tuple[dict[str, int], float, int, list[str]]:
    found = journal.of(f"fuzz {kind} {part}", lambda: _apart(kind, part))
    return found[0], found[1], found[2], found[3]
