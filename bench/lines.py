"""Made-up phrases to time, and how times are taken and printed."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable

from dromic import presets
from dromic.core.music.phrase import Phrase
from dromic.core.plan.request import Request
from dromic.core.search.builder import forget_hands
from dromic.core.search.planner import plan
from tests.build import SIXTEENTH, phrase


def line(notes: int, seed: int = 1) -> Phrase:
    """A made-up line that wanders over the guitar, positions left to the planner."""
    maker = random.Random(seed)
    pitch, pitches = 62, []
    for _ in range(notes):
        pitch = min(80, max(44, pitch + maker.choice([-5, -4, -3, -2, -1, 1, 2, 3, 4, 5])))
        pitches.append(pitch)
    return phrase(pitches, SIXTEENTH, tempo=140)


def lick(notes: int) -> Phrase:
    """The same line with the strings and frets that the free school gives it, as a written lick states them."""
    found = plan(request(line(notes)))
    return phrase([(n.string, n.fret) for n in found.notes], SIXTEENTH, tempo=140)


def request(of: Phrase, school: str = "free") -> Request:
    return Request(of, presets.instruments()["guitar"], presets.players()["fluent"], presets.schools()[school])


def forget() -> None:
    """Drop every table kept from plan to plan."""
    forget_hands()


def median_ms(
    act: Callable[[], object], runs: int = 7, pick: Callable[[list[float]], float] = statistics.median
) -> float:
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        act()
        times.append(1000 * (time.perf_counter() - began))
    return pick(times)


def ratio(of: Callable[[], object], to: Callable[[], object], pairs: int) -> float:
    """How many times longer one thing takes than another, run in turn so that a drifting machine slows both."""
    found = []
    for _ in range(pairs):
        base = median_ms(to, 3)
        found.append(median_ms(of, 1) / base)
    return statistics.median(found)


def cpu_ratio(of: Callable[[], object], to: Callable[[], object], pairs: int = 5, runs: int = 3) -> float:
    """The same in time of the processor, each `of` between two of so many runs of the other."""

    def took(act: Callable[[], object], times: int) -> float:
        began = time.process_time()
        for _ in range(times):
            act()
        return (time.process_time() - began) / times

    found = []
    for _ in range(pairs):
        before = took(to, runs)
        own = took(of, 1)
        found.append(2 * own / (before + took(to, runs)))
    return statistics.median(found)


def row(what: str, figure: str, aim: str = "") -> None:
    print(f"{what:<62} {figure:>26}   {aim}", flush=True)
