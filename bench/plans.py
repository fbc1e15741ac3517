"""Whole plans: one school, all schools, growth with length, replanning after a pin, remedies."""

from __future__ import annotations

import contextlib
import itertools
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import music21

from bench.lines import cpu_ratio, forget, lick, line, ratio, request, row
from bench.search import csgraph_of
from dromic import presets
from dromic.collection import Tune, Wanted, ranked, tunes_of
from dromic.core.music.phrase import Phrase
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import Solved, judge, plan, solve
from dromic.core.setup.choices import Choices
from dromic.core.setup.pin import Pin
from dromic.core.values.errors import DromicError
from dromic.formats.document.document import read_songbook
from dromic.formats.table import read
from dromic.plan_requests import first_choices, request_for
from dromic.plan_workers import Workers

DEMO = Path(presets.__file__).parent / "data" / "songs" / "copper-wren.dromic"
REEL = "Quayside Reel"
RANKED = 60


def bench_plans() -> None:
    plan(request(line(8)))

    again = request(line(64))
    csgraph = csgraph_of(solve(again))
    others = [request(line(64, seed)) for seed in range(2, 7)]
    turns = itertools.cycle(others)

    def anew() -> None:
        forget()
        plan(next(turns))

    first = cpu_ratio(anew, csgraph)
    for other in (again, *others) * 2:
        plan(other)
    row("whole plan, 64 notes free, tables at hand / csgraph", f"{cpu_ratio(lambda: plan(again), csgraph):.1f} times",
        "aim: at most 3")  # fmt: skip
    row("  of other lines by turns", f"{cpu_ratio(lambda: plan(next(turns)), csgraph):.1f} times")
    row("  tables built anew", f"{first:.1f} times", "aim: at most 7.5")
    short, long = request(line(1024)), request(line(4096))
    growth = ratio(lambda: plan(long), lambda: plan(short), 3)
    row("whole plan, 4096 notes / 1024 notes", f"{growth:.2f} times", "aim: at most 4.4")


def bench_schools() -> None:
    for what, of in (("lick of 64 notes, positions written", lick(64)), ("64 notes, positions free", line(64))):

        def every(names: list[str], of: Phrase = of) -> None:
            forget()
            for name in names:
                plan(request(of, name))

        times = ratio(lambda: every(list(presets.schools())), lambda: every(["free"]), 5 if "written" in what else 2)
        aim = "aim: at most 6" if "written" in what else "aim: at most 7"
        row(f"{what}: all eleven schools / free alone", f"{times:.1f} times", aim)


def bench_together() -> None:
    of = lick(64)
    requests = [request(of, name) for name in presets.schools()]
    workers = Workers(2)
    workers.start()
    shares = []
    for _ in range(12):
        began = time.perf_counter()
        for each in requests:
            plan(each)
        alone = time.perf_counter() - began
        began = time.perf_counter()
        workers.plan(requests)
        shares.append((time.perf_counter() - began) / alone)
    workers.close()
    row(
        "eleven schools on two workers / one after the other",
        f"{statistics.median(shares[1:]):.2f} times",
        "aim: at most 0.75, starting the workers left out",
    )


def bench_replanning() -> None:
    of = request(line(512))
    solved = solve(of)
    _ = judge(solved), solved.lattice.backward
    note = judge(solved).notes[250]
    other = {"up": "down", "down": "up"}[note.stroke]
    pin = Pin(note.event, 0, "stroke", other)
    share = 1 / ratio(lambda: plan(of), lambda: judge(solved.pinned(pin)), 7)
    row("replanning after one pin in 512 notes / the whole plan", f"{share:.3f} times", "aim: at most 0.1")


def bench_remedies() -> None:
    of = request(lick(64), "alternate")

    def solved() -> Solved:
        made = solve(of)
        judge(made)
        return made

    times = ratio(lambda: with_remedies(solved(), presets.other_leans()), solved, 9) - 1
    count = len(judge(solved()).findings)
    row(
        f"all remedies of a 64-note plan ({count} findings) / one plan",
        f"{times:.1f} times",
        "aim: at most 3",
    )


def bench_reel() -> None:
    """The demo's reel with its repeats, where a school sets every stroke and where none is set."""
    reel = next(entry.phrase for entry in read_songbook(DEMO.read_bytes()).entries if entry.phrase.title == REEL)

    def asked(school: str) -> Callable[[], object]:
        chosen = Choices(tempo=reel.tempo, school=school)

        def act() -> None:
            with contextlib.suppress(DromicError):  # alternate cannot come round, and says so
                plan(request_for(reel, chosen, presets.players()))

        return act

    asked("free")(), asked("alternate")()
    row("the demo's reel in alternate / in free", f"{cpu_ratio(asked('alternate'), asked('free'), runs=1):.2f} times",
        "aim: at most 2")  # fmt: skip


def bench_tunes_ranked() -> None:
    """The processor's time a note of a collection ranked, beside one plan of each tune by itself."""
    tunes = tunes_of(Path(music21.__file__).parent / "corpus" / "ryansMammoth")
    tunes = tunes[:: len(tunes) // RANKED][:RANKED]
    wanted = Wanted(Choices(school="pulse"), presets.players()["fluent"])
    taken = []
    for act in (_planned, ranked):
        forget()
        began = time.process_time()
        for tune in tunes:
            act(tune, wanted)
        taken.append(time.process_time() - began)
    row(f"{len(tunes)} tunes ranked / one plan of each", f"{taken[1] / taken[0]:.2f} times", "aim: at most 1.1")


def _planned(tune: Tune, wanted: Wanted) -> None:
    with contextlib.suppress(DromicError):
        phrase = read(tune.path, tune.number)
        plan(request_for(phrase, first_choices(phrase, wanted.choices), presets.players()))


MEMORY = """
import sys
from bench.lines import line, request
from dromic.core.search.planner import plan
plan(request(line(int(sys.argv[1]))))
status = open("/proc/self/status").read()
print(next(line.split()[1] for line in status.splitlines() if line.startswith("VmHWM")))
"""


def bench_memory() -> None:
    def peak(notes: int) -> int:
        done = subprocess.run([sys.executable, "-c", MEMORY, str(notes)], check=True, capture_output=True, text=True)
        return int(done.stdout)

    base, short, long = peak(8), peak(1024), peak(4096)
    figure = f"{(long - base) / (short - base):.2f} times"
    row(
        "memory for 4096 notes / 1024 notes, each less that for 8",
        figure,
        f"aim: at most 4.4 ({long // 1024} MB in all)",
    )
