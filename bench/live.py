"""Part of `./run bench --listen`: passes heard while they are played: whether clean ones are taken for clean and others for missed,
and how long after a pass its verdict comes (a pass is judged in stretches; the last one counts)."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np

from bench.lines import row
from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.passes import MISSES, pass_heard, stretches
from dromic.core.listening.performance import perform
from dromic.core.listening.verdicts import Manner
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.formats.table import read
from dromic.plan_requests import request_for
from dromic.presets import DATA
from dromic.sound.hearing.pass_listening import hear_stretch
from dromic.sound.take_render import LEAD_S, take_sound

TUNES, SHARES, LEVELS, SEEDS = range(1, 12), (0.5, 1.0), (0.0, 0.7), 3
_LEAD_S = 0.1


@dataclass(frozen=True)
class Heard:
    """A pass: what it was meant to be and was taken for (clean or not), and the seconds of the last stretch's judging."""

    clean: bool
    taken: bool
    last_s: float


def heard(tune: int, share: float, level: float, seed: int) -> Heard:
    """One pass of a whole tune at a share of its tempo."""
    settings = presets.listening()
    phrase = read(DATA / "songs" / "copper-wren.dromic", tune)
    plan = planned(request_for(phrase, Choices(school="alternate", tempo=phrase.tempo), presets.players()))
    tempo = phrase.tempo * share
    due = due_notes(plan, tempo)
    played = perform(due, settings, level, seed)
    samples, rate = take_sound(played, plan.request.phrase, seed)
    made, took = [], 0.0
    for stretch in stretches(due, settings.live):
        begin = LEAD_S + stretch.start_s - _LEAD_S
        part = samples[int(begin * rate) : int((LEAD_S + stretch.end_s + settings.live["margin_s"]) * rate)]
        began = time.perf_counter()
        made.append(hear_stretch(stretch, part, _LEAD_S, settings.live["reach_s"], tempo, Manner()))
        took = time.perf_counter() - began
    found = pass_heard(made, settings.live, settings.judge["hard"])
    clean = not any(one.verdict in MISSES for one in played)
    return Heard(clean, found is not None and found.clean, took)


def bench_live() -> None:
    passes = [
        heard(t, share, level, seed) for t in TUNES for share in SHARES for level in LEVELS for seed in range(SEEDS)
    ]
    for words, meant in (("clean passes taken for clean", True), ("others taken for missed", False)):
        of = [one for one in passes if one.clean is meant]
        row(f"passes by ear: {words}", f"{sum(one.taken is meant for one in of)} of {len(of)}")
    took = 1000 * np.array([one.last_s for one in passes])
    row("  verdict after its end", f"{np.median(took):.0f} ms, at most {took.max():.0f}", "aim: 300 ms")
