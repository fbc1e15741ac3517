"""`./run bench`: prints the benchmark table. Every line is measured in this run on this machine; aims stand beside.

`--quick` leaves the tune collections out; `--slow` adds 40,000 broken files, `--fuzz` tries them alone; `--sittings
MINUTES` plays at random in the window, from `--seed N` on, `--each SECONDS` at a time; `--kills` kills windows at work (with
`--journal FILE` a run of these three that was broken off goes on); `--learning` has drawn players practise for a month;
`--ladder` has learners of another law practise by the ladder and by
simple rules (`--choose` with the seeds that choose numbers);
`--listen` hears takes of known truth; `--holds` times standstills; `--abc` reads tune books beside abc2midi (`--all` names
every tune that differs); `--midi` reads rhythms played with a jitter; `--practice` times drills and the log; `--peers` has
engravers read scores; `--rooms` says where the time of a plan goes; `--same` tells whether plans are what they were
(`--write FILE`, `--against FILE`); `--rank` orders a collection; `--tunes` asks sixty old
tunes for tempos that fit and others (`--all` names what does not hold); `--bars` counts bars that no player would stroke so
(`--all` names them); `--rates` sets ceilings beside what a teacher believes; `--cases` counts signed cases
and published chords; `--fit` fits the fretting hand's numbers to them, each fold left out once (`--write` keeps the
folds'); `--sensitivity` prints the table of docs/model.md instead.
"""

from __future__ import annotations

import sys
from collections.abc import Callable

from bench.abc import bench_abc
from bench.cases import bench_cases
from bench.fit import bench_fit
from bench.fuzz import bench_fuzz
from bench.holds import bench_holds
from bench.kills import bench_kills
from bench.ladder import bench_ladder
from bench.learning import bench_learning
from bench.listen import bench_listen
from bench.midi import bench_midi
from bench.odd_bars import bench_odd_bars
from bench.peers import bench_peers
from bench.plans import (
    bench_memory,
    bench_plans,
    bench_reel,
    bench_remedies,
    bench_replanning,
    bench_schools,
    bench_together,
    bench_tunes_ranked,
)
from bench.practice import bench_log_kills, bench_practice
from bench.ranking import bench_ranking
from bench.rates import bench_rates
from bench.real_tunes import bench_real_tunes
from bench.rooms import bench_rooms
from bench.same import bench_same
from bench.search import bench_search
from bench.sensitivity import print_sensitivity
from bench.sittings import bench_sittings
from bench.start import bench_start
from bench.tunes import bench_collections
from bench.window import bench_window
from dromic.processes import settle


def _number(option: str, otherwise: float) -> float:
    """What follows an option."""
    return float(sys.argv[sys.argv.index(option) + 1]) if option in sys.argv else otherwise


def _kills() -> None:
    bench_kills(_number("--share", 1.0))
    bench_log_kills(_number("--share", 1.0))


ALONE: dict[str, Callable[[], None]] = {
    "--sensitivity": print_sensitivity,
    "--sittings": lambda: bench_sittings(_number("--sittings", 10.0), int(_number("--seed", 1))),
    "--same": bench_same,
    "--rooms": bench_rooms,
    "--midi": bench_midi,
    "--peers": bench_peers,
    "--abc": lambda: bench_abc("--all" in sys.argv),
    "--cases": bench_cases,
    "--rates": bench_rates,
    "--fit": lambda: bench_fit("--write" in sys.argv),
    "--holds": bench_holds,
    "--practice": bench_practice,
    "--ladder": bench_ladder,
    "--listen": bench_listen,
    "--rank": bench_ranking,
    "--learning": bench_learning,
    "--kills": _kills,
    "--fuzz": bench_fuzz,
    "--bars": lambda: bench_odd_bars("--all" in sys.argv),
    "--tunes": lambda: bench_real_tunes("--all" in sys.argv),
}
"""what is measured by itself"""
BESIDE = ("--quick", "--slow", "--seed", "--share", "--all", "--journal", "--each", "--write", "--against")
"""what says more about it"""


def main() -> None:
    asked = [word for word in sys.argv[1:] if word.startswith("-")]
    if unknown := [word for word in asked if word not in (*ALONE, *BESIDE)]:
        print(__doc__)
        sys.exit(0 if unknown[0] in ("--help", "-h") else f"{unknown[0]} is none of these.")
    alone = next((ALONE[word] for word in asked if word in ALONE), None)
    if alone is not None:
        alone()
        return
    settle()  # as the application and the command line do once they are loaded
    for part in (
        bench_search,
        bench_plans,
        bench_schools,
        bench_together,
        bench_replanning,
        bench_remedies,
        bench_reel,
        bench_tunes_ranked,
        bench_memory,
        bench_start,
        bench_window,
        bench_practice,
    ):
        part()
    if "--quick" not in sys.argv:
        bench_collections()
    if "--slow" in sys.argv:
        bench_fuzz()


if __name__ == "__main__":
    main()
