"""How notes are spelled in a key: which letter, with which sign.

Source: the harmonic chromatic scale of any primer of harmony (flat second, sixth and seventh, minor and major third,
sharp fourth), which is twelve neighbours on the line of fifths, from five below the tonic to six above it.
"""

from __future__ import annotations

from dromic.core.harmony.musical_keys import Key
from dromic.core.values.pitch import STEPS

_BELOW = 5
_LETTERS = "FCGDAEB"
"""in fifths, F one below C"""
_MINOR_TONIC = 3
"""fifths from the major tonic of a signature to its minor one"""


def spelled(pitch: int, key: Key | None) -> tuple[str, int, int]:
    """A note number as (letter, semitones its sign raises it, octave of the letter); without a key, as in C major."""
    tonic = 0 if key is None else key.fifths + (_MINOR_TONIC if key.mode == "minor" else 0)
    fifths = (pitch * 7 - tonic + _BELOW) % 12 + tonic - _BELOW
    letter = _LETTERS[(fifths + 1) % 7]
    alter = (fifths + 1) // 7
    return letter, alter, (pitch - alter - STEPS[letter]) // 12 - 1
