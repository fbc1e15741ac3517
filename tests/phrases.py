"""Phrases of every sort for hypothesis, as a player might have written them: the same ones for every format."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from hypothesis import strategies as st

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note, Phrase, Section, Swing
from dromic.core.values.metre import Metre
from dromic.core.values.vocabulary import ATTACKS, FINGERS, MARKS, STROKES

GUITAR = presets.instruments()["guitar"]
LENGTHS = [Fraction(n) for n in ("1/4", "1/2", "1", "3/4", "3/2", "2", "1/3", "1/6", "1/8", "4/5")]
METRES = [Metre(4, 4), Metre(3, 4), Metre(6, 8), Metre(7, 8, (2, 2, 3)), Metre(5, 4)]
TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=12)


# every strategy is made once: made anew for every note they took longer than what they tried
FRET, CHANCE, SIXTH = st.integers(0, 15), st.booleans(), st.integers(0, 5)
FINGER, ATTACK, STROKE = (st.none() | st.sampled_from(words) for words in (FINGERS, ATTACKS, STROKES))
MARK = st.frozensets(st.sampled_from(sorted(MARKS)), max_size=3)
BEND, TREMOLO = st.sampled_from([0.0, 0.0, 0.5, 1.0, 2.0]), st.sampled_from([0, 0, 0, 2])
WORDS = st.sampled_from(["", "", "", "relax", 'it\'s \\ "here": a+b | c'])
DOUBT = st.sampled_from([0, 0, 0, 1, -2])
BARS, TURNS, TEMPO = st.integers(1, 4), st.integers(2, 3), st.integers(40, 240)
METRE, PACE, LENGTH = st.sampled_from(METRES), st.sampled_from([1.0, 1.0, 1.0, 0.75, 1.25]), st.sampled_from(LENGTHS)
SOUNDS = st.sampled_from([Fraction(1), Fraction(1), Fraction(1, 2), Fraction(2)])
STRINGS = st.lists(st.integers(1, 6), min_size=1, max_size=3, unique=True)
SWING = st.sampled_from([Swing(), Swing(Fraction(1, 2), Fraction(2))])
SECTIONS = st.sampled_from([(), (Section("A", 0, 0), Section("B", 1, 1))])
KEY, SCHOOL = st.sampled_from([None, "D", "F#m"]), st.none() | st.sampled_from(["alternate", "sweep"])


def notes(draw: Any, string: int, duration: Fraction, plain: bool) -> Note:
    fret = draw(FRET)
    placed = draw(CHANCE)
    pitch = GUITAR.pitch_at(string, fret)
    place: dict[str, Any] = {"string": string, "fret": fret} if placed else {}
    if plain:
        return Note(pitch, duration, **place)
    return Note(
        pitch,
        duration,
        finger=draw(FINGER),
        attack=draw(ATTACK),
        stroke=draw(STROKE),
        marks=draw(MARK),
        bend=draw(BEND),
        tremolo=draw(TREMOLO),
        words=draw(WORDS),
        doubt=draw(DOUBT),
        **place,
    )


@st.composite
def phrases(draw: Any, plain: bool = False) -> Phrase:
    """Up to four bars; `plain` ones hold nothing but notes and rests."""
    bars: list[Bar] = []
    start = Fraction(0)
    count = draw(BARS)
    metre = draw(METRE)
    pickup = draw(CHANCE) and count > 1
    for n in range(count):
        if not plain and n and draw(CHANCE):
            metre = draw(METRE)
        length = Fraction(1) if pickup and n == 0 else metre.length
        pace = 1.0 if plain or not n else draw(PACE)
        bars.append(Bar(n if pickup else n + 1, start, length, metre, metre.length - length, pace=pace))
        start += length
    if not plain and draw(CHANCE):
        last = draw(SIXTH) % count
        bars = _repeated(bars, last, draw(TURNS))
    events: list[Event] = []
    now = Fraction(0)
    while now < start:
        length = draw(LENGTH)
        if draw(SIXTH):
            sound = length if plain else length * draw(SOUNDS)
            made = [notes(draw, s, sound, plain) for s in draw(STRINGS)]
            kept = {n.pitch: n for n in sorted(made, key=lambda n: (n.pitch, -(n.string or 0)))}
            bar = next(i for i, b in enumerate(bars) if now < b.end)
            events.append(Event(now, tuple(kept[p] for p in sorted(kept)), bar))
        now += length
    return Phrase(
        title=draw(TEXT),
        events=tuple(events),
        bars=tuple(bars),
        tempo=float(draw(TEMPO)),
        tempo_stated=True,
        swing=Swing() if plain else draw(SWING),
        sections=() if plain or count < 2 else draw(SECTIONS),
        instrument=GUITAR,
        key=None if plain else draw(KEY),
        school=None if plain else draw(SCHOOL),
    )


def _repeated(bars: list[Bar], last: int, times: int) -> list[Bar]:
    from dataclasses import replace

    found = list(bars)
    found[0] = replace(found[0], repeat_start=True)
    found[last] = replace(found[last], repeat_times=times)
    if 0 < last < len(bars) - 1:
        found[last] = replace(found[last], endings=tuple(range(1, times)))
        found[last + 1] = replace(found[last + 1], endings=(times,))
    return found
