"""Note numbers, names and frequencies.

Sources: note numbers as in the MIDI 1.0 specification (middle C = 60, here named C4); A4 = 440 Hz as in ISO 16;
equal temperament, twelve steps of 2^(1/12) to the octave.
"""

from __future__ import annotations

import re

from dromic.core.values.errors import DromicError

A4_NUMBER = 69
A4_HZ = 440.0
STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
SHARP_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
_NAME = re.compile(r"([A-Ga-g])([#b]{0,2})(-?\d{1,2})")


def frequency_hz(number: float) -> float:
    """Frequency in Hz of a note number."""
    return float(A4_HZ * 2.0 ** ((number - A4_NUMBER) / 12.0))


def note_name(number: int) -> str:
    """Name of a note number with its octave, sharps only: 60 is C4."""
    return f"{SHARP_NAMES[number % 12]}{number // 12 - 1}"


def note_number(name: str) -> int:
    """Note number of a name such as E2, F#3 or Bb1; DromicError if it is not one or lies outside 0..127."""
    match = _NAME.fullmatch(name.strip())
    if not match:
        raise DromicError(f"{name!r} is not a note name; write a letter, an optional # or b, and an octave, as in F#3")
    letter, marks, octave = match.groups()
    number = 12 * (int(octave) + 1) + STEPS[letter.upper()] + marks.count("#") - marks.count("b")
    if not 0 <= number <= 127:
        raise DromicError(f"the note {name} lies outside the range C-1 to G9")
    return number
