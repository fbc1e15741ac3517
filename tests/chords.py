"""Published guitar chord fingerings, and whether a plan of the chord alone comes out as published.

The chords of the npm package @tombatossals/chords-db 0.5.1 (MIT): `data/chords.txt`, licence beside it.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from dromic import presets
from dromic.core.music.phrase import Bar, Event, Note, Phrase
from dromic.core.plan.plan import Plan
from dromic.core.plan.request import Request
from dromic.core.setup.player import Player
from dromic.core.values.metre import Metre

FILE = Path(__file__).parent / "data" / "chords.txt"


@dataclass(frozen=True)
class Chord:
    """A chord as published: places (string, fret) from the lowest string up, and the finger on each."""

    name: str
    places: tuple[tuple[int, int], ...]
    fingers: tuple[str, ...]

    def request(self, player: Player | None = None) -> Request:
        """The chord alone, struck down."""
        instrument = presets.instruments()["guitar"]
        notes = tuple(Note(instrument.pitch_at(s, f), Fraction(4), s, f) for s, f in self.places)
        bars = (Bar(1, Fraction(0), Fraction(4), Metre(4, 4)),)
        phrase = Phrase(title=self.name, events=(Event(Fraction(0), notes),), bars=bars, tempo=100.0)
        return Request(phrase, instrument, player or presets.players()["fluent"], presets.schools()["downs"])

    def right(self, plan: Plan) -> bool:
        """Whether a plan's fingers are those published."""
        by_string = {n.string: n.finger for n in plan.notes}
        return tuple(by_string[s] for s, _ in self.places) == self.fingers


def chords() -> list[Chord]:
    """All of them, in the order of the file."""
    return [_chord(line) for line in FILE.read_text().splitlines() if not line.startswith("#")]


def _chord(line: str) -> Chord:
    name, frets, fingers = line.split(";")
    held = [(6 - n, f, g) for n, (f, g) in enumerate(zip(frets.split(), fingers.split(), strict=True)) if f != "x"]
    return Chord(name, tuple((s, int(f)) for s, f, _ in held), tuple(g for _, _, g in held))
