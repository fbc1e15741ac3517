"""`./run bench --sittings MINUTES [--seed N]`: random sittings of a simulated player through the real window, each a process
of its own; every crash, exception, warning of the toolkit, hang, and the memory taken."""

from __future__ import annotations

import json
import subprocess
import sys
import time

from bench.lines import row

EACH_S = 130
"""of one sitting"""
AT_ONCE = 2


def bench_sittings(minutes: float, seed: int) -> None:
    """Sittings with the seeds from `seed` on, two at a time, until so many minutes of them are done."""
    count = max(1, round(minutes * 60 / EACH_S))
    each = min(EACH_S, minutes * 60)
    waiting = list(range(seed, seed + count))
    running: list[tuple[int, subprocess.Popen[str]]] = []
    bad = commands = 0
    while waiting or running:
        while waiting and len(running) < AT_ONCE:
            number = waiting.pop(0)
            words = [sys.executable, "-m", "tests.sitting", str(number), str(each)]
            running.append((number, subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)))
        for number, process in [r for r in running if r[1].poll() is not None]:
            running.remove((number, process))
            out, err = process.communicate()
            commands += _tell(number, process.returncode, out, err)
            bad += process.returncode != 0 or bool(json.loads(out)["faults"])
        time.sleep(0.2)
    row(f"{count} sittings, {commands} commands", f"{bad} with a fault", "aim: none")


def _tell(seed: int, code: int, out: str, err: str) -> int:
    if code:
        row(f"  seed {seed}", f"ended with {code}: {err.strip()[-1500:]}")
        return 0
    found = json.loads(out)
    memory = ", ".join(
        f"{'+'.join(f'{m:.0f}' for m in mb)} MB after {n}" for n, mb in list(found["mb_at"].items())[::3]
    )
    hold = f"longest standstill {found['longest_ms']:.0f} ms ({found['longest_at']})"
    gave_up = f"{found['given_up']} weighings cancelled; " if found["given_up"] else ""
    row(f"  seed {seed}: {found['commands']} commands", f"{len(found['faults'])} faults; {gave_up}{hold}; {memory}")
    for key, words in found["faults"].items():
        row(f"    {key}", words)
    return int(found["commands"])
