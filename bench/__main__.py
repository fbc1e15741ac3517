"""`./run bench`: times the search, whole plans, growth with length, the start of the window and the tune collections.

Every line is a ratio or a figure measured in this run on this machine; aims stand beside them. `--quick` leaves the
collections out.
"""

from __future__ import annotations

import random
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import networkx as nx
import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra

from dromic import presets
from dromic.core.errors import DromicError
from dromic.core.phrase import Phrase
from dromic.core.plan import Request
from dromic.core.planner import Layers, build_layers, plan
from dromic.core.search import forward, trace
from tests.build import SIXTEENTH, phrase


def line(notes: int, seed: int = 1) -> Phrase:
    """A made-up line that wanders over the guitar."""
    maker = random.Random(seed)
    pitch, pitches = 62, []
    for _ in range(notes):
        pitch = min(80, max(44, pitch + maker.choice([-5, -4, -3, -2, -1, 1, 2, 3, 4, 5])))
        pitches.append(pitch)
    return phrase(pitches, SIXTEENTH, tempo=140)


def request(of: Phrase, school: str = "free") -> Request:
    return Request(of, presets.instruments()["guitar"], presets.players()["fluent"], presets.schools()[school])


def median_ms(
    act: Callable[[], object], runs: int = 7, pick: Callable[[list[float]], float] = statistics.median
) -> float:
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        act()
        times.append(1000 * (time.perf_counter() - began))
    return pick(times)


def edges(layers: Layers) -> tuple[np.ndarray, np.ndarray, np.ndarray, int]:
    """Every finite step as (from, to, weight), states numbered layer by layer, 0 the source and 1 the sink."""
    froms, tos, weights = [], [], []
    first, shape = 2, layers.start.shape
    ok = np.flatnonzero(np.isfinite(layers.start.ravel()))
    froms.append(np.zeros(len(ok), int))
    tos.append(first + ok)
    weights.append(layers.start.ravel()[ok])
    for step in layers.steps:
        cost = step.expanded()
        after = cost.shape[2:]
        flat = cost.reshape(shape[0] * shape[1], after[0] * after[1])
        a, b = np.nonzero(np.isfinite(flat))
        following = first + flat.shape[0]
        froms.append(first + a)
        tos.append(following + b)
        weights.append(flat[a, b])
        first, shape = following, after
    last = np.arange(shape[0] * shape[1])
    froms.append(first + last)
    tos.append(np.ones(len(last), int))
    weights.append(np.zeros(len(last)))
    return np.concatenate(froms), np.concatenate(tos), np.concatenate(weights), first + len(last)


def row(what: str, figure: str, aim: str = "") -> None:
    print(f"{what:<58} {figure:>22}   {aim}", flush=True)


def bench_search() -> None:
    wanted = request(line(64))
    layers = build_layers(wanted, ("pick",) * 64, "sixteenth")
    ours = median_ms(lambda: trace(forward(layers.start, layers.steps), layers.steps), 25, min)
    a, b, w, count = edges(layers)
    # scipy reads a stored 0 as no edge; the smallest shift that keeps order makes every weight positive
    matrix = csr_matrix((w + 1e-12, (a, b)), shape=(count, count))
    theirs = median_ms(lambda: dijkstra(matrix, indices=0, return_predecessors=True), 9, min)
    graph = nx.DiGraph()
    graph.add_weighted_edges_from(zip(a.tolist(), b.tolist(), w.tolist(), strict=True))
    reference = median_ms(lambda: nx.single_source_dijkstra(graph, 0, 1), 5, min)
    best = forward(layers.start, layers.steps).cost
    assert abs(nx.dijkstra_path_length(graph, 0, 1) - best) < 1e-9
    row("search alone, 64 notes, positions free (best of runs)", f"{ours:.1f} ms, {len(w)} edges")
    row("  networkx's Dijkstra on the same edges / ours", f"{reference / ours:.0f} times", "aim: at least 100")
    row("  scipy.sparse.csgraph's on the same edges / ours", f"{theirs / ours:.1f} times", "aim: at least 1")


def bench_plans() -> None:
    from dromic.core.fret_moves import fretting_moves

    def fresh(seed: int) -> Callable[[], object]:
        def act() -> object:
            fretting_moves.cache_clear()
            return plan(request(line(64, seed)))

        return act

    plan(request(line(8)))
    first = statistics.median(median_ms(fresh(seed), 1) for seed in range(2, 9))
    again = request(line(64))
    row("whole plan, 64 notes, tables built anew", f"{first:.0f} ms", "aim: under 100 ms")
    row("whole plan, 64 notes, tables at hand", f"{median_ms(lambda: plan(again)):.0f} ms")
    short, long = request(line(1024)), request(line(4096))
    one = median_ms(lambda: plan(short), 3)
    four = median_ms(lambda: plan(long), 3)
    row("whole plan, 4096 notes / 1024 notes", f"{four / one:.2f} times", "aim: at most 4.4")


BARE = """
import sys, numpy, scipy
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication([]); w = QWidget(); w.resize(1280, 800); w.show(); app.processEvents(); w.grab()
"""
OURS = """
import sys, tempfile, pathlib
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication
from dromic.app import theme
from dromic.app.main import demo_songbook
from dromic.app.window import MainWindow
app = QApplication([]); theme.load_fonts()
w = MainWindow(QSettings(tempfile.mkdtemp() + "/w.ini", QSettings.Format.IniFormat)); w.show()
w.open_file(demo_songbook())
while w.plan is None: app.processEvents()
w.grab(); w.close()
"""


def bench_start() -> None:
    def run(code: str) -> float:
        began = time.perf_counter()
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)
        return time.perf_counter() - began

    run(BARE), run(OURS)
    pairs = [(run(BARE), run(OURS)) for _ in range(7)]
    ratio = statistics.median(b / a for a, b in pairs)
    bare, ours = (statistics.median(p[i] for p in pairs) for i in (0, 1))
    row(
        "start to a drawn demo window / a bare window",
        f"{ratio:.2f} times",
        f"aim: at most 2 ({ours:.2f} s / {bare:.2f} s)",
    )


def bench_collections() -> None:
    import music21

    from dromic.formats.table import read, titles

    corpus = Path(music21.__file__).parent / "corpus"
    for name in ("ryansMammoth", "oneills1850"):
        planned = refused = far = notes = 0
        ceilings: list[float] = []
        reading = planning = 0.0
        for path in sorted((corpus / name).glob("*.abc")):
            for tune in range(1, len(titles(path)) + 1):
                began = time.perf_counter()
                try:
                    wanted = request(read(path, tune), "pulse")
                except DromicError:
                    refused += 1
                    continue
                finally:
                    reading += time.perf_counter() - began
                began = time.perf_counter()
                try:
                    found = plan(wanted)
                except DromicError as error:
                    assert "outside the range" in str(error), (path.name, tune, str(error))
                    far += 1
                    continue
                planning += time.perf_counter() - began
                planned += 1
                notes += len(found.notes)
                if found.ceiling is not None:
                    ceilings.append(found.ceiling)
        row(f"{name}: planned, out of range, refused", f"{planned}, {far}, {refused}")
        row(
            "  tunes a second, planned (reading apart)",
            f"{planned / planning:.1f}",
            f"{notes} notes; reading took {reading:.0f} s",
        )
        marks = np.percentile(ceilings, [5, 25, 50, 75, 95])
        row("  ceilings at 5, 25, 50, 75, 95 %", " ".join(f"{m:.0f}" for m in marks), "quarters a minute, estimates")


def main() -> None:
    assert Fraction(1, 4) == SIXTEENTH
    bench_search()
    bench_plans()
    bench_start()
    if "--quick" not in sys.argv:
        bench_collections()


main()
