"""Chords by their notes and by their names, and what a note is in the chord it sounds in: one written over the phrase, one struck
together, or one whose notes come one after another.

Common practice; spellings as lead sheets have them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from dromic.core.music.phrase import Event, Phrase
from dromic.core.values.pitch import SHARP_NAMES, STEPS

QUALITIES: tuple[tuple[str, tuple[int, ...], tuple[str, ...]], ...] = (
    ("power", (0, 7), ("5",)),
    ("major", (0, 4, 7), ("", "maj", "M")),
    ("minor", (0, 3, 7), ("m", "min", "-")),
    ("seventh", (0, 4, 7, 10), ("7",)),
    ("minor seventh", (0, 3, 7, 10), ("m7", "min7", "-7")),
    ("major seventh", (0, 4, 7, 11), ("maj7", "M7")),
    ("diminished", (0, 3, 6), ("dim", "o")),
    ("half-diminished", (0, 3, 6, 10), ("m7b5",)),
    ("diminished seventh", (0, 3, 6, 9), ("dim7", "o7")),
    ("augmented", (0, 4, 8), ("aug", "+")),
    ("suspended second", (0, 2, 7), ("sus2",)),
    ("suspended fourth", (0, 5, 7), ("sus4", "sus")),
    ("sixth", (0, 4, 7, 9), ("6",)),
    ("minor sixth", (0, 3, 7, 9), ("m6", "min6")),
    ("ninth", (0, 2, 4, 7, 10), ("9",)),
    ("added ninth", (0, 2, 4, 7), ("add9",)),
)
"""name, semitones over the root, and how it is written after the root's letter"""
_TONES = {
    0: "root", 1: "flat 9th", 2: "9th", 3: "minor 3rd", 4: "3rd", 5: "4th", 6: "flat 5th", 7: "5th", 8: "sharp 5th", 9: "6th",
    10: "7th", 11: "major 7th",
}  # fmt: skip
_WRITTEN = re.compile(r"([A-G])([#b]?)([^\s/:;,]*)(?:/[A-G][#b]?)?(?=\s*(?:[:;,]|$))")
_BY_SUFFIX = {suffix: (name, shape) for name, shape, suffixes in QUALITIES for suffix in suffixes}
_BY_SHAPE = {frozenset(shape): name for name, shape, _ in QUALITIES}
Stretches = dict[tuple[int, Fraction, Fraction], "Chord | None"]
"""what the notes of a stretch of a bar make, by the bar's index, start and end"""
_FEWEST = 3
"""notes of different names that must come one after another to be an arpeggio"""


@dataclass(frozen=True, slots=True)
class Chord:
    """A chord: the pitch class of its root, 0 for C, what kind it is, and the pitch classes of its notes."""

    root: int
    name: str
    notes: frozenset[int]
    written: str = ""
    """as the player wrote it"""

    @property
    def words(self) -> str:
        """The chord as it is said."""
        return self.written or f"{SHARP_NAMES[self.root]} {self.name}"

    def tone(self, pitch: int) -> str:
        """What a note is in it; empty where it is none of its notes."""
        return _TONES[(pitch - self.root) % 12] if pitch % 12 in self.notes else ""


def written_chord(words: str) -> Chord | None:
    """The chord that words begin with (Am7, F#dim, G/B); None where they begin with none."""
    match = _WRITTEN.match(words)
    if match is None or match[3] not in _BY_SUFFIX:
        return None
    name, shape = _BY_SUFFIX[match[3]]
    root = (STEPS[match[1]] + {"#": 1, "b": -1, "": 0}[match[2]]) % 12
    return Chord(root, name, frozenset((root + step) % 12 for step in shape), match[0])


def chord_of(pitches: tuple[int, ...]) -> Chord | None:
    """The chord that some notes make, the lowest of them its root if that can be; None where they make none."""
    classes = frozenset(p % 12 for p in pitches)
    lowest = min(pitches, default=0) % 12
    for root in sorted(classes, key=lambda c: (c != lowest, c)):
        name = _BY_SHAPE.get(frozenset((c - root) % 12 for c in classes))
        if name is not None:
            return Chord(root, name, classes)
    return None


def chords_of(phrase: Phrase) -> tuple[Chord | None, ...]:
    """The chord that each event sounds in: the one written over the phrase last; else what is struck together; else what the notes
    of its beat, its half bar or its bar make, coming one after another."""
    found: list[Chord | None] = []
    written: Chord | None = None
    stretches: Stretches = {}
    by_bar: dict[int, list[Event]] = {}
    for event in phrase.events:
        by_bar.setdefault(event.bar, []).append(event)
    for event in phrase.events:
        written = _written_at(event) or written
        found.append(written or _sounding(phrase, event, by_bar[event.bar], stretches))
    return tuple(found)


def chord_at(phrase: Phrase, number: int) -> Chord | None:
    """The chord that one event sounds in, the same as `chords_of` has there."""
    event = phrase.events[number]
    written = next((c for e in reversed(phrase.events[: number + 1]) if (c := _written_at(e)) is not None), None)
    return written or _sounding(phrase, event, [e for e in phrase.events if e.bar == event.bar], {})


def _written_at(event: Event) -> Chord | None:
    """The chord written over an event; of several the last."""
    return next((c for n in reversed(event.notes) if n.words and (c := written_chord(n.words)) is not None), None)


def _sounding(phrase: Phrase, event: Event, bar: list[Event], known: Stretches) -> Chord | None:
    """The chord that is struck together, or that the notes around make."""
    struck = chord_of(tuple(n.pitch for n in event.notes)) if len(event.notes) > 1 else None
    return struck or _arpeggio(phrase, event, bar, known)


def _arpeggio(phrase: Phrase, event: Event, bar: list[Event], known: Stretches) -> Chord | None:
    """What the notes around an event make: of its bar, of half of it, of its beat."""
    measure = phrase.bars[event.bar]
    half = measure.length / 2
    offset = event.onset - measure.start
    at, length = measure.metre.beat_at(measure.offset_of(event.onset))[1:]
    beat = at + measure.start - measure.lead
    for start, end in (
        (measure.start, measure.end),
        (measure.start + (half if offset >= half else 0), measure.start + (half if offset < half else measure.length)),
        (beat, beat + length),
    ):
        place = (event.bar, start, end)
        if place not in known:
            pitches = tuple(n.pitch for e in bar if start <= e.onset < end for n in e.notes)
            enough = len({p % 12 for p in pitches}) >= _FEWEST
            known[place] = chord_of(pitches) if enough else None
        if known[place] is not None:
            return known[place]
    return None
