"""`./run bench --sittings MINUTES [--seed N]`: random sittings of a simulated player through the real window, each a process
of its own; every crash, exception, warning of the toolkit, hang, and the memory taken."""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
import time

from bench.lines import row

EACH_S = 150
"""of one sitting"""
AT_ONCE = 2
_FIRST, _MORE, _MOST_MB = 100, 1000, 50
"""commands until a sitting is warm, those over which its memory is watched, and what may come to it meanwhile"""
_GROWN: list[tuple[float, float]] = []
"""what came to the window, and to it and its processes together, in every sitting that was watched"""


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
            words = [
                sys.executable,
                "-m",
                "tests.sitting",
                str(number),
                str(each),
                *(["warm"] if number % 2 == 0 else []),
            ]
            running.append((number, subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)))
        for number, process in [r for r in running if r[1].poll() is not None]:
            running.remove((number, process))
            out, err = process.communicate()
            commands += _tell(number, process.returncode, out, err)
            bad += process.returncode != 0 or bool(json.loads(out)["faults"])
        time.sleep(0.2)
    row(f"{count} sittings, {commands} commands", f"{bad} with a fault", "aim: none")
    for name, grown in (("the window", [g[0] for g in _GROWN]), ("with its processes", [g[1] for g in _GROWN])):
        if grown:
            few = sum(mb <= _MOST_MB for mb in grown)
            told = (
                f"{statistics.median(grown):+.0f} MB, {min(grown):+.0f} to {max(grown):+.0f}, {few} of {len(grown)} met"
            )
            row(f"  {name}, at rest, from {_FIRST} commands on, every page looked at", told, f"aim: at most {_MOST_MB}")


def _tell(seed: int, code: int, out: str, err: str) -> int:
    if code:
        row(f"  seed {seed}", f"ended with {code}: {err.strip()[-1500:]}")
        return 0
    found = json.loads(out)
    at_rest = {int(n): mb for n, mb in found["mb_at_rest"].items()}  # of those that began with a look at every page
    rest = ""
    if _FIRST in at_rest:
        last = at_rest[max(n for n in at_rest if n <= _FIRST + _MORE)]
        _GROWN.append((last[0] - at_rest[_FIRST][0], sum(last) - sum(at_rest[_FIRST])))
        rest = ", ".join(f"{mb[0]:.0f} ({sum(mb):.0f}) after {n}" for n, mb in at_rest.items())
    memory = ", ".join(
        f"{'+'.join(f'{m:.0f}' for m in mb)} MB after {n}" for n, mb in list(found["mb_at"].items())[::3]
    )
    hold = f"longest standstill {found['longest_ms']:.0f} ms ({found['longest_at']})"
    gave_up = f"{found['given_up']} weighings cancelled; " if found["given_up"] else ""
    row(f"  seed {seed}: {found['commands']} commands", f"{len(found['faults'])} faults; {gave_up}{hold}; {memory}")
    if rest:
        row("    at rest, the window (and its processes)", f"{rest} MB")
    for key, words in found["faults"].items():
        row(f"    {key}", words)
    return int(found["commands"])
