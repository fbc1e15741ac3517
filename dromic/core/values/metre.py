"""Metres and places in the beat: which stroke the swinging hand has at every moment of a bar.

Conventions: lengths and offsets are fractions of a quarter note. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from dromic.core.values.checks import check_choice, check_whole

QUARTER = Fraction(1)
UNITS = ("eighth", "sixteenth", "triplet", "compound", "compound-alternate")
_DIVISIONS_OF_BEAT = {"eighth": 2, "sixteenth": 4, "triplet": 3, "compound": 3, "compound-alternate": 3}
_FINEST = 64


@dataclass(frozen=True, slots=True)
class Metre:
    """A time signature; `groups` are the lengths of its groups in units of its lower number, for uneven metres."""

    upper: int
    lower: int
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        check_whole("upper number of the metre", self.upper, 1, 64)
        check_choice("lower number of the metre", self.lower, (1, 2, 4, 8, 16, 32))
        for group in self.groups:
            check_whole("group of the metre", group, 1, 64)
        if self.groups and sum(self.groups) != self.upper:
            object.__setattr__(self, "groups", ())

    @property
    def length(self) -> Fraction:
        """Of a bar, in quarters."""
        return Fraction(4 * self.upper, self.lower)

    @property
    def compound(self) -> bool:
        """Three eighths (or shorter) to the beat: 3, 6, 9, 12 over 8 or 16, unless the file groups it otherwise."""
        return self.lower >= 8 and self.upper % 3 == 0 and (not self.groups or set(self.groups) == {3})

    def beats(self) -> tuple[Fraction, ...]:
        """Lengths of the beats of one bar; quarters for simple metres, groups for compound and uneven ones."""
        unit = Fraction(4, self.lower)
        if self.compound:
            return (3 * unit,) * (self.upper // 3)
        if self.lower >= 8:
            groups = self.groups or (
                (2,) * (self.upper // 2 - 1) + (3,) if self.upper % 2 else (2,) * (self.upper // 2)
            )
            return tuple(g * unit for g in groups or (self.upper,))
        whole, rest = divmod(self.length, QUARTER)
        return (QUARTER,) * int(whole) + ((rest,) if rest else ())

    def beat_at(self, offset: Fraction) -> tuple[int, Fraction, Fraction]:
        """(index of the beat, its start, its length) for an offset from the bar line, beyond the bar's end included."""
        return _beat_at(self, offset)

    def __str__(self) -> str:
        return f"{self.upper}/{self.lower}"


@lru_cache(maxsize=4096)
def _beat_at(metre: Metre, offset: Fraction) -> tuple[int, Fraction, Fraction]:
    start = Fraction(0)
    beats = metre.beats()
    for index, length in enumerate(beats):
        if offset < start + length:
            return index, start, length
        start += length
    return len(beats) - 1, start - beats[-1], beats[-1]


def default_unit(metre: Metre, durations: Iterable[Fraction]) -> str:
    """The pulse unit nobody chose: compound for 6, 9, 12 over 8, sixteenth for mostly short notes, else eighth."""
    if metre.lower == 8 and metre.upper in (6, 9, 12):
        return "compound"
    lengths = list(durations)
    short = sum(1 for d in lengths if d < Fraction(1, 2))
    return "sixteenth" if 2 * short > len(lengths) else "eighth"


def _grid(unit: str, metre: Metre, beat: Fraction) -> Fraction:
    """Distance between places in a beat before it is divided further."""
    if metre.lower >= 8:
        eighths = Fraction(4, metre.lower)
        return eighths / 2 if unit == "sixteenth" else eighths
    division = 2 if unit.startswith("compound") else _DIVISIONS_OF_BEAT[unit]
    return beat / division if beat == QUARTER else QUARTER / division


def _finer(grid: Fraction, beat: Fraction, offsets: Iterable[Fraction]) -> Fraction:
    """The coarsest division of the beat, by two or for a tuplet by three (or five, seven), that holds all notes."""
    inside = list(offsets)
    if all(not o % grid for o in inside):
        return grid
    for odd in (1, 3, 5, 7, 9):
        step = grid if odd == 1 else beat / odd
        while beat / step <= _FINEST:
            if all(not o % step for o in inside):
                return step
            step /= 2
    return grid


def division(metre: Metre, unit: str, offset: Fraction, beat_offsets: Iterable[Fraction]) -> Fraction:
    """Distance between places in the beat that an offset lies in. `beat_offsets` are the offsets from the beat's start of every note
    within it, which may divide it further."""
    _, _, length = metre.beat_at(offset)
    return _finer(_grid(unit, metre, length), length, set(beat_offsets))


def place(metre: Metre, unit: str, offset: Fraction, grid: Fraction) -> int:
    """Even (down) or odd (up): the place of an offset in the bar, where places in its beat lie so far apart.

    An offset between all places (no division fits) counts to the place before it.
    """
    _, start, _ = metre.beat_at(offset)
    if unit == "compound-alternate" and metre.compound:
        return int(offset // grid)
    return int((offset - start) // grid)


def on_grid(metre: Metre, unit: str, offset: Fraction) -> bool:
    """Whether an offset lies on the chosen unit's own grid, undivided."""
    _, start, length = metre.beat_at(offset)
    return not (offset - start) % _grid(unit, metre, length)
