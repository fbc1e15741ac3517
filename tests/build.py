"""Small builders of phrases and requests for tests."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Swing
from dromic.core.music.stated_positions import resolve_positions
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.search.planner import Pace, plan, solve
from dromic.core.values.metre import Metre
from dromic.core.values.pitch import note_number
from dromic.formats.table import read

SIXTEENTH, EIGHTH, QUARTER = Fraction(1, 4), Fraction(1, 2), Fraction(1)


def note(what: Any, duration: Fraction, attack: str | None = None, stroke: str | None = None) -> Note:
    """A note from a (string, fret) on a guitar, a name or a number."""
    if isinstance(what, tuple):
        string, fret = what
        return Note(
            presets.instruments()["guitar"].pitch_at(string, fret), duration, string, fret, None, attack, stroke
        )
    pitch = note_number(what) if isinstance(what, str) else what
    return Note(pitch, duration, None, None, None, attack, stroke)


def phrase(
    notes: list[Any],
    durations: Fraction | list[Fraction] = SIXTEENTH,
    *,
    tempo: float = 120.0,
    metre: Metre | None = None,
    attacks: dict[int, str] | None = None,
    strokes: dict[int, str] | None = None,
    pickup: Fraction = Fraction(0),
    swing: Swing | None = None,
) -> Phrase:
    """A line of notes (a list inside is a chord, None a rest), bars laid out by the metre."""
    metre = metre or Metre(4, 4)
    lengths = durations if isinstance(durations, list) else [durations] * len(notes)
    total = sum(lengths, Fraction(0))
    bars, start, number = [], Fraction(0), 0 if pickup else 1
    while start < total or not bars:
        length = pickup if pickup and not bars else metre.length
        bars.append(Bar(number, start, length, metre, metre.length - length))
        start, number = start + length, number + 1
    events, at = [], Fraction(0)
    for i, (what, length) in enumerate(zip(notes, lengths, strict=True)):
        if what is not None:
            bar = next(b for b, entry in enumerate(bars) if entry.start <= at < entry.end)
            chord = what if isinstance(what, list) else [what]
            attack, stroke = (attacks or {}).get(i), (strokes or {}).get(i)
            made = tuple(sorted((note(w, length, attack, stroke) for w in chord), key=lambda n: n.pitch))
            events.append(Event(at, made, bar))
        at += length
    return Phrase("test", tuple(events), tuple(bars), tempo, True, swing or Swing())


def request(line: Phrase, school: str = "free", **options: Any) -> Request:
    """A request with the starting instruments and players by name."""
    instrument = presets.instruments()[options.pop("instrument", "guitar")]
    player = presets.players()[options.pop("player", "fluent")]
    if lean := options.pop("lean", None):
        player = player.with_leans(presets.leans()[lean])
    return Request(resolve_positions(line, instrument), instrument, player, presets.schools()[school], **options)


def planned(line: Phrase, school: str = "free", **options: Any) -> Plan:
    return plan(request(line, school, **options))


def cost(line: Phrase, school: str = "free", **options: Any) -> float:
    """What the cheapest route costs at the phrase's own tempo, whether it fits there or not: what laws of the search are about."""
    return solve(request(line, school, **options), pace=Pace(line.tempo)).route.cost


def strokes(found: Plan) -> str:
    """Strokes of the events as one word: D, U, a dot for none."""
    leads = {n.event: n.stroke for n in found.notes}
    return "".join({"down": "D", "up": "U", "none": "."}.get(s, s) for s in leads.values())


def fingers(found: Plan) -> str:
    return "".join(n.finger for n in found.notes)


def long_phrase(count):
    """The demo's first phrase over and over."""
    base = read(presets.DATA / "songs" / "copper-wren.dromic", 1)
    events, bars, at = [], [], Fraction(0)
    while len(events) < count:
        first = len(bars)
        bars += [replace(b, number=first + n + 1, start=at + b.start) for n, b in enumerate(base.bars)]
        events += [replace(e, onset=at + e.onset, bar=first + e.bar) for e in base.events]
        at += base.end
    return replace(base, title="long", events=tuple(events), bars=tuple(bars), sections=())


def expanded(step, ways: int):
    """Every cost of a step of the search, [K', R', K, R], from so many source ways: what its relaxation must agree with."""
    return np.array([[step.ahead(k, r) for r in range(ways)] for k in range(step.nodes)])
