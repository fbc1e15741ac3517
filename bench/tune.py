"""`python -m bench.tune MINUTES SEED`: searches for numbers of the hand with which more signed answers come out.

One of the numbers below after the other, in an order of chance, takes some values within its range; a change is kept if the
score is higher, or as high by chance. The score counts the odd lines of the cases, a few more of common practice, and one half
of the published chords; the even lines and the other half are only printed. Nothing is written.
"""

from __future__ import annotations

import random
import sys
import time
from dataclasses import replace
from typing import Any

from dromic import presets
from dromic.core.hands.fretting_moves import fretting_moves
from dromic.core.hands.shape_facts import FrettingTask
from dromic.core.prices.price_list import PRICES
from dromic.core.search.planner import judge, solve
from dromic.core.setup.player import Player
from dromic.core.values.errors import DromicError
from tests.cases import Case, cases
from tests.chords import Chord, chords

CHORD_WEIGHT = 150.0
"""what all chords of a half count beside one for each case"""
CHORDS_TRIED = 500
"""of a half, the same ones in every step"""
PRACTICE: tuple[dict[str, Any], ...] = (
    {"line": "4.2:e 4.4 3.1 3.2 3.4 2.1 2.3 2.4", "instrument": "bass4", "school": "pulse", "accept": ["2 4 1 2 4 1 3 4"]},
    {"line": "4.5:e 4.7 3.4 3.5 3.7 2.4 2.6 2.7", "instrument": "bass4", "school": "pulse", "accept": ["2 4 1 2 4 1 3 4"]},
    {
        "line": "5.0:e 5.2 5.3 4.0 4.2 4.3 3.0 3.2 | 2.0 2.1 2.3 r r:h", "instrument": "guitar", "school": "pulse",
        "accept": ["0 2 3 0 2 3 0 2 0 1 3"],
    },
    {"line": "6.0+5.0+4.0:q 6.3+5.3+4.3", "instrument": "guitar-drop-d", "school": "downs", "accept": ["0/0/0 1/1/1"]},
)  # fmt: skip
"""more of common practice, no source: one position on a bass, finger n on fret n, the index across low strings"""
VALUES_TRIED = 4
RANGES: dict[str, tuple[float, float]] = {
    "fretting.free_share": (0.5, 0.75),
    "fretting.one_per_fret_price": (0.03, 0.14),
    "fretting.closed_share": (0.4, 1.0),
    "fretting.index_off_price": (0.06, 0.4),
    "fretting.stretch_price": (0.05, 0.4),
    "fretting.crowd_price": (0.02, 0.12),
    "fretting.little_price": (0.0, 0.08),
    "fretting.offsets_mm.1": (26, 36),
    "fretting.offsets_mm.2": (50, 64),
    "fretting.offsets_mm.3": (74, 92),
    "fretting.spread_mm.0": (26, 40),
    "fretting.spread_mm.1": (18, 28),
    "fretting.spread_mm.2": (16, 26),
    "fretting.spread_prices.0": (0.02, 0.25),
    "fretting.spread_prices.1": (0.2, 0.9),
    "fretting.spread_prices.2": (0.2, 1.0),
    "fretting.barre_prices.0": (0.04, 0.35),
    "fretting.barre_prices.1": (0.6, 1.8),
    "fretting.barre_prices.2": (0.3, 1.6),
    "fretting.barre_prices.3": (0.4, 1.8),
    "fretting.barre_string_price": (0.0, 0.6),
    "fretting.spare_price": (0.0, 1.0),
    "fretting.roll_prices.0": (0.02, 0.1),
    "fretting.roll_prices.1": (0.03, 0.2),
    "fretting.roll_prices.2": (0.03, 0.2),
    "fretting.roll_prices.3": (0.05, 0.3),
    "fretting.jump_price": (0.1, 0.4),
    "fretting.shift_price": (0.15, 0.6),
    "fretting.shift_price_per_mm": (0.002, 0.01),
    "fretting.guide_share": (0.3, 1.0),
    "fretting.cross_price": (0.2, 0.8),
    "fretting.order_price": (0.1, 0.6),
    "fretting.tip_step_strings": (0.2, 1.5),
    "fretting.off_line_price": (0.0, 0.06),
    "fretting.reshape_price": (0.1, 0.6),
    "fretting.arrive_price": (0.0, 0.1),
    "fretting.travel_price_per_mm": (0.0005, 0.006),
    "fretting.weak_34_price": (0.02, 0.2),
    "fretting.weak_24_price": (0.0, 0.12),
    "fretting.open_position_price": (0.05, 0.4),
    "fretting.bend_prices.1": (0.08, 0.3),
    "fretting.bend_prices.3": (0.15, 0.5),
}


def _get(player: Player, name: str) -> float:
    part, field, *at = name.split(".")
    value = getattr(getattr(player, part), field)
    return float(value[int(at[0])] if at else value)


def _with(player: Player, name: str, value: float) -> Player:
    part, field, *at = name.split(".")
    group = getattr(player, part)
    new: Any = value
    if at:
        values = list(getattr(group, field))
        values[int(at[0])] = value
        new = tuple(values)
    return replace(player, **{part: replace(group, **{field: new})})


def cases_right(some: list[Case], player: Player) -> list[str]:
    """The names of those whose plan is signed."""
    return [case.name for case in some if case.right(judge(solve(case.request(player))))]


def chords_right(some: list[Chord], player: Player) -> int:
    """How many come out as published, told from the cheapest shape alone, which is the plan of a lone chord."""
    fretting = fretting_moves(presets.instruments()["guitar"], player, PRICES).fretting
    right = 0
    for chord in some:
        strings, frets = tuple(s for s, _ in chord.places), tuple(f for _, f in chord.places)
        instrument = fretting.instrument
        pitches = tuple(instrument.pitch_at(s, f) for s, f in chord.places)
        task = FrettingTask(pitches, strings, frets, tuple(None for _ in pitches))
        try:
            shapes = fretting.shapes(task, chord.name)
        except DromicError:
            continue
        best = min(shapes, key=lambda s: s.strain)
        right += tuple(str(n.finger) for n in best.notes) == chord.fingers
    return right


def main() -> None:
    """The walk."""
    minutes, seed = float(sys.argv[1]), int(sys.argv[2])
    rng = random.Random(seed)
    every, published = cases(), chords()
    practice = [
        Case(0, {"id": p["line"], "kind": "fingers", "tempo": 100, "keep": ["positions", "attacks"], **p})
        for p in PRACTICE
    ]
    odd = [c for c in every if c.number % 2] + practice
    even = [c for c in every if not c.number % 2]
    chosen, other = published[::2], published[1::2]
    tried = chosen[:: max(1, len(chosen) // CHORDS_TRIED)]

    def score(player: Player) -> float:
        return len(cases_right(odd, player)) + CHORD_WEIGHT * chords_right(tried, player) / len(tried)

    best = presets.players()["fluent"]
    top = score(best)
    print(f"start {top:.2f}", flush=True)
    end, steps, waiting = time.monotonic() + 60 * minutes, 0, list[str]()
    while time.monotonic() < end:
        if not waiting:
            waiting = rng.sample(sorted(RANGES), len(RANGES))
        name = waiting.pop()
        low, high = RANGES[name]
        for _ in range(VALUES_TRIED):
            steps += 1
            player = _with(best, name, float(f"{rng.uniform(low, high):.2g}"))
            found = score(player)
            if found > top or (found == top and rng.random() < 0.3):
                if found > top:
                    print(f"{steps}: {found:.2f} {name} {_get(player, name):g}", flush=True)
                best, top = player, found
    print(
        f"{steps} steps; odd {len(cases_right(odd, best))} of {len(odd)}, even {len(cases_right(even, best))} of {len(even)}"
    )
    print(
        f"chords chosen by {chords_right(chosen, best) / len(chosen):.3f}, others {chords_right(other, best) / len(other):.3f}"
    )
    for name in sorted(RANGES):
        print(f"{name} = {_get(best, name):g}")


if __name__ == "__main__":
    main()
