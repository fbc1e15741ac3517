"""`./run bench --sittings MINUTES [--seed N]`: random sittings of a simulated player through the real window, each a process
of its own; every crash, exception, warning of the toolkit, hang, and the memory taken."""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

from bench.journal import Journal, asked_journal
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
    each = min(_number("--each", EACH_S), minutes * 60)
    count = max(1, round(minutes * 60 / each))
    journal = asked_journal()
    bad = commands = 0
    with ThreadPoolExecutor(AT_ONCE) as pool:
        seeds = range(seed, seed + count)
        for number, (code, out, err) in zip(seeds, pool.map(lambda n: _known(journal, n, each), seeds), strict=True):
            commands += _tell(number, code, out, err)
            bad += code != 0 or bool(json.loads(out)["faults"])
    row(f"{count} sittings, {commands} commands", f"{bad} with a fault", "aim: none")
    for name, grown in (("the window", [g[0] for g in _GROWN]), ("with its processes", [g[1] for g in _GROWN])):
        if grown:
            few = sum(mb <= _MOST_MB for mb in grown)
            told = (
                f"{statistics.median(grown):+.0f} MB, {min(grown):+.0f} to {max(grown):+.0f}, {few} of {len(grown)} met"
            )
            row(f"  {name}, at rest, from {_FIRST} commands on, every page looked at", told, f"aim: at most {_MOST_MB}")


def _number(option: str, otherwise: float) -> float:
    return float(sys.argv[sys.argv.index(option) + 1]) if option in sys.argv else otherwise


def _known(journal: Journal, seed: int, each: float) -> tuple[int, str, str]:
    """(how it ended, what it printed, what it complained of) of one sitting."""

    def play() -> tuple[int, str, str]:
        words = [sys.executable, "-m", "tests.sitting", str(seed), str(each), *(["warm"] if seed % 2 == 0 else [])]
        done = subprocess.run(words, capture_output=True, text=True, check=False)
        return done.returncode, done.stdout, done.stderr

    code, out, err = journal.of(f"sitting {seed} {each:g}", play)
    return code, out, err


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
