"""`./run bench --bars`: forty bars of twenty old tunes that nobody here wrote, counted for strokes that no player would choose.

A bar is odd that begins on an up-stroke, has three ups running, or an up on a beat with a down off it after it. The list is kept
(odd_bars.txt), its tunes other than those of real_tunes.txt: bars marked `choose` may be looked at when numbers are chosen, those
marked `count` are only counted. The ceiling beside it is that of the whole tunes, against the same without the price of a stroke
against the beat.
"""

from __future__ import annotations

import statistics
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path

from bench.lines import row
from bench.real_tunes import asked_at
from dromic.core.music.phrase import Phrase
from dromic.core.plan.plan import Plan
from dromic.core.search.planner import plan
from dromic.core.values.vocabulary import DOWN, UP

LIST = Path(__file__).with_name("odd_bars.txt")
TEMPOS, SCHOOLS = (60, 90, 120), ("free", "economy", "pulse")
MOST, FALLS = 6, 0.03
"""odd bars of forty at each tempo, and the share by which the mean ceiling may fall"""


@dataclass(frozen=True)
class Bars:
    """Two bars of a tune, by their numbers in its file, and what they are for."""

    use: str
    path: str
    number: int
    bars: tuple[int, ...]


def listed() -> Iterator[Bars]:
    """The forty bars, two of each tune."""
    for line in LIST.read_text().splitlines():
        if line and not line.startswith("#"):
            use, path, number, *bars = line.split()
            yield Bars(use, path, int(number), tuple(int(bar) for bar in bars))


def without_graces(phrase: Phrase) -> Phrase:
    """The same tune with its grace notes left out."""
    return replace(phrase, events=tuple(event for event in phrase.events if not event.grace))


def tune(of: Bars) -> Phrase:
    """A tune of the list as it is asked for."""
    import music21

    from dromic.formats.table import read

    return without_graces(read(Path(music21.__file__).parent / "corpus" / of.path, of.number))


def strokes(of: Plan, bar: int) -> list[tuple[bool, str]]:
    """(whether on a beat, stroke) of every struck event of a bar, by its place in the phrase."""
    phrase = of.request.phrase
    found: dict[int, tuple[bool, str]] = {}
    for note in of.notes:
        event = phrase.events[note.event]
        if event.bar == bar and note.stroke in (DOWN, UP):
            metre = phrase.bars[bar].metre
            _, start, _ = metre.beat_at(phrase.bars[bar].offset_of(event.onset))
            found[note.event] = (phrase.bars[bar].offset_of(event.onset) == start, note.stroke)
    return [found[chord] for chord in sorted(found)]


def odd(bar: list[tuple[bool, str]]) -> str:
    """Why a bar is odd, empty where it is not."""
    word = "".join("DU"[s == UP] for _, s in bar)
    if word.startswith("U"):
        return f"begins up: {word}"
    if "UUU" in word:
        return f"three ups: {word}"
    turned = any(on and s == UP and not off and t == DOWN for (on, s), (off, t) in pairwise(bar))
    return f"turned around: {word}" if turned else ""


def _counted(case: tuple[Bars, str, int]) -> tuple[list[str], float, float]:
    """The odd bars of a tune in a school at a tempo, its ceiling, and that without the price."""
    bars, school, tempo = case
    request = asked_at(tune(bars), school, float(tempo))
    judging = replace(request.player.judging, beat_price=0.0)
    bare = plan(replace(request, player=replace(request.player, judging=judging)))
    found = plan(request)
    said = []
    for number in bars.bars:
        why = odd(strokes(found, number))
        if why:
            said.append(
                f"{Path(bars.path).stem} {bars.number} bar {found.request.phrase.bars[number].number} {school} at {tempo}: {why}"
            )
    return said, found.ceiling or 0.0, bare.ceiling or 0.0


def bench_odd_bars(told: bool = False) -> None:
    """Print how many bars are odd in each school at each tempo, and what the ceiling loses; with `told` which they are."""
    every = list(listed())
    for school in SCHOOLS:
        for tempo in TEMPOS:
            with ProcessPoolExecutor(2) as pool:
                results = list(pool.map(_counted, [(bars, school, tempo) for bars in every]))
            loss = statistics.mean(c for _, c, _ in results) / statistics.mean(b for _, _, b in results) - 1
            uses = [bars.use for bars in every]
            parts = {
                u: sum(len(r[0]) for r, use in zip(results, uses, strict=True) if use == u) for u in ("choose", "count")
            }
            row(
                f"odd bars of 40, {school} at {tempo}",
                f"{sum(parts.values())} ({parts['choose']} + {parts['count']}), ceiling {loss:+.1%}",
                f"aim: {MOST}, {-FALLS:.0%}" if school == "free" else "",
            )
            for said in (line for r in results for line in r[0]) if told else ():
                print(f"    {said}")
