"""Part of `./run bench --listen`: passes heard while they are played: whether clean ones are taken for clean and others for missed,
and how long after a pass its verdict comes (a pass is judged in stretches; the last one counts)."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace

import numpy as np
from scipy.signal import fftconvolve

from bench.lines import row
from dromic import presets
from dromic.core.listening.due import due_notes
from dromic.core.listening.passes import MISSES, pass_heard, stretches
from dromic.core.listening.performance import perform
from dromic.core.listening.verdicts import Manner
from dromic.core.plan.plan import Plan
from dromic.core.search.planner import plan as planned
from dromic.core.setup.choices import Choices
from dromic.formats.table import read
from dromic.plan_requests import request_for
from dromic.presets import DATA
from dromic.sound.hearing.bleed import counted_in
from dromic.sound.hearing.pass_listening import hear_stretch
from dromic.sound.render import RenderRequest, render
from dromic.sound.take_render import LEAD_S, take_sound

TUNES, SHARES, LEVELS, SEEDS = range(1, 12), (0.5, 1.0), (0.0, 0.7), 3
_LEAD_S = 0.1
RATE = 44100
ECHOES, ECHO, NOISE, PARTING, LOST = 60, 0.05, 3e-4, 3e-5, 1300
"""of the room a microphone hears a click in: how many echoes, their level, noise, how clocks part, and samples lost"""


@dataclass(frozen=True)
class Heard:
    """A pass: what it was meant to be and was taken for (clean or not), and the seconds of the last stretch's judging."""

    clean: bool
    taken: bool
    last_s: float


def heard(tune: int, share: float, level: float, seed: int) -> Heard:
    """One pass of a whole tune at a share of its tempo."""
    settings = presets.listening()
    plan = _plan(tune)
    tempo = plan.request.phrase.tempo * share
    due = due_notes(plan, tempo)
    played = perform(due, settings, level, seed)
    samples, rate = take_sound(played, plan.request.phrase, seed)
    made, took = [], 0.0
    for stretch in stretches(due, settings.live):
        begin = LEAD_S + stretch.start_s - _LEAD_S
        part = samples[int(begin * rate) : int((LEAD_S + stretch.end_s + settings.live.margin_s) * rate)]
        began = time.perf_counter()
        made.append(hear_stretch(stretch, part, _LEAD_S, settings.live.reach_s, tempo, Manner()))
        took = time.perf_counter() - began
    found = pass_heard(made, settings.live, settings.judge.hard)
    clean = not any(one.verdict in MISSES for one in played)
    return Heard(clean, found is not None and found.clean, took)


def _plan(tune: int) -> Plan:
    phrase = read(DATA / "songs" / "copper-wren.dromic", tune)
    return planned(request_for(phrase, Choices(school="alternate", tempo=phrase.tempo), presets.players()))


def beside_a_click(tune: int, seed: int, plays: bool, lost: int) -> bool | None:
    """What a planned pass is taken for, clean or missed, None where it is not marked, while the click is in the microphone
    through a room of its own, by a clock that is 30 millionths off; so many samples are lost on the way."""
    settings, plan, chance = presets.listening(), _plan(tune), np.random.default_rng(seed)
    tempo = plan.request.phrase.tempo
    made = render(plan.request.phrase, RenderRequest(tempo, click=True, count_in=True, notes=False))
    out, onset = made.samples(), made.seconds[0]
    length = round(settings.live.bleed_s * RATE)
    way = np.zeros(length)
    way[1400 + chance.integers(0, length - 1400, ECHOES)] = chance.normal(0.0, ECHO, ECHOES)
    way[1400] = 0.5
    came = fftconvolve(out, way)[: len(out)]
    came = np.interp(np.arange(len(came)) * (1.0 + PARTING), np.arange(len(came)), came)
    if plays:
        take, _ = take_sound(perform(due_notes(plan, tempo), settings, 0.0, seed), plan.request.phrase, seed)
        at = round((onset - LEAD_S) * RATE) + 1400
        came[at : at + len(take)] += take[: len(came) - at]
    cut = round(onset * RATE) + chance.integers(0, len(came) - round(onset * RATE))
    came = np.concatenate([came[:cut], came[cut + lost :], np.zeros(lost + RATE)]) + chance.normal(
        0.0, NOISE, len(came) + RATE
    )
    end = round((onset - _LEAD_S) * RATE)
    played = np.concatenate([np.zeros(length - 1), out, np.zeros(2 * RATE)])
    bleed, start = counted_in(came[:end], played[: end + length - 1], length, None)
    if bleed is None:
        return False
    found = []
    for stretch in stretches(due_notes(plan, tempo), settings.live):
        begin, until = (
            round((onset + s) * RATE)
            for s in (stretch.start_s - _LEAD_S, stretch.end_s + settings.live.margin_s + bleed.delay / RATE)
        )
        left = bleed.without(came[begin + start : until + start], played[begin : until + length - 1])
        latency_s = _LEAD_S + bleed.delay / RATE
        one = hear_stretch(
            stretch, left.samples, latency_s, settings.live.reach_measured_s, tempo, Manner(), off=left.off
        )
        found.append(replace(one, lost_s=left.lost / RATE))
        start += left.late
    whole = pass_heard(found, settings.live, settings.judge.hard, way_known=True)
    return whole.clean if whole is not None and whole.judged else None


def bench_live() -> None:
    passes = [
        heard(t, share, level, seed) for t in TUNES for share in SHARES for level in LEVELS for seed in range(SEEDS)
    ]
    for words, meant in (("clean passes taken for clean", True), ("others taken for missed", False)):
        of = [one for one in passes if one.clean is meant]
        row(f"passes by ear: {words}", f"{sum(one.taken is meant for one in of)} of {len(of)}")
    took = 1000 * np.array([one.last_s for one in passes])
    for words, plays, lost, right in (
        ("clean passes taken for clean", True, 0, True),
        ("clean passes of which samples were lost not taken for missed", True, LOST, False),
        ("nobody plays: not marked", False, 0, None),
        ("nobody plays, and samples are lost: not marked", False, LOST, None),
    ):
        got = [beside_a_click(t, seed, plays, lost) for t in TUNES for seed in range(SEEDS)]
        fine = sum(one is right if lost == 0 or not plays else one is not right for one in got)
        row(f"  beside a click in the microphone: {words}", f"{fine} of {len(got)}")
    row("  verdict after its end", f"{np.median(took):.0f} ms, at most {took.max():.0f}", "aim: 300 ms")
