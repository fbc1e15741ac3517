"""Whole plans: one school, all schools, growth with length, replanning after a pin, remedies."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time

from bench.lines import forget, lick, line, median_ms, ratio, request, row
from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.questions.remedies import with_remedies
from dromic.core.search.planner import Solved, judge, plan, solve
from dromic.core.setup.pin import Pin
from dromic.plan_workers import Workers


def bench_plans() -> None:
    plan(request(line(8)))

    def fresh(of: Phrase) -> None:
        forget()
        plan(request(of))

    first = statistics.median(median_ms(lambda s=s: fresh(line(64, s)), 1) for s in range(2, 9))
    again = request(line(64))
    row("whole plan, 64 notes, positions free, tables built anew", f"{first:.0f} ms", "aim: under 100 ms")
    row("whole plan, 64 notes, positions free, tables at hand", f"{median_ms(lambda: plan(again)):.0f} ms")
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
        aim = "aim: at most 8" if "written" in what else "aim: at most 12"
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
        _ = made.plan
        return made

    times = ratio(lambda: with_remedies(solved(), presets.other_leans()), solved, 9) - 1
    count = len(judge(solved()).findings)
    row(
        f"all remedies of a 64-note plan ({count} findings) / one plan",
        f"{times:.1f} times",
        "aim: at most 5",
    )


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
